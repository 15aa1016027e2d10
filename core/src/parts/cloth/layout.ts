import { meshTriangles, restWorld, skinVertices, type Character } from '../../character/index';
import { OscillumError, readWeightMap } from '../../model/index';
import { findRims, makeSheet, type Sheet } from '../../solver/cloth/index';
import type { PartLayout } from '../kind';
import { MAPS, type ClothPart, type Hold, type MapKey } from './document';

/** A cloth found on a character. */
export interface ClothLayout extends PartLayout {
  readonly part: ClothPart;
  /** The node of its mesh, and vertices of it. */
  readonly node: number;
  readonly vertices: number;
  /** Nodes whose world matrices say where its skin is. */
  readonly carriers: readonly number[];
  /** Its sheet at rest, in file units. */
  readonly sheet: Sheet;
  /** 1 for each point of the sheet that is held. */
  readonly held: Uint8Array;
  /** Shares of settings, a point each. */
  readonly shares: Partial<Record<MapKey, Float64Array>>;
}

/** Vertices that a cloth may have at most: beyond it a shot would not answer. */
const MOST_VERTICES = 60_000;

const sheets = new WeakMap<Character, Map<number, Sheet>>();

/** The sheet of a mesh node as it stands at rest, in file units; made once for a character. */
export function sheetOf(character: Character, node: number): Sheet {
  const known = sheets.get(character) ?? new Map<number, Sheet>();
  sheets.set(character, known);
  let sheet = known.get(node);
  if (!sheet) {
    const { vertices, indices } = meshTriangles(character, node);
    const places = new Float64Array(3 * vertices);
    skinVertices(places, character, node, restWorld(character));
    sheet = makeSheet(places, indices);
    known.set(node, sheet);
  }
  return sheet;
}

/** Finds a cloth's mesh and what holds it. Throws OscillumError('shot.invalid') when it cannot be cloth. */
export function layOutCloth(character: Character, part: ClothPart): ClothLayout {
  const fail = (message: string, place: string, remedy: string) =>
    new OscillumError('shot.invalid', `${part.name}: ${message}`, `/parts/${part.id}/${place}`, remedy);
  const { node, name } = part.mesh;
  const own = character.nodes[node];
  if (own?.name !== name || own.mesh < 0)
    throw fail(`the mesh ${name} is not on this character`, 'mesh', 'Remove this cloth and make it again.');
  const { vertices } = meshTriangles(character, node);
  if (vertices > MOST_VERTICES)
    throw fail(
      `${name} has ${vertices} vertices, more than the ${MOST_VERTICES} that can be cloth`,
      'mesh',
      'Choose a simpler mesh.',
    );
  const sheet = sheetOf(character, node);
  if (sheet.triangles.length === 0)
    throw fail(`${name} has no triangle with an area`, 'mesh', 'Choose another mesh.');
  const skin = character.skins[own.skin];
  return {
    ...{ part, node, vertices, sheet },
    joints: new Int32Array(0),
    above: new Int32Array(0),
    carriers: skin ? Array.from(skin.joints) : [node],
    ...sharesOf(character, part, sheet, (key, count) =>
      fail(
        `its map of ${key} was painted on ${count} vertices, and ${name} has ${vertices}`,
        `maps/${key}`,
        'Remove the map, or paint it anew.',
      ),
    ),
  };
}

/** The maps of a cloth as shares a point, and the points that are held: by what holds it, or by a leash of 0. */
function sharesOf(
  character: Character,
  part: ClothPart,
  sheet: Sheet,
  other: (key: MapKey, count: number) => OscillumError,
): Pick<ClothLayout, 'held' | 'shares'> {
  const held = heldPoints(character, part, sheet);
  const shares: Partial<Record<MapKey, Float64Array>> = {};
  for (const key of MAPS) {
    const map = part.maps[key];
    if (!map) continue;
    if (map.vertices !== sheet.pointOf.length) throw other(key, map.vertices);
    const out = new Float64Array(sheet.points).fill(1);
    readWeightMap(map).forEach((s, v) => (out[sheet.pointOf[v]!] = Math.min(out[sheet.pointOf[v]!]!, s)));
    shares[key] = out;
  }
  shares.leash?.forEach((s, p) => s === 0 && (held[p] = 1));
  return { held, shares };
}

/** The points that any of a cloth's holds takes. */
export function heldPoints(
  character: Character,
  { mesh, holds }: Pick<ClothPart, 'mesh' | 'holds'>,
  sheet: Sheet,
): Uint8Array {
  const held = new Uint8Array(sheet.points);
  for (const h of holds) {
    if (h.by === 'rim') for (const p of findRims(sheet)[h.rim] ?? []) held[p] = 1;
    else holdByJoint(character, mesh.node, h, sheet, held);
  }
  return held;
}

function holdByJoint(
  character: Character,
  node: number,
  { joint, from }: Extract<Hold, { by: 'joint' }>,
  sheet: Sheet,
  held: Uint8Array,
): void {
  const own = character.nodes[node]!;
  const skin = character.skins[own.skin];
  const index = skin ? skin.joints.indexOf(joint.node) : -1;
  if (index < 0) return;
  let vertex = 0;
  for (const p of character.meshes[own.mesh]!.primitives) {
    const count = p.positions.length / 3;
    if (p.joints && p.weights)
      for (let v = 0; v < count; v++) {
        let share = 0;
        for (let k = 4 * v; k < 4 * v + 4; k++) if (p.joints[k] === index) share += p.weights[k]!;
        if (share >= from) held[sheet.pointOf[vertex + v]!] = 1;
      }
    vertex += count;
  }
}

/**
 * What most likely holds a mesh: its shortest closed rim, as a collar is, when it has two or more; else the joint that
 * weighs most of it nowhere near all.
 */
export function likelyHolds(character: Character, node: number): Hold[] {
  const sheet = sheetOf(character, node);
  if (findRims(sheet).length > 1) return [{ by: 'rim', rim: 0 }];
  const skin = character.skins[character.nodes[node]!.skin];
  if (!skin) return [];
  const counts = Array.from(skin.joints, (j): [number, number] => {
    const joint = { node: j, name: character.nodes[j]!.name };
    const held = new Uint8Array(sheet.points);
    holdByJoint(character, node, { by: 'joint', joint, from: 0.5 }, sheet, held);
    return [held.reduce((a, b) => a + b, 0), j];
  });
  const best = counts
    .filter(([n]) => n > 0 && n < 0.6 * sheet.points)
    .sort((a, b) => b[0] - a[0] || a[1] - b[1])[0];
  return best
    ? [{ by: 'joint', joint: { node: best[1], name: character.nodes[best[1]]!.name }, from: 0.5 }]
    : [];
}
