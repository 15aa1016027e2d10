import { randomId } from '../api/ids';
import { isChain } from '@oscillum/core/chain';
import * as THREE from 'three';
import type { GuidePoint } from '../stage/hair';
import type { Stage } from '../stage/stage';
import { shakeWith } from '../state/shake';
import type { DrawnMotion, Shaken, ShakeHow } from '../state/shaken';
import { selectShot, type Dispatch, type State } from '../state/store';
import { viewSlice } from '../state/view';

/** What a hand holds, and the path it has drawn so far: one entry a frame. */
interface Held {
  /** What is shown for a path, from the frame it began on. */
  shaken: (first: number, path: readonly (readonly number[])[]) => Shaken;
  readonly first: number;
  path: (readonly number[])[];
  /** What the hand asks for now, and what it asks for at a place of the page. */
  target: readonly number[];
  readonly reading: (clientX: number, clientY: number) => readonly number[];
  /** Whether it played before it was grabbed. */
  readonly played: boolean;
  ticking: number;
}

/** Degrees that a drag of one pixel turns by. */
const A_PIXEL = 0.35;
/** Pixels from a joint within which a press takes the whole figure. */
const ON_FIGURE = 70;
/** Pixels about a press on a cloth or on hair that a hand takes along; and how near to hair a press takes it. */
const HAND = 40;
const ON_HAIR = 16;
const WORLD = [
  [1, 0, 0],
  [0, 1, 0],
  [0, 0, 1],
] as const;

