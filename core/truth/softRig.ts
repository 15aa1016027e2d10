import type { Character } from '../src/character/index';
import { pointSpans, sizesOf, type Frames } from '../src/frames/index';
import { makeWeightMap } from '../src/model/index';
import { makeRegionPart, type RegionPart } from '../src/parts/soft/shared';
import { editShot, type Shot } from '../src/shot/index';
import { sheetOf } from '../src/sheets/index';
import { makeFigure, nodeNamed } from '../test/figure';
import { squareSheet } from './clothBench';

/** A quick lift by 0.2 m in 0.2 s, minimum jerk. */
export const lift = (t: number): readonly [number, number, number] => {
  const s = Math.min(1, Math.max(0, t / 0.2));
  return [0, 0.2 * s * s * s * (10 + s * (6 * s - 15)), 0];
};

/**
 * A patch of skin, 0.3 m square and domed by 5 cm, of n × n vertices, carried by a root that moves; it is soft within
 * 0.13 m of its middle, or all over.
 */
export function softPatch(
  n: number,
  jitter: number,
  at: (time: number) => readonly [number, number, number, number?],
  change: (p: RegionPart, s: Shot) => void = () => undefined,
  { seconds = 4, fps = 60, off = 0, all = false, swells = false } = {},
): { character: Character; shot: Shot; bytes: Uint8Array<ArrayBuffer> } {
  const flat = squareSheet(n, 0.3, jitter, [0, 0, -1]);
  const places = Array.from(flat.rest);
  for (let k = 0; k < places.length; k += 3) {
    const [x, z] = [places[k]! - 0.15, places[k + 2]! + 0.15];
    places.splice(k, 3, x + off, all ? 0 : 0.05 * (1 - (x * x + z * z) / 0.0225), z);
  }
  const target = {
    moves: places.map((x, k) => (k % 3 === 1 ? x : 0)),
    weight: (t: number) => Math.min(1, t),
  };
  const skin = { places, triangles: flat.triangles, ...(swells && { target }) };
  const figure = makeFigure({ skin }, seconds, fps, at);
  const mesh = nodeNamed(figure.character, 'skin');
  const { pointOf } = sheetOf(figure.character, mesh.node);
  const shares = Float64Array.from(pointOf, (_, v) => {
    const r = Math.sqrt((places[3 * v]! - off) ** 2 + places[3 * v + 2]! ** 2) / 0.13;
    return all ? 1 : r < 1 ? Math.cos((r * Math.PI) / 2) ** 2 : 0;
  });
  const { shot } = editShot(figure.shot, 'soft-00001', 'Make soft', (d) => {
    d.preRollSeconds = 0;
    d.parts.skin = makeRegionPart({
      ...{ id: 'skin', name: 'Skin', mesh, where: { by: 'map' }, maps: { weight: makeWeightMap(shares) } },
    });
    change(d.parts.skin as RegionPart, d as Shot);
  });
  return { ...figure, shot };
}

/** How far the vertices of a region are off their skin on a row, m: 3 numbers each. */
export function offsetsOf(frames: Frames, row: number, part = 0): Float64Array {
  const at = 3 * row * sizesOf(frames).points;
  return Float64Array.from(
    pointSpans(frames, part).flatMap((s) =>
      Array.from(frames.points.subarray(at + 3 * s.from, at + 3 * s.to)),
    ),
  );
}

/** Root of the mean square by area of how far a region is off, m, on every row. */
export function meanOff(character: Character, frames: Frames): number[] {
  const [span] = pointSpans(frames, 0);
  const sheet = sheetOf(character, span!.node);
  const area = Array.from(span!.picked!, (v) => sheet.area[sheet.pointOf[v]!]!);
  const whole = sheet.area.reduce((s, a) => s + a, 0);
  return Array.from({ length: frames.count }, (_, f) => {
    const u = offsetsOf(frames, f);
    const sum = area.reduce(
      (s, a, i) => s + a * (u[3 * i]! ** 2 + u[3 * i + 1]! ** 2 + u[3 * i + 2]! ** 2),
      0,
    );
    return Math.sqrt(sum / whole);
  });
}
