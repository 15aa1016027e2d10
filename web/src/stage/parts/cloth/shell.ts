import type { ClothPart } from '@oscillum/core/cloth';
import { settingAt } from '../../../state/settingAt';
import { readWeightMap } from '@oscillum/core/model';
import { normalsOf } from '@oscillum/core/sheets';
import type { Standing } from '../kind';
import { ofPoints, wornOn } from './skin';

/** A leash of so many m keeps nothing. */
const ENDLESS = 1000;

/** How far out of its skin its leash lets a cloth go, and how far in its inner leash does, as surfaces. */
export function leashShell(
  part: ClothPart,
  at: Standing,
): { places: Float64Array; triangles: Uint32Array } | null {
  const [leash, inner] = [settingAt(part, 'leash', at.frame), settingAt(part, 'inner', at.frame)];
  const worn = wornOn(part, at);
  if (!worn || Math.min(leash, inner) >= ENDLESS) return null;
  const { sheet, skin, vertexOf } = worn;
  const from = ofPoints(worn, skin);
  const out = new Float64Array(from.length);
  normalsOf(out, from, sheet.triangles);
  const surface = (most: number, map: ClothPart['maps']['leash'], way: 1 | -1) => {
    const shares = map ? readWeightMap(map) : null;
    return from.map((x, k) => {
      const share = shares ? shares[vertexOf[Math.floor(k / 3)]!]! : 1;
      return x + way * most * share * out[k]!;
    });
  };
  const shells = [
    ...(leash < ENDLESS ? [surface(leash, part.maps.leash, 1)] : []),
    // The leash keeps it from going in as far as the inner leash would let it.
    ...(inner < ENDLESS ? [surface(Math.min(inner, leash), part.maps.inner, -1)] : []),
  ];
  const places = new Float64Array(shells.length * from.length);
  shells.forEach((shell, k) => places.set(shell, k * from.length));
  const triangles = Uint32Array.from(
    shells.flatMap((_, k) => Array.from(sheet.triangles, (p) => p + k * sheet.points)),
  );
  return { places, triangles };
}
