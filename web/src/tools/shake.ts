import { randomId } from '../api/ids';
import { isChain, type Pull } from '@oscillum/core/chain';
import type { Stage } from '../stage/stage';
import { shakeWith } from '../state/edits';
import { selectShot, type Dispatch, type State } from '../state/store';
import { viewSlice } from '../state/view';

/** What a hand holds: the link of a part, and the path it has drawn so far, one place a frame. */
interface Held {
  partId: string;
  pull: Pull;
  /** Where the hand is, m. */
  target: [number, number, number];
  /** From the page to the plane through the grabbed joint that faces the camera. */
  place: (clientX: number, clientY: number) => [number, number, number];
  /** Whether it played before it was grabbed. */
  played: boolean;
  ticking: number;
}

/**
 * Grabbing a chain on the stage and shaking it: while the tool is on, a press on a chain's joint takes hold of its
 * link, the shot plays, and every frame that passes notes where the hand is. The shot answers at once; letting go
 * leaves the pull to be kept or dropped.
 */
export class ShakeTool {
  private held: Held | null = null;

  constructor(
    private readonly host: HTMLElement,
    private readonly stage: Stage,
    private readonly store: { dispatch: Dispatch; getState: () => State },
  ) {
    host.addEventListener('pointerdown', this.down, true);
    host.addEventListener('pointermove', this.move, true);
    host.addEventListener('pointerup', this.up, true);
    host.addEventListener('pointercancel', this.up, true);
  }

  dispose(): void {
    this.letGo();
    this.host.removeEventListener('pointerdown', this.down, true);
    this.host.removeEventListener('pointermove', this.move, true);
    this.host.removeEventListener('pointerup', this.up, true);
    this.host.removeEventListener('pointercancel', this.up, true);
  }

  private readonly down = (e: PointerEvent) => {
    const state = this.store.getState();
    const shot = selectShot(state);
    const joint = this.stage.jointAt(e.clientX, e.clientY);
    if (!state.view.shaking || e.button !== 0 || joint === null || !shot) return;
    const part = Object.values(shot.parts)
      .filter(isChain)
      .find((p) => !p.muted && p.joints.some((j) => j.node === joint));
    const place = this.stage.planeThrough(joint);
    // A joint is the end of the link before it; the root stays where its source is and cannot be pulled.
    const link = (part?.joints.findIndex((j) => j.node === joint) ?? 0) - 1;
    if (!part || !place || link < 0) return;
    // Neither the camera nor the picking of joints gets this press.
    e.stopImmediatePropagation();
    this.host.setPointerCapture(e.pointerId);
    const target = place(e.clientX, e.clientY);
    // Of the frame that is being shown: rounded up it would seem to have gone back at the next look.
    const first = Math.floor(state.view.frame);
    this.held = {
      partId: part.id,
      pull: {
        id: randomId(8),
        link,
        along: 1,
        first,
        path: [target],
        strength: 6,
        slip: 1e5,
      },
      target,
      place,
      played: state.view.playing,
      ticking: 0,
    };
    this.store.dispatch(viewSlice.actions.playingSet(true));
    this.tick();
  };

  private readonly move = (e: PointerEvent) => {
    if (!this.held) return;
    e.stopImmediatePropagation();
    this.held.target = this.held.place(e.clientX, e.clientY);
  };

  private readonly up = (e: PointerEvent) => {
    if (!this.held) return;
    e.stopImmediatePropagation();
    this.letGo();
  };

  /** Notes where the hand is for the frames that have passed since last asked. */
  private readonly tick = () => {
    const { held } = this;
    if (!held) return;
    const { view } = this.store.getState();
    const { first, path } = held.pull;
    const frame = Math.floor(view.frame);
    const last = first + path.length - 1;
    // It came round to the start, or was stopped: what is recorded is recorded.
    if (frame < last || !view.playing) return this.letGo();
    if (frame > last) {
      const from = path.at(-1)!;
      const more = Array.from({ length: frame - last }, (_, k) => {
        const share = (k + 1) / (frame - last);
        return from.map((x, a) => x + share * (held.target[a]! - x)) as [number, number, number];
      });
      held.pull = { ...held.pull, path: [...path, ...more] };
      this.store.dispatch(shakeWith(held.partId, held.pull));
    }
    held.ticking = requestAnimationFrame(this.tick);
  };

  private letGo(): void {
    const { held } = this;
    this.held = null;
    if (!held) return;
    cancelAnimationFrame(held.ticking);
    if (!held.played) this.store.dispatch(viewSlice.actions.playingSet(false));
    if (held.pull.path.length > 1)
      this.store.dispatch(viewSlice.actions.shaken({ partId: held.partId, pull: held.pull }));
  }
}
