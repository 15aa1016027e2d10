import type { BodyString } from '../../solver/soft/index';
import { anchorsOf, carryPlace } from '../borne';
import type { Anchor, Env, PartRun, PartTrack } from '../kind';
import { rowAt } from '../rows';
import type { BodyLayout } from './layout';
import type { BodySource } from './source';

/** The strings of a body, and where the joints that they hang on are. */
export class Strings {
  readonly all: readonly BodyString[];
  private readonly rows: readonly Float64Array[];
  private readonly carriers: readonly (readonly Anchor[])[];
  private readonly placed = new Float64Array(7);

  constructor(track: PartTrack<BodyLayout, BodySource>, env: Env, runs: readonly PartRun[]) {
    const { strings, touch } = track.layout;
    const links = anchorsOf(track, runs);
    this.all = strings.map(({ point, length }) => ({
      point: touch.place[point]!,
      length,
      anchor: new Float64Array(3),
    }));
    this.rows = strings.map(({ joint }) => env.track.joints.get(joint)!);
    this.carriers = strings.map(({ joint }) => links.get(joint) ?? []);
  }

  /** Puts the far ends where their joints are at a moment, in rows. */
  go(moment: number): void {
    const row = Math.floor(moment + 1e-9);
    this.all.forEach(({ anchor }, k) => {
      rowAt(this.placed, this.rows[k]!, 7, row, Math.max(0, moment - row));
      anchor.set(this.placed.subarray(0, 3));
      carryPlace(anchor, this.carriers[k]!);
    });
  }
}
