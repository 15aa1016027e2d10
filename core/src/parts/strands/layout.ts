import { meshTriangles, morphedVertices, restWorld, type Character } from '../../character/index';
import { OscillumError, readWeightMap } from '../../model/index';
import { carrierOf, sheetOf, weighingJoints } from '../../sheets/index';
import { makeSurface } from '../../solver/index';
import type { StrandShape } from '../../solver/strands/index';
import type { PartLayout } from '../kind';
import type { StrandsPart } from './document';
import { cleanGuide, lengthOfGuide, readGroom } from './groom';
import { triangleFrame } from './turns';

/** Where a guide grows on its mesh. */
export interface Rooted {
  /** Vertices of the triangle it stands on, and the share of each in the place of its root. */
  readonly corners: readonly [number, number, number];
  readonly shares: readonly [number, number, number];
  /** From that place to the root, m, in the frame of the triangle at rest. */
  readonly off: readonly [number, number, number];
  /** From the root to each corner at rest, m: 9 numbers. */
  readonly sides: readonly number[];
}

/** Strands found on their character. */
export interface StrandsLayout extends PartLayout {
  readonly part: StrandsPart;
  readonly node: number;
  /** Guides that could be rooted, without points that stand in one place: places at rest, m; and their links. */
  readonly guides: readonly Float64Array[];
  readonly shapes: readonly StrandShape[];
  readonly roots: readonly Rooted[];
  /** Of each, which it is in the groom. */
  readonly picked: Int32Array;
  /** Frames of the triangles at rest, 9 numbers each, and lengths of the guides on the mean, m. */
  readonly frames: Float64Array;
  readonly length: number;
  /** Points in all: of each guide its root and the ends of its links. */
  readonly points: number;
  /** Guides that are simulated: all, or some for a coarse answer; and by guide, which of those stands for it. */
  readonly moved: Int32Array;
  readonly standIns: Int32Array;
  /** By guide: the shares of hold and bend that are painted where it stands; all where they are not. */
  readonly shares: Partial<Record<'hold' | 'bend', Float64Array>>;
  /** Joints that the skin under the roots is weighed by. */
  readonly borne: readonly number[];
  /** What carries most of the mesh. */
  readonly carrier: number;
}

/** Places of the vertices of a mesh node at rest, m, in the axes of the file. */
export function restPlaces(character: Character, node: number, metresPerUnit: number): Float64Array {
  const out = new Float64Array(3 * meshTriangles(character, node).vertices);
  morphedVertices(out, character, node, restWorld(character), undefined);
  for (let k = 0; k < out.length; k++) out[k]! *= metresPerUnit;
  return out;
}

