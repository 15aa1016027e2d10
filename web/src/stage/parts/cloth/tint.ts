import type { ClothPart } from '@oscillum/core/cloth';
import { settingAt } from '../../../state/settingAt';
import { minds, readWeightMap } from '@oscillum/core/model';
import { lengthOf } from '@oscillum/core/sheets';
import { clearances, layerGaps } from '@oscillum/core/simulate';
import { framesAt } from '../../../sim/picture';
import type { Tint } from '../../../state/view';
import type { Standing } from '../kind';
import { heldBy } from './held';
import { ofPoints, wornOn, type Worn } from './skin';

/** An edge that is longer by this share is as dark as can be. */
const LONGEST = 0.1;
/** Layers this many times as far from each other as they keep are not tinted. */
const APART = 1.5;

/** How dark each point of a cloth is, 0 to 1, by one thing that is shown of it. */
const SHARES: Partial<Record<Tint, (part: ClothPart, worn: Worn, at: Standing) => ArrayLike<number>>> = {
  stray: (part, worn, at) => {
    const reach = lengthOf(worn.sheet, heldBy(part, at.character, worn)) * at.shot.character.metresPerUnit;
    return strays(worn).map((d) => d / Math.max(reach / 2, 1e-9));
  },
  leash: (part, worn, { frame }) => {
    const leash = settingAt(part, 'leash', frame);
    const map = part.maps.leash ? readWeightMap(part.maps.leash) : null;
    return strays(worn).map((d, p) => d / Math.max(leash * (map ? map[worn.vertexOf[p]!]! : 1), 1e-9));
  },
  stretch: (_, worn, { shot }) => stretched(worn, shot.character.metresPerUnit),
  contact: (part, worn, at) => {
    const thick = Math.max(settingAt(part, 'thickness', at.frame), 1e-6);
    const standing = touched(part, at);
    const { metresPerUnit } = at.shot.character;
    const clear = clearances(
      at.character,
      standing,
      at.posed.source,
      metresPerUnit,
      ofPoints(worn, worn.now),
    );
    // Where it rests on its thickness it is light; a tenth deeper has a contour, and at the surface itself it is dark.
    return clear.map((d) => (1.15 * thick - d) / thick);
  },
  layers: (_, worn, { shot }) => {
    const { metresPerUnit } = shot.character;
    const places = ofPoints(worn, worn.now).map((x) => x / metresPerUnit);
    return layerGaps(worn.sheet, places).map((gap) => (APART - gap) / (APART - 0.9));
  },
};

/** Tints a cloth's mesh by what is asked for. */
export function clothTint(
  part: ClothPart,
  how: Tint,
  at: Standing,
): { node: number; shares: Float64Array } | null {
  const found = SHARES[how];
  const worn = found ? wornOn(part, at) : null;
  if (!found || !worn) return null;
  const shares = found(part, worn, at);
  const kept = (s: number) => Math.min(1, Math.max(0, s));
  return { node: worn.node, shares: Float64Array.from(worn.sheet.pointOf, (p) => kept(shares[p]!)) };
}

/** How far each point is from its skin, m. */
function strays({ now, skin, vertexOf }: Worn): Float64Array {
  return Float64Array.from(vertexOf, (v) =>
    Math.hypot(...[0, 1, 2].map((a) => now[3 * v + a]! - skin[3 * v + a]!)),
  );
}

/** By how much the edges at each point are longer than at rest, at most. */
function stretched({ sheet, now, vertexOf }: Worn, metresPerUnit: number): Float64Array {
  const most = new Float64Array(sheet.points);
  sheet.length.forEach((rest, e) => {
    const [p, q] = [sheet.edges[2 * e]!, sheet.edges[2 * e + 1]!];
    const [a, b] = [3 * vertexOf[p]!, 3 * vertexOf[q]!];
    const long = Math.hypot(...[0, 1, 2].map((k) => now[a + k]! - now[b + k]!));
    const share = Math.max(0, long / (rest * metresPerUnit) - 1) / LONGEST;
    most[p] = Math.max(most[p]!, share);
    most[q] = Math.max(most[q]!, share);
  });
  return most;
}

/** The colliders a cloth minds, as they stand on the frame. */
function touched(part: ClothPart, { shot, picture, frame }: Standing) {
  const at = Math.round(frame) - (picture.frames?.first ?? 0);
  const rows = framesAt(picture, at);
  if (!rows) return [];
  return rows.colliders.flatMap((id, k) => {
    const collider = shot.colliders[id];
    const o = 7 * (at * rows.colliders.length + k);
    return collider && !collider.muted && minds(part.collidesWith.colliders, id)
      ? [{ collider, placed: rows.placements.subarray(o, o + 7) }]
      : [];
  });
}
