import { asPlaces, clipAsPlayed, normalsOf, positionsOf, samePlaces } from '../bake/index';
import { meshTriangles, type Character } from '../character/index';
import type { BakedClip } from '../formats/gltf/index';
import {
  writePointsUsda,
  type MovingCurves,
  type MovingMesh,
  type MovingMeshes,
} from '../formats/usda/index';
import { OscillumError } from '../model/index';
import type { MotionFile, MotionFileOptions, PointFormat } from './files';

/** Places that a file of points may have: more would be some gigabytes of text. */
const MOST_PLACES = 20e6;

/** Throws OscillumError('bake.invalid') for more places than a file of points may have. */
export function checkPlaces(total: number): void {
  if (total <= MOST_PLACES) return;
  throw new OscillumError(
    'bake.invalid',
    `A file of points would hold ${(total / 1e6).toFixed(0)} million places; ${MOST_PLACES / 1e6} are written`,
    'formats',
    'Bake fewer frames or strands, or to morph targets or joints.',
  );
}

/**
 * The vertices and strands that a baked clip moves point by point; null where it moves none. Places are +Y up or +Z
 * up, in units.
 */
function movingMeshes(character: Character, clip: BakedClip, o: MotionFileOptions): MovingMeshes | null {
  const { fps, unit, up } = o;
  const played = clipAsPlayed(character, clip);
  const moved = clip.channels.filter((c) => c.path === 'points');
  const channels = moved.map((c) => asPlaces(character, o, played, c));
  const strands = clip.curves ?? [];
  if (channels.length === 0 && strands.length === 0) return null;
  const total = [...channels, ...strands].reduce((n, c) => n + c.values.length / 3, 0);
  checkPlaces(total);
  const { times } = [...channels, ...strands][0]!;
  const meshes = channels.map((c): MovingMesh => {
    const { indices, vertices } = meshTriangles(character, c.node);
    const { name, mesh } = character.nodes[c.node]!;
    const { primitives } = character.meshes[mesh]!;
    const places = placed(c.values, unit, up);
    const normals = new Float64Array(c.values.length);
    const same = samePlaces(positionsOf(character, c.node));
    for (let f = 0; f < places.length; f += 3 * vertices)
      normals.set(normalsOf(places.subarray(f, f + 3 * vertices), indices, same), f);
    const uvs = primitives.every((p) => p.uvs) ? primitives.flatMap((p) => Array.from(p.uvs!)) : null;
    return { name, indices, uvs, places, normals };
  });
  const curves = strands.map(({ values, widths, ...c }): MovingCurves => ({
    ...c,
    widths: [widths[0] / unit, widths[1] / unit],
    places: placed(values, unit, up),
  }));
  return { fps, first: Math.round((times[0] ?? 0) * fps), count: times.length, meshes, curves };
}

/** Places in the units of a file, and with its axis up. */
function placed(values: Float64Array, unit: number, up: 'Y' | 'Z'): Float64Array {
  const out = new Float64Array(values.length);
  for (let k = 0; k < out.length; k += 3) {
    const [x, y, z] = [values[k]! / unit, values[k + 1]! / unit, values[k + 2]! / unit];
    out.set(up === 'Z' ? [x, -z, y] : [x, y, z], k);
  }
  return out;
}

/** A line a vertex and frame: RFC 4180. */
function pointsCsv({ meshes, curves, first, count, fps }: MovingMeshes): string {
  const lines = ['frame,seconds,mesh,vertex,x,y,z'];
  for (const { name, places } of [...meshes, ...curves]) {
    const width = places.length / count;
    const word = /[",\r\n]/.test(name) ? `"${name.replace(/"/g, '""')}"` : name;
    for (let f = 0; f < count; f++)
      for (let v = 0; v < width; v += 3) {
        const at = f * width + v;
        const xyz = [0, 1, 2].map((a) => String(Number(places[at + a]!.toPrecision(9))));
        const seconds = Number(((first + f) / fps).toPrecision(9));
        lines.push(`${first + f},${seconds},${word},${v / 3},${xyz.join(',')}`);
      }
  }
  return `${lines.join('\r\n')}\r\n`;
}

/**
 * The vertices and strands that a baked clip moves point by point, as a file; null where it moves none. Throws
 * OscillumError('bake.invalid') when there are too many.
 */
export function writePoints(
  character: Character,
  clip: BakedClip,
  format: PointFormat,
  o: MotionFileOptions,
): MotionFile | null {
  const moving = movingMeshes(character, clip, o);
  if (!moving) return null;
  const notes = [
    `Only what moves point by point is in it: ${[...moving.meshes, ...moving.curves].map((m) => m.name).join(', ')}.`,
  ];
  const name = character.name || 'Character';
  return format === 'points.csv'
    ? { text: pointsCsv(moving), notes }
    : { text: writePointsUsda(moving, { name, metresPerUnit: o.unit, upAxis: o.up }), notes };
}
