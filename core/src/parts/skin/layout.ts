import type { Character } from '../../character/index';
import { toPoints } from '../../maps/index';
import { OscillumError, readWeightMap } from '../../model/index';
import { carrierOf, sheetOf, weighingJoints, type Sheet } from '../../sheets/index';
import type { PartLayout } from '../kind';
import { bindSkin, type Bound } from './bind';
import type { SkinPart } from './document';

/** A skin found on its character, bound to the bodies below it. */
export interface SkinLayout extends PartLayout {
  readonly part: SkinPart;
  readonly node: number;
  readonly sheet: Sheet;
  readonly bound: Bound;
  /** By vertex: its place among the bound points, or −1. */
  readonly boundOf: Int32Array;
  /** Vertices that go along, rising, and the place of each among the bound points; and one vertex for each of those. */
  readonly picked: Int32Array;
  readonly boundOfPicked: Int32Array;
  readonly vertexOf: Int32Array;
  /** The diagonal of the box round what goes along at rest, m. */
  readonly size: number;
}

/** Vertices that a skin may have at most. */
const MOST_VERTICES = 200_000;

/** Finds a skin and the meshes below it. Throws OscillumError('shot.invalid') where they are not there. */
export function layOutSkin(character: Character, part: SkinPart, metresPerUnit: number): SkinLayout {
  const fail = (message: string, place: string, remedy: string) =>
    new OscillumError('shot.invalid', `${part.name}: ${message}`, `/parts/${part.id}/${place}`, remedy);
  const sheetAt = ({ node, name }: SkinPart['mesh'], place: string) => {
    const own = character.nodes[node];
    if (own?.name !== name || own.mesh < 0)
      throw fail(`the mesh ${name} is not on this character`, place, 'Remove this skin and make it again.');
    return sheetOf(character, node);
  };
  const sheet = sheetAt(part.mesh, 'mesh');
  const vertices = sheet.pointOf.length;
  if (vertices > MOST_VERTICES)
    throw fail(
      `${part.mesh.name} has ${vertices} vertices, more than the ${MOST_VERTICES} that a skin can have`,
      'mesh',
      'Choose a simpler mesh.',
    );
  const surfaces = part.below.map((b, k) => sheetAt(b.mesh, `below/${k}/mesh`));
  const map = part.maps.share;
  if (map && map.vertices !== vertices)
    throw fail(
      `its share was painted on ${map.vertices} vertices, and ${part.mesh.name} has ${vertices}`,
      'maps/share',
      'Remove the map, or paint it anew.',
    );
  const share = map ? toPoints(sheet, readWeightMap(map)) : null;
  const bound = bindSkin(sheet, surfaces, part.reach, share, metresPerUnit);
  const place = new Int32Array(sheet.points).fill(-1);
  bound.points.forEach((p, i) => (place[p] = i));
  const boundOf = Int32Array.from(sheet.pointOf, (p) => place[p]!);
  const picked = Int32Array.from(boundOf.keys()).filter((v) => boundOf[v]! >= 0);
  const boundOfPicked = picked.map((v) => boundOf[v]!);
  const vertexOf = new Int32Array(bound.points.length);
  picked.forEach((v, k) => (vertexOf[boundOfPicked[k]!] = v));
  const { node } = part.mesh;
  const held = new Uint8Array(sheet.points);
  bound.points.forEach((p) => (held[p] = 1));
  return {
    ...{ part, node, sheet, bound, boundOf, picked, boundOfPicked, vertexOf },
    size: boxSize(sheet.rest, bound.points) * metresPerUnit || 1,
    joints: new Int32Array(0),
    above: new Int32Array(0),
    borne: [
      ...new Set([
        carrierOf(character, node, held, sheet),
        ...weighingJoints(character, node, (v) => boundOf[v]! >= 0),
      ]),
    ],
  };
}

function boxSize(rest: ArrayLike<number>, points: Int32Array): number {
  let sum = 0;
  for (let a = 0; a < 3; a++) {
    let [lo, hi] = [Infinity, -Infinity];
    for (const p of points) {
      lo = Math.min(lo, rest[3 * p + a]!);
      hi = Math.max(hi, rest[3 * p + a]!);
    }
    sum += points.length > 0 ? (hi - lo) ** 2 : 0;
  }
  return Math.sqrt(sum);
}
