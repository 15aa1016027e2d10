import type { Frames } from '../../frames/index';
import type { Env, PartRun, RunNeeds } from '../kind';
import { bearing } from '../borne';
import { groundOf, type Ground } from '../ground';
import type { ClothPart } from './document';
import type { ClothLayout } from './layout';
import { SheetRun } from './sheetRun';
import type { SheetSource } from './source';

/** Names of the readouts of a sheet with lines: how hard the one pulls that pulls hardest, N. */
export const STRING_READOUTS = ['tension'] as const;

/** A sheet of a mesh: its vertices go where its points do. */
class ClothRun extends SheetRun {
  grownOn(node: number): Ground | null {
    const layout = this.track.layout as ClothLayout;
    if (node !== layout.node) return null;
    const { pointOf } = (layout.detail ?? layout).sheet;
    return groundOf(pointOf, (frame) => this.strays(this.amountAt(frame)), this.shell());
  }

  protected put(frames: Frames, f: number, off: Float64Array): void {
    const { skin, track, cloth } = this;
    const { pointOf } = (track.layout.detail ?? track.layout).sheet;
    const wide = frames.pointed.reduce((n, p) => n + p.vertices, 0);
    const { points } = frames;
    let at = 3 * (f * wide + frames.parts[this.index]!.points.from);
    for (let v = 0; v < pointOf.length; v++) {
      const o = 3 * pointOf[v]!;
      points[at++] = skin[o]! + off[o]!;
      points[at++] = skin[o + 1]! + off[o + 1]!;
      points[at++] = skin[o + 2]! + off[o + 2]!;
    }
    const { readouts } = frames.parts[this.index]!;
    if (readouts.length > 0)
      frames.readouts[f * frames.readoutNames.length + readouts.from] = cloth.tension();
  }

  // Vertices have places on whole frames alone.
  writeAt(): void {}
}

export function makeClothRun(needs: RunNeeds<ClothPart, ClothLayout, SheetSource>, env: Env): PartRun {
  const { layout } = needs.track;
  const { sheet } = layout.detail ?? layout;
  const bear = bearing(env.character, layout.node, sheet.pointOf, needs.track, needs.runs);
  return new ClothRun({ ...needs, bear, pulls: needs.part.pulls }, env);
}