/**
 * Taking hold of something on the stage and shaking it: while the tool is on, a press on a chain's joint takes hold of
 * its link, one on hair or a cloth of a patch of it, and a press on any other joint moves or turns that joint, or the
 * whole figure. The shot plays, and every frame that passes notes where the hand is. The shot answers at once; letting
 * go leaves it to be kept or dropped.
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
    const { view } = this.store.getState();
    if (!view.shaking || e.button !== 0) return;
    const take =
      view.shakeHow.takes === 'figure' ? null : (this.pullAt(e) ?? this.hairAt(e) ?? this.clothAt(e));
    const grip = take ?? this.bodyAt(e);
    if (!grip) return;
    // Neither the camera nor the picking of joints gets this press.
    e.stopImmediatePropagation();
    this.host.setPointerCapture(e.pointerId);
    const target = grip.reading(e.clientX, e.clientY);
    // Of the frame that is being shown: rounded up it would seem to have gone back at the next look.
    const first = Math.floor(view.frame);
    this.held = { ...grip, first, path: [target], target, played: view.playing, ticking: 0 };
    this.store.dispatch(viewSlice.actions.playingSet(true));
    this.tick();
  };

  /** Takes hold of a chain's link. */
  private pullAt(e: PointerEvent): Pick<Held, 'shaken' | 'reading'> | null {
    const state = this.store.getState();
    const { strength, slip } = state.view.shakeHow;
    const joint = this.stage.jointAt(e.clientX, e.clientY);
    const part = Object.values(selectShot(state)?.parts ?? {})
      .filter(isChain)
      .find((p) => !p.muted && p.joints.some((j) => j.node === joint));
    if (joint === null || !part) return null;
    const place = this.stage.planeThrough(joint);
    // A joint is the end of the link before it; the root stays where its source is and cannot be pulled.
    const link = part.joints.findIndex((j) => j.node === joint) - 1;
    if (!place || link < 0) return null;
    const id = randomId(8);
    return {
      reading: place,
      shaken: (first, path) => ({
        kind: 'pull',
        partId: part.id,
        pull: {
          ...{ id, link, along: 1, first, strength, slip },
          path: path.map(([x, y, z]): [number, number, number] => [x!, y!, z!]),
        },
      }),
    };
  }

  /** Takes hold of hair, by the point of a guide that is nearest on the picture. */
  private hairAt(e: PointerEvent): Pick<Held, 'shaken' | 'reading'> | null {
    const state = this.store.getState();
    let [best, far] = [null as { part: string; grabbed: GuidePoint } | null, ON_HAIR];
    for (const part of Object.values(selectShot(state)?.parts ?? {})) {
      if (part.kind !== 'strands' || part.muted) continue;
      for (const grabbed of this.stage.hair.points(part.id)) {
        const [x, y] = this.stage.surface.toPage(Float64Array.from(grabbed.at));
        const d = Math.hypot(x! - e.clientX, y! - e.clientY);
        if (d < far) [best, far] = [{ part: part.id, grabbed }, d];
      }
    }
    if (!best) return null;
    const { part, grabbed } = best;
    const { guide, along } = grabbed;
    const place = new THREE.Vector3(...grabbed.at);
    const reach = HAND / this.stage.surface.pixelsPerMetre(place);
    return this.pulling(part, place, reach, { guide, along });
  }

  /** A pull of a part from a place on, by what is taken of it. */
  private pulling(
    partId: string,
    place: THREE.Vector3,
    reaches: number,
    of: { vertex: number } | { guide: number; along: number },
  ): Pick<Held, 'shaken' | 'reading'> {
    const { strength, slip }: ShakeHow = this.store.getState().view.shakeHow;
    const id = randomId(8);
    const reach = Number(reaches.toPrecision(3));
    return {
      reading: this.stage.planeAt(place),
      shaken: (first, path) => ({
        ...{ kind: 'pull', partId },
        pull: {
          ...{ id, ...of, reach, first, strength, slip },
          path: path.map(([x, y, z]): [number, number, number] => [x!, y!, z!]),
        },
      }),
    };
  }

  /** Takes hold of a cloth, about as much of it as a hand covers on the picture. */
  private clothAt(e: PointerEvent): Pick<Held, 'shaken' | 'reading'> | null {
    const state = this.store.getState();
    for (const part of Object.values(selectShot(state)?.parts ?? {})) {
      if (part.kind !== 'cloth' || part.muted) continue;
      const hit = this.stage.surface.at(e.clientX, e.clientY, part.mesh.node);
      if (!hit) continue;
      return this.pulling(part.id, hit.point, HAND / hit.pixelsPerMetre, { vertex: hit.vertex });
    }
    return null;
  }

  /** Takes hold of a joint that the clip moves, or of the figure by its first joint. */
  private bodyAt(e: PointerEvent): Pick<Held, 'shaken' | 'reading'> | null {
    const { view } = this.store.getState();
    const { takes, by, still } = view.shakeHow;
    const whole = takes === 'figure';
    const near = this.stage.jointAt(e.clientX, e.clientY, whole ? ON_FIGURE : undefined);
    const character = this.stage.character();
    if (near === null || !character) return null;
    const joint = whole ? character.joints[0]! : near;
    const stillAt = still ? Math.floor(view.frame) : null;
    const place = this.stage.planeThrough(near);
    if (!place) return null;
    const begun = place(e.clientX, e.clientY);
    const axes = by === 'move' ? WORLD : this.turnAxes(joint);
    const reading =
      by === 'move'
        ? (x: number, y: number) => place(x, y).map((v, a) => v - begun[a]!)
        : (x: number, y: number) => [(x - e.clientX) * A_PIXEL, (y - e.clientY) * A_PIXEL];
    const drawn = (first: number, values: DrawnMotion['values']): DrawnMotion => ({
      ...{ path: by === 'move' ? 'translation' : 'rotation', axes, first, values, stillAt },
    });
    const { name } = character.nodes[joint]!;
    return {
      reading,
      shaken: (first, path) => ({ kind: 'body', joint, name, drawn: drawn(first, path) }),
    };
  }

  /** In a joint's own space: up, about which a drag sideways turns it, and the picture's right, for one up or down. */
  private turnAxes(joint: number): DrawnMotion['axes'] {
    const { turn, right } = this.stage.axesAt(joint);
    const back = turn.clone().invert();
    return [new THREE.Vector3(0, 1, 0), right].map((v): [number, number, number] =>
      v.clone().applyQuaternion(back).toArray(),
    );
  }

  private readonly move = (e: PointerEvent) => {
    if (!this.held) return;
    e.stopImmediatePropagation();
    this.held.target = this.held.reading(e.clientX, e.clientY);
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
    const { first, path } = held;
    const frame = Math.floor(view.frame);
    const last = first + path.length - 1;
    // It came round to the start, or was stopped: what is recorded is recorded.
    if (frame < last || !view.playing) return this.letGo();
    if (frame > last) {
      const from = path.at(-1)!;
      const more = Array.from({ length: frame - last }, (_, k) => {
        const share = (k + 1) / (frame - last);
        return from.map((x, a) => x + share * (held.target[a]! - x));
      });
      held.path = [...path, ...more];
      this.store.dispatch(shakeWith(held.shaken(first, held.path)));
    }
    held.ticking = requestAnimationFrame(this.tick);
  };

  private letGo(): void {
    const { held } = this;
    this.held = null;
    if (!held) return;
    cancelAnimationFrame(held.ticking);
    if (!held.played) this.store.dispatch(viewSlice.actions.playingSet(false));
    if (held.path.length > 1)
      this.store.dispatch(viewSlice.actions.shaken(held.shaken(held.first, held.path)));
  }
}
