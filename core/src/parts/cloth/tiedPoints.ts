import { restWorld, type Character } from '../../character/index';
import { matRotation, quatConjugate, quatRotate } from '../../math/index';
import { heldPoints, type Sheet } from '../../sheets/index';
import type { ClothPart, Tie } from './document';

/** A tie found on a character: the points that it takes, and where each rests in the space of the joint, file units. */
export interface TiedPoints {
  readonly tie: Tie;
  readonly points: Int32Array;
  readonly local: Float64Array;
}

/** The joints that a cloth is tied to, and the other cloths. */
export const tieJoints = ({ ties }: Pick<ClothPart, 'ties'>): number[] =>
  ties.flatMap(({ to }) => (to.by === 'joint' ? [to.joint.node] : []));
export const tieParts = ({ ties }: Pick<ClothPart, 'ties'>): string[] =>
  ties.flatMap(({ to }) => (to.by === 'cloth' ? [to.part] : []));

/** The points that the ties of a cloth take: a point has one tie, the first. */
export function tiedPoints(
  character: Character,
  { mesh, ties }: Pick<ClothPart, 'mesh' | 'ties'>,
  sheet: Sheet,
): TiedPoints[] {
  const taken = new Uint8Array(sheet.points);
  const world = restWorld(character);
  return ties.map((tie) => {
    const held = heldPoints(character, mesh.node, [tie.what], sheet);
    const points = Int32Array.from(held.keys()).filter((p) => held[p] && !taken[p]);
    for (const p of points) taken[p] = 1;
    const local = new Float64Array(3 * points.length);
    if (tie.to.by === 'joint') {
      const m = 16 * tie.to.joint.node;
      const back = new Float64Array(4);
      matRotation(back, 0, world, m);
      quatConjugate(back, 0, back, 0);
      points.forEach((p, k) => {
        for (let a = 0; a < 3; a++) local[3 * k + a] = sheet.rest[3 * p + a]! - world[m + 12 + a]!;
        quatRotate(local, 3 * k, back, 0, local, 3 * k);
      });
    }
    return { tie, points, local };
  });
}
