import { meshTriangles, restWorld, unskinVertices, type Character } from '../../character/index';
import { toPoints } from '../../maps/index';
import { OscillumError, readWeightMap } from '../../model/index';
import { boxAbout, carrierOf, eachWeight, sheetOf, weighingJoints, type Sheet } from '../../sheets/index';
import type { PartLayout } from '../kind';
import { makeCells, type BodyCells } from './cells';
import { FEW_PATCHES, PATCHES } from './touchPoints';
import { BODY_MAPS, type BodyMapKey, type BodyPart } from './document';

/** A soft body found on its character. */
export interface BodyLayout extends PartLayout, BodyCells {
  readonly part: BodyPart;
  /** The node of its mesh, and vertices of it. */
  readonly node: number;
  readonly vertices: number;
  readonly sheet: Sheet;
  /** The sides of the box about it, the longest of them, and its height, m. */
  readonly sides: readonly number[];
  readonly size: number;
  readonly height: number;
  /** The character with the nodes of its lattice in the place of its mesh: they are skinned as what is near them. */
  readonly skeleton: Character;
  /** By map: a share for each node of the lattice. */
  readonly shares: Partial<Record<BodyMapKey, Float64Array>>;
  /** Strings: the joint each hangs on, the point of the sheet at its other end, and how long it is, m. */
  readonly strings: readonly { readonly joint: number; readonly point: number; readonly length: number }[];
  /** What carries most of it, and nodes whose world matrices say where it is. */
  readonly carrier: number;
  readonly carriers: readonly number[];
  /** Whether it is for a coarse answer: fewer of its points touch, and it takes longer steps. */
  readonly rough: boolean;
  /** The same for a coarse answer, with so many cells along its longest side. */
  coarser(cells: number): BodyLayout;
}

/** Vertices and cells that a body may have at most: beyond them a shot would not answer. */
const MOST_VERTICES = 40_000;
const MOST_CELLS = 8000;
/** A mesh that fills less than this share of its cells encloses nothing. */
const HOLLOW = 1e-3;
/** Points whose joints and paint a node has. */
const NEAR = 4;

/**
 * Finds a soft body's mesh and fills it; roughly, with other cells, for a coarse answer. Throws
 * OscillumError('shot.invalid') when it cannot be one.
 */
export function layOutBody(
  character: Character,
  part: BodyPart,
  metresPerUnit: number,
  rough: number | null = null,
): BodyLayout {
  const cells = rough ?? part.cells;
  const fail = (message: string, place: string, remedy: string) =>
    new OscillumError('shot.invalid', `${part.name}: ${message}`, `/parts/${part.id}/${place}`, remedy);
  const { node, name } = part.mesh;
  const own = character.nodes[node];
  if (own?.name !== name || own.mesh < 0)
    throw fail(`the mesh ${name} is not on this character`, 'mesh', 'Remove this body and make it again.');
  const { vertices } = meshTriangles(character, node);
  if (vertices > MOST_VERTICES)
    throw fail(
      `${name} has ${vertices} vertices, more than the ${MOST_VERTICES} that a soft body can have`,
      'mesh',
      'Choose a simpler mesh.',
    );
  const sheet = sheetOf(character, node);
  if (sheet.triangles.length === 0)
    throw fail(`${name} has no triangle with an area`, 'mesh', 'Choose another mesh.');
  const filled = makeCells(sheet, cells, metresPerUnit, rough === null ? PATCHES : FEW_PATCHES);
  if (filled.volume < HOLLOW * filled.filled)
    throw fail(`${name} encloses nothing`, 'mesh', 'Make it cloth, or choose a mesh that is closed.');
  if (filled.lattice.cells > MOST_CELLS)
    throw fail(
      `${filled.lattice.cells} cells fill it, more than the ${MOST_CELLS} that can move`,
      'cells',
      'Choose fewer cells along it.',
    );
  const near = nearestPoints(filled.lattice.rest, sheet, metresPerUnit);
  const shares: Partial<Record<BodyMapKey, Float64Array>> = {};
  for (const key of BODY_MAPS) {
    const map = part.maps[key];
    if (!map) continue;
    if (map.vertices !== vertices)
      throw fail(
        `its map of ${key} was painted on ${map.vertices} vertices, and ${name} has ${vertices}`,
        `maps/${key}`,
        'Remove the map, or paint it anew.',
      );
    shares[key] = ofNodes(near, toPoints(sheet, readWeightMap(map)));
  }
  const { lo, hi } = boxAbout(sheet.rest);
  const sides = hi.map((x, a) => (x - lo[a]!) * metresPerUnit);
  const carrier = carrierOf(character, node, new Uint8Array(sheet.points), sheet);
  const joints = character.skins[own.skin]?.joints ?? [node];
  return {
    ...{ part, node, vertices, sheet, ...filled, shares, carrier, sides },
    ...{ size: Math.max(...sides), height: Math.max(sides[1]!, 1e-3 * Math.max(...sides)) },
    skeleton: nodesAsMesh(character, node, sheet, filled.lattice.rest, near, metresPerUnit),
    carriers: [...new Set([carrier, ...joints])],
    joints: new Int32Array(0),
    above: new Int32Array(0),
    strings: stringsOf(character, part, sheet, fail),
    borne: [...new Set([...weighingJoints(character, node), ...part.strings.map((s) => s.joint.node)])],
    late: part.start,
    rough: rough !== null,
    coarser: (n) => layOutBody(character, part, metresPerUnit, n),
  };
}