/** Finds the mesh that strands grow on, and where each stands. Throws OscillumError('shot.invalid') without it. */
export function layOutStrands(character: Character, part: StrandsPart, metresPerUnit: number): StrandsLayout {
  const { node, name } = part.mesh;
  const fail = (message: string, remedy: string) =>
    new OscillumError('shot.invalid', `${part.name}: ${message}`, `/parts/${part.id}/mesh`, remedy);
  if (character.nodes[node]?.name !== name || character.nodes[node].mesh < 0)
    throw fail(`the mesh ${name} is not on this character`, 'Remove this hair and grow it again.');
  const { indices } = meshTriangles(character, node);
  const places = restPlaces(character, node, metresPerUnit);
  const guides = readGroom(part.groom).map(cleanGuide);
  if (guides.some((g) => g) && indices.length === 0)
    throw fail(`the mesh ${name} has no surface`, 'Grow it on another mesh.');
  const frames = new Float64Array(9 * guides.length);
  const surface = makeSurface(places, indices);
  const kept: Float64Array[] = [];
  const picked: number[] = [];
  const roots = guides.flatMap((g, which): Rooted[] => {
    const foot = g && surface.foot(g[0]!, g[1]!, g[2]!);
    if (!foot) return [];
    const corners = [...foot.corners] as [number, number, number];
    const shares = [...foot.shares] as [number, number, number];
    const at = 9 * kept.length;
    if (!triangleFrame(frames, at, places, corners)) return [];
    const gap = [0, 1, 2].map(
      (a) => g[a]! - corners.reduce((s, v, k) => s + shares[k]! * places[3 * v + a]!, 0),
    );
    const off = [0, 1, 2].map((r) => gap.reduce((s, x, a) => s + frames[at + 3 * r + a]! * x, 0)) as [
      number,
      number,
      number,
    ];
    kept.push(g);
    picked.push(which);
    const sides = corners.flatMap((v) => [0, 1, 2].map((a) => places[3 * v + a]! - g[a]!));
    return [{ corners, shares, off, sides }];
  });
  const sheet = sheetOf(character, node);
  const under = new Set(roots.flatMap((r) => r.corners));
  const length = kept.reduce((s, g) => s + lengthOfGuide(g), 0) / Math.max(1, kept.length);
  return {
    ...{ part, node, roots, frames: frames.slice(0, 9 * kept.length), length: length || 1 },
    guides: kept,
    picked: Int32Array.from(picked),
    moved: Int32Array.from(kept, (_, g) => g),
    standIns: Int32Array.from(kept, (_, g) => g),
    shapes: kept.map(shapeOf),
    points: kept.reduce((n, g) => n + g.length / 3, 0),
    carrier: carrierOf(character, node, new Uint8Array(sheet.points).fill(1), sheet),
    shares: { ...paintedOn('hold', part, roots, fail), ...paintedOn('bend', part, roots, fail) },
    borne: weighingJoints(character, node, (v) => under.has(v)),
    joints: new Int32Array(0),
    above: new Int32Array(0),
  };
}

/** For a coarse answer one guide in so many moves, where there are more than these. */
const COARSE = 4;
const FEW = 12;

/** The same with fewer guides that move: the others go as the nearest of those does. */
export function coarser(layout: StrandsLayout): StrandsLayout {
  const { guides } = layout;
  if (guides.length <= FEW) return layout;
  const moved = Int32Array.from({ length: Math.ceil(guides.length / COARSE) }, (_, k) => COARSE * k);
  const standIns = Int32Array.from(guides, (g) => {
    const far = (k: number) => [0, 1, 2].reduce((s, a) => s + (guides[moved[k]!]![a]! - g[a]!) ** 2, 0);
    let best = 0;
    for (let k = 1; k < moved.length; k++) if (far(k) < far(best)) best = k;
    return best;
  });
  return { ...layout, moved, standIns };
}

type Fail = (message: string, remedy: string) => OscillumError;

/** The share of a setting that each guide has where it stands. */
function paintedOn(
  key: 'hold' | 'bend',
  { maps, mesh }: StrandsPart,
  roots: readonly Rooted[],
  fail: Fail,
): StrandsLayout['shares'] {
  const map = maps[key];
  if (!map) return {};
  if (roots.some((r) => Math.max(...r.corners) >= map.vertices))
    throw fail(`its map of ${key} was not painted on ${mesh.name}`, 'Remove the map, or paint it anew.');
  const shares = readWeightMap(map);
  return {
    [key]: Float64Array.from(roots, (r) =>
      r.corners.reduce((sum, v, k) => sum + r.shares[k]! * shares[v]!, 0),
    ),
  };
}

/** The links of a guide. */
function shapeOf(guide: Float64Array): StrandShape {
  const n = guide.length / 3 - 1;
  const [lengths, directions] = [new Float64Array(n), new Float64Array(3 * n)];
  for (let i = 0; i < n; i++) {
    const d = [0, 1, 2].map((a) => guide[3 * i + 3 + a]! - guide[3 * i + a]!);
    lengths[i] = Math.sqrt(d.reduce((s, x) => s + x * x, 0));
    d.forEach((x, a) => (directions[3 * i + a] = x / lengths[i]!));
  }
  return { lengths, directions };
}
