import type { Character } from '@oscillum/core/character';
import { softness, toVertices } from '@oscillum/core/maps';
import { makeWeightMap } from '@oscillum/core/model';
import { applyRegionPreset, type REGION_PRESETS, type RegionPart } from '@oscillum/core/soft';
import { change, preview } from '../../edits';
import { beginPaint, paintMeshFor } from '../../paint';
import type { Thunk } from '../../store';

type Recipe = (p: RegionPart) => void;
const on = (ids: readonly string[], recipe: Recipe) => (d: { parts: Record<string, unknown> }) => {
  for (const id of ids) {
    const part = d.parts[id] as RegionPart | undefined;
    if (part?.kind === 'region') recipe(part);
  }
};

/** Changes some regions as one edit. */
export const changeRegions = (ids: readonly string[], name: string, recipe: Recipe): Thunk =>
  change(name, on(ids, recipe));

/** The same while a hand still moves. */
export const previewRegions = (ids: readonly string[], recipe: Recipe): Thunk => preview(on(ids, recipe));

/** A preset, as quick as the size of each region (m) lets it be. */
export const putRegionPreset =
  (character: Character, ids: readonly string[], preset: (typeof REGION_PRESETS)[number]): Thunk =>
  (dispatch, getState) => {
    const metres = getState().shot.shot?.character.metresPerUnit ?? 1;
    dispatch(
      changeRegions(ids, `Preset ${preset.name}`, (p) =>
        applyRegionPreset(p, preset, regionSize(character, p, metres)),
      ),
    );
  };

/** How large what is soft of a region's first mesh is, m. */
export const regionSize = (character: Character, part: RegionPart, metresPerUnit: number): number =>
  sizeOf(paintMeshFor(character, part.mesh.node).sheet.rest, softnessOf(character, part, metresPerUnit)) *
  metresPerUnit;

/** How soft each point of a region's first mesh is, 0..1. */
export const softnessOf = (character: Character, part: RegionPart, metresPerUnit: number): Float64Array => {
  const { node } = part.mesh;
  const { sheet } = paintMeshFor(character, node);
  return softness(character, node, sheet, part.where, part.maps.weight, metresPerUnit);
};

/** Begins to paint how soft a region is: from then on its paint says what moves, on its first mesh alone. */
export function paintRegion(character: Character, id: string): Thunk {
  return (dispatch, getState) => {
    const shot = getState().shot.shot;
    const part = shot?.parts[id];
    if (!shot || part?.kind !== 'region') return;
    const metres = shot.character.metresPerUnit;
    const mesh = paintMeshFor(character, part.mesh.node);
    const shares = softnessOf(character, part, metres);
    if (part.where.by !== 'map')
      dispatch(
        changeRegions([id], 'Paint softness', (p) => {
          p.maps.weight = makeWeightMap(toVertices(mesh, shares));
          p.where = { by: 'map' };
          p.also = [];
        }),
      );
    dispatch(beginPaint(id, 'weight', sizeOf(mesh.sheet.rest, shares) * metres * 0.15));
  };
}

/** The diagonal of the box round points that are soft at all, file units; of all where none is. */
export function sizeOf(rest: Float64Array, shares: Float64Array): number {
  const any = shares.some((s) => s > 0);
  let sum = 0;
  for (let a = 0; a < 3; a++) {
    let [lo, hi] = [Infinity, -Infinity];
    shares.forEach((s, p) => {
      if (any && s <= 0) return;
      lo = Math.min(lo, rest[3 * p + a]!);
      hi = Math.max(hi, rest[3 * p + a]!);
    });
    sum += Math.max(0, hi - lo) ** 2;
  }
  return Math.sqrt(sum);
}
