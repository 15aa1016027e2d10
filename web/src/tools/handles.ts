import type { Stage } from '../stage/stage';
import type { Handle } from '../stage/handle';
import { change, preview, sentenceOf } from '../state/edits';
import type { Dispatch, State } from '../state/store';
import * as THREE from 'three';

/** How near to a handle a press takes hold of it, px. */
const NEAR = 11;

interface Held {
  handle: Handle;
  /** From the page to the plane through the handle that faces the camera. */
  place: (clientX: number, clientY: number) => THREE.Vector3;
  moved: boolean;
}

/** Drags handles of colliders and forces on the stage; the shot answers while they move, and it is one edit. */
export class HandleTool {
  private held: Held | null = null;
  /** Whether the pointer is over a handle. */
  private near = false;

  constructor(
    private readonly host: HTMLElement,
    private readonly stage: Stage,
    private readonly store: { dispatch: Dispatch; getState: () => State },
    private readonly say: (sentence: string) => void,
  ) {
    host.addEventListener('pointerdown', this.down, true);
    host.addEventListener('pointermove', this.move, true);
    host.addEventListener('pointerup', this.up, true);
    host.addEventListener('pointercancel', this.up, true);
  }

  dispose(): void {
    this.host.removeEventListener('pointerdown', this.down, true);
    this.host.removeEventListener('pointermove', this.move, true);
    this.host.removeEventListener('pointerup', this.up, true);
    this.host.removeEventListener('pointercancel', this.up, true);
  }

  private readonly down = (e: PointerEvent) => {
    const handle = e.button === 0 ? this.stage.handleAt(e.clientX, e.clientY, NEAR) : null;
    if (!handle) return;
    // Neither the camera nor the picking of joints gets this press.
    e.stopImmediatePropagation();
    this.host.setPointerCapture(e.pointerId);
    const through = this.stage.planeAt(handle.at);
    this.held = { handle, place: (x, y) => new THREE.Vector3(...through(x, y)), moved: false };
  };

  private readonly move = (e: PointerEvent) => {
    const { held } = this;
    if (!held) {
      const near = e.buttons === 0 && this.stage.handleAt(e.clientX, e.clientY, NEAR) !== null;
      if (near) e.stopImmediatePropagation();
      if (near !== this.near) this.host.style.cursor = near ? 'grab' : '';
      this.near = near;
      return;
    }
    e.stopImmediatePropagation();
    held.moved = true;
    const place = held.place(e.clientX, e.clientY);
    this.try(() => this.store.dispatch(preview((d) => held.handle.put(d, place))));
  };

  private readonly up = (e: PointerEvent) => {
    const { held } = this;
    if (!held) return;
    e.stopImmediatePropagation();
    this.held = null;
    if (!held.moved) return;
    const place = held.place(e.clientX, e.clientY);
    this.try(() => this.store.dispatch(change(held.handle.name, (d) => held.handle.put(d, place))));
  };

  private try(run: () => void): void {
    try {
      run();
    } catch (error) {
      this.say(sentenceOf(error));
    }
  }
}
