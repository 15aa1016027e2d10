import type { Character } from '@oscillum/core/character';
import { readWeightMap, makeWeightMap } from '@oscillum/core/model';
import type { Shot } from '@oscillum/core/shot';
import { readLines } from '@oscillum/core/lines';
import { growGuides, linesFor, takeGuides } from '@oscillum/core/simulate';
import {
  applyStrandPreset,
  lengthOfGuide,
  makeGroom,
  readGroom,
  strandSettingsFor,
  type Growth,
  type STRAND_PRESETS,
  type StrandMapKey,
  type StrandsPart,
} from '@oscillum/core/strands';
import type { CombHow } from '../../brushes';
import { change } from '../../edits';
import { beginPaint, paintMeshFor } from '../../paint';
import type { Thunk } from '../../store';
import { viewSlice } from '../../view';

type Recipe = (p: StrandsPart) => void;
const on = (ids: readonly string[], recipe: Recipe) => (d: { parts: Record<string, unknown> }) => {
  for (const id of ids) {
    const part = d.parts[id] as StrandsPart | undefined;
    if (part?.kind === 'strands') recipe(part);
  }
};

/** Changes some hair as one edit. */
export const changeStrands = (ids: readonly string[], name: string, recipe: Recipe): Thunk =>
  change(name, on(ids, recipe));

export const putStrandPreset = (ids: readonly string[], preset: (typeof STRAND_PRESETS)[number]): Thunk =>
  changeStrands(ids, `Preset ${preset.name}`, (p) => applyStrandPreset(p, preset));

/** Which way is down in the axes of a file. */
const downOf = ({ upAxis }: Shot['character']): readonly number[] =>
  upAxis === 'Z' ? [0, 0, -1] : [0, -1, 0];

/** Guides as a growth has them, where the map says. */
export function grow(
  character: Character,
  shot: Shot,
  { mesh, maps }: Pick<StrandsPart, 'mesh' | 'maps'>,
  growth: Growth,
): StrandsPart['groom'] {
  const shares = maps.grow ? readWeightMap(maps.grow) : null;
  const { metresPerUnit } = shot.character;
  return makeGroom(growGuides(character, mesh.node, metresPerUnit, downOf(shot.character), growth, shares));
}

/** Grows hair again as asked: its guides are new. */
export function growAgain(character: Character, id: string, name: string, more: Partial<Growth>): Thunk {
  return (dispatch, getState) => {
    const { shot } = getState().shot;
    const part = shot?.parts[id];
    if (!shot || part?.kind !== 'strands' || !part.growth) return;
    const growth = { ...part.growth, changed: false, ...more };
    const groom = grow(character, shot, part, growth);
    dispatch(changeStrands([id], name, (p) => Object.assign(p, { growth, groom })));
  };
}

/** Gives hair other guides: places of their points at rest, m. Throws OscillumError('shot.invalid') for too many. */
export const keepGuides = (id: string, name: string, guides: readonly ArrayLike<number>[]): Thunk =>
  changeStrands([id], name, (p) => {
    // The first one says how long hair is here.
    if (p.groom.points.length === 0 && guides.length > 0) {
      const length = lengthOfGuide(guides[0]!);
      Object.assign(p.settings, strandSettingsFor(length));
      p.look.width = Number((0.02 * length).toPrecision(2));
    }
    p.groom = makeGroom(guides);
    if (p.growth) p.growth.changed = true;
  });

/** Keeps how guides stand on a frame (places of their points, as they would be at rest, m), as a pose by hand. */
export const keepPose = (id: string, frame: number, guides: readonly ArrayLike<number>[]): Thunk =>
  changeStrands([id], 'Comb a pose', (p) => {
    const groom = makeGroom(guides);
    const known = p.poses.find((x) => x.frame === frame);
    if (known) known.groom = groom;
    else p.poses.push({ frame, hold: 0, easeIn: 6, easeOut: 6, groom });
  });

/** Begins to paint where hair grows, or how firmly it is held: all everywhere at first. */
export function paintHair(character: Character, id: string, key: StrandMapKey): Thunk {
  return (dispatch, getState) => {
    const part = getState().shot.shot?.parts[id];
    if (part?.kind !== 'strands') return;
    const { sheet } = paintMeshFor(character, part.mesh.node);
    if (!part.maps[key])
      dispatch(
        changeStrands([id], key === 'grow' ? 'Paint where it grows' : `Paint its ${key}`, (p) => {
          p.maps[key] = makeWeightMap(new Float64Array(sheet.pointOf.length).fill(1));
        }),
      );
    const { rest } = sheet;
    let size = 0;
    for (let a = 0; a < 3; a++) {
      const list = rest.filter((_, k) => k % 3 === a);
      const [lo, hi] = [
        list.reduce((m, x) => Math.min(m, x), Infinity),
        list.reduce((m, x) => Math.max(m, x), -Infinity),
      ];
      size = Math.max(size, hi - lo);
    }
    dispatch(beginPaint(id, key, 0.12 * size * (getState().shot.shot?.character.metresPerUnit ?? 1)));
  };
}

/** Begins to brush hair, with some tool of the brush, or ends that. */
export const comb =
  (id: string | null, does: CombHow['does'] = 'comb'): Thunk =>
  (dispatch) => {
    dispatch(viewSlice.actions.combSet({ does, pose: false }));
    dispatch(viewSlice.actions.combingSet(id));
  };

/** Gives hair guides along lines (m, in the axes of the file) beside those it has. Returns what to say of it. */
export function takeLines(character: Character, id: string, lines: readonly Float64Array[]): Thunk<string[]> {
  return (dispatch, getState) => {
    const { shot } = getState().shot;
    const part = shot?.parts[id];
    if (!shot || part?.kind !== 'strands') return [];
    const taken = takeGuides(character, part.mesh.node, shot.character.metresPerUnit, lines);
    if (taken.guides.length > 0)
      dispatch(keepGuides(id, 'Take guides', [...readGroom(part.groom), ...taken.guides]));
    return [
      taken.guides.length === 1 ? 'One guide was taken.' : `${taken.guides.length} guides were taken.`,
      ...taken.notes,
    ];
  };
}

/** The same from a file of lines. Throws OscillumError('file.*'). */
export const takeFile =
  (character: Character, id: string, bytes: Uint8Array<ArrayBuffer>, fileName: string): Thunk<string[]> =>
  (dispatch, getState) => {
    const { shot } = getState().shot;
    return shot
      ? dispatch(takeLines(character, id, linesFor(readLines(bytes, fileName), shot.character)))
      : [];
  };