type Fail = (message: string, place: string, remedy: string) => OscillumError;

/** The strings of a body. */
const stringsOf = (
  character: Character,
  { strings }: BodyPart,
  sheet: Sheet,
  fail: Fail,
): BodyLayout['strings'] => {
  const wrong = strings.findIndex(({ joint }) => character.nodes[joint.node]?.name !== joint.name);
  if (wrong >= 0)
    throw fail(
      `the joint ${strings[wrong]!.joint.name} that it hangs on is not on this character`,
      `strings/${wrong}`,
      'Remove this string, or choose another joint for it.',
    );
  const points = stringPoints(character, strings, sheet);
  return strings.map(({ joint, length }, k) => ({ joint: joint.node, point: points[k]!, length }));
};

/** The point of a body's sheet that each string ends at: the one that is nearest to its joint at rest. */
export function stringPoints(character: Character, strings: BodyPart['strings'], sheet: Sheet): number[] {
  const world = strings.length > 0 ? restWorld(character) : null;
  return strings.map(({ joint }) => {
    let [point, nearest] = [0, Infinity];
    for (let p = 0; p < sheet.points; p++) {
      let far = 0;
      for (let a = 0; a < 3; a++) far += (sheet.rest[3 * p + a]! - world![16 * joint.node + 12 + a]!) ** 2;
      if (far < nearest) [point, nearest] = [p, far];
    }
    return point;
  });
}

/** By node of a lattice: the points of a sheet that are nearest, and a share of each. */
interface Near {
  readonly points: Int32Array;
  readonly shares: Float64Array;
}

function nearestPoints(nodes: Float64Array, { rest, points }: Sheet, metresPerUnit: number): Near {
  const count = nodes.length / 3;
  const most = Math.min(NEAR, points);
  const out = { points: new Int32Array(NEAR * count), shares: new Float64Array(NEAR * count) };
  const far = new Float64Array(NEAR);
  for (let n = 0; n < count; n++) {
    far.fill(Infinity);
    const list = out.points.subarray(NEAR * n, NEAR * n + NEAR);
    for (let p = 0; p < points; p++) {
      let d = 0;
      for (let a = 0; a < 3; a++) d += (rest[3 * p + a]! * metresPerUnit - nodes[3 * n + a]!) ** 2;
      if (d >= far[most - 1]!) continue;
      let k = most - 1;
      for (; k > 0 && far[k - 1]! > d; k--) {
        far[k] = far[k - 1]!;
        list[k] = list[k - 1]!;
      }
      far[k] = d;
      list[k] = p;
    }
    let sum = 0;
    for (let k = 0; k < most; k++) sum += 1 / (far[k]! + 1e-12);
    for (let k = 0; k < most; k++) out.shares[NEAR * n + k] = 1 / (far[k]! + 1e-12) / sum;
  }
  return out;
}

/** What each node has of something that points have. */
const ofNodes = ({ points, shares }: Near, values: Float64Array): Float64Array =>
  Float64Array.from({ length: points.length / NEAR }, (_, n) => {
    let sum = 0;
    for (let k = NEAR * n; k < NEAR * n + NEAR; k++) sum += shares[k]! * values[points[k]!]!;
    return sum;
  });

/** A character whose mesh is the nodes of a lattice, weighed as the points near them are, at most by four joints. */
function nodesAsMesh(
  character: Character,
  node: number,
  sheet: Sheet,
  rest: Float64Array,
  near: Near,
  metresPerUnit: number,
): Character {
  const count = rest.length / 3;
  const skin = character.skins[character.nodes[node]!.skin];
  const places = new Map(Array.from(skin?.joints ?? [], (joint, k) => [joint, k]));
  const weighed = Array.from({ length: sheet.points }, () => new Map<number, number>());
  eachWeight(character, node, (vertex, joints, weights) => {
    const own = weighed[sheet.pointOf[vertex]!]!;
    joints.forEach((j, k) => {
      if (weights[k]! > 0) own.set(places.get(j)!, weights[k]!);
    });
  });
  const [joints, weights] = [new Uint16Array(4 * count), new Float32Array(4 * count)];
  for (let n = 0; n < count; n++) {
    const sums = new Map<number, number>();
    for (let k = NEAR * n; k < NEAR * n + NEAR; k++)
      for (const [j, w] of weighed[near.points[k]!]!) sums.set(j, (sums.get(j) ?? 0) + near.shares[k]! * w);
    const best = [...sums].sort((a, b) => b[1] - a[1] || a[0] - b[0]).slice(0, 4);
    const all = best.reduce((s, [, w]) => s + w, 0);
    best.forEach(([j, w], k) => {
      joints[4 * n + k] = j;
      weights[4 * n + k] = w / all;
    });
  }
  const positions = new Float32Array(3 * count);
  const own = {
    ...{ positions, normals: null, uvs: null, colours: null, material: -1 },
    ...{ indices: new Uint32Array(0), lines: new Uint32Array(0) },
    ...(skin ? { joints, weights } : { joints: null, weights: null }),
    targets: [],
  };
  const out: Character = {
    ...character,
    meshes: [...character.meshes, { name: '', primitives: [own], weights: new Float64Array(0) }],
    nodes: character.nodes.map((n, k) => (k === node ? { ...n, mesh: character.meshes.length } : n)),
  };
  const before = new Float64Array(3 * count);
  unskinVertices(
    before,
    rest.map((x) => x / metresPerUnit),
    out,
    node,
    restWorld(character),
  );
  positions.set(before);
  return out;
}
