/** A tool that has presses on the stage before anyone else, with a ring as large as its brush. */
export abstract class OverStage {
  protected readonly ring = document.createElement('div');
  protected readonly label = document.createElement('div');

  constructor(protected readonly host: HTMLElement) {
    this.ring.className = 'brush-ring';
    this.label.className = 'brush-label';
    this.ring.append(this.label);
    host.append(this.ring);
  }

  /** Begins to listen: once what it works with is there. */
  protected begin(): void {
    this.listen('addEventListener');
  }

  dispose(): void {
    this.listen('removeEventListener');
    this.host.style.cursor = '';
    this.ring.remove();
  }

  protected abstract readonly down: (e: PointerEvent) => void;
  protected abstract readonly move: (e: PointerEvent) => void;
  protected abstract readonly up: (e: PointerEvent) => void;
  protected abstract readonly key: (e: KeyboardEvent) => void;

  /** Around the stage, so that a press is the tool's before it is anyone else's. */
  private listen(how: 'addEventListener' | 'removeEventListener'): void {
    const around = this.host.parentElement!;
    around[how]('pointerdown', this.down as EventListener, true);
    around[how]('pointermove', this.move as EventListener, true);
    around[how]('pointerup', this.up as EventListener, true);
    around[how]('pointercancel', this.up as EventListener, true);
    this.host[how]('pointerleave', this.leave);
    window[how]('keydown', this.key as EventListener, true);
  }

  protected on(e: Event): boolean {
    return e.target instanceof Node && this.host.contains(e.target);
  }

  /** Puts the ring about the pointer, so many px across. */
  protected showRing(e: PointerEvent, size: number, text: string): void {
    const r = this.host.getBoundingClientRect();
    Object.assign(this.ring.style, {
      display: 'block',
      left: `${e.clientX - r.left - size / 2}px`,
      top: `${e.clientY - r.top - size / 2}px`,
      width: `${size}px`,
      height: `${size}px`,
    });
    this.host.style.cursor = 'none';
    this.label.textContent = text;
  }

  protected readonly leave = (): void => {
    if (this.ring.style.display === 'none') return;
    this.ring.style.display = 'none';
    this.host.style.cursor = '';
  };
}

/** A key makes the brush so many times as large. */
const LARGER = 1.2;

/** What a key does to a brush: how many times as large and as strong it makes it, or that it ends; null for nothing. */
export function brushKey(e: KeyboardEvent): { larger: number; stronger: number } | 'ends' | null {
  if ((e.target as HTMLElement | null)?.matches('input, select, textarea')) return null;
  if (e.key === 'Escape') return 'ends';
  if (e.code !== 'Comma' && e.code !== 'Period') return null;
  const by = e.code === 'Period' ? LARGER : 1 / LARGER;
  return e.altKey ? { larger: 1, stronger: by } : { larger: by, stronger: 1 };
}
