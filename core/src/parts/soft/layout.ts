import type { Character } from '../../character/index';
import { fromBall, toPoints } from '../../maps/index';
import { OscillumError, readWeightMap } from '../../model/index';
import { carrierOf, eachWeight, sheetOf, weighingJoints, type Sheet } from '../../sheets/index';
import type { PartLayout } from '../kind';
import type { RegionPart } from './document';
import { meshOf, type RegionPoints } from './mesh';

/** A region found on its character. */
export interface RegionLayout extends PartLayout, RegionPoints {
  readonly part: RegionPart;
  /** What carries most of it. */
  readonly carrier: number;
}

/** Vertices that a region may move at most. */
const MOST_POINTS = 60_000;
/** Painted less than this nothing moves. */
const LEAST = 1e-3;

/** How much each point of a mesh is part of a region, 0..1. */
function weightsOn(
  character: Character,
  part: Pick<RegionPart, 'name' | 'id' | 'where' | 'maps'>,
  node: number,
  sheet: Sheet,
  metresPerUnit: number,
): Float64Array {
  const { where } = part;
  if (where.by === 'ball') return fromBall(sheet, where, metresPerUnit);
  const out = new Float64Array(sheet.points);
  if (where.by === 'joint')
    eachWeight(character, node, (vertex, joints, weights) => {
      const p = sheet.pointOf[vertex]!;
      let sum = 0;
      joints.forEach((j, k) => (sum += j === where.joint.node ? weights[k]! : 0));
      out[p] = Math.max(out[p]!, Math.min(1, sum));
    });
  const map = where.by === 'map' ? part.maps.weight : null;
  if (!map) return out;
  if (map.vertices !== sheet.pointOf.length)
    throw new OscillumError(
      'shot.invalid',
      `${part.name}: it was painted on ${map.vertices} vertices, and the mesh has ${sheet.pointOf.length}`,
      `/parts/${part.id}/maps/weight`,
      'Remove this region, or paint it anew.',
    );
  return toPoints(sheet, readWeightMap(map));
}

/** Finds a region's meshes and what of them moves. Throws OscillumError('shot.invalid') where they are not there. */
export function layOutRegion(character: Character, part: RegionPart, metresPerUnit: number): RegionLayout {
  const fail = (message: string, place: string, remedy: string) =>
    new OscillumError('shot.invalid', `${part.name}: ${message}`, `/parts/${part.id}/${place}`, remedy);
  if (part.where.by === 'joint' && character.nodes[part.where.joint.node]?.name !== part.where.joint.name)
    throw fail(
      `the joint ${part.where.joint.name} is not on this character`,
      'where',
      'Choose another joint, or another way to say what moves.',
    );
  const meshes = part.where.by === 'map' ? [part.mesh] : [part.mesh, ...part.also];
  const sheets = meshes.map(({ node, name }) => {
    if (character.nodes[node]?.name !== name || character.nodes[node].mesh < 0)
      throw fail(
        `the mesh ${name} is not on this character`,
        'mesh',
        'Remove this region and make it again.',
      );
    const sheet = sheetOf(character, node);
    return { node, sheet, weights: weightsOn(character, part, node, sheet, metresPerUnit) };
  });
  const { pieces, ...rest } = meshOf(sheets, LEAST, metresPerUnit);
  const free = rest.lattice.points;
  if (free > MOST_POINTS)
    throw fail(
      `${free} vertices would move, more than the ${MOST_POINTS} that a region can have`,
      'where',
      'Make it smaller, or choose a simpler mesh.',
    );
  const most = pieces.reduce((a, b) => (b.picked.length > a.picked.length ? b : a), pieces[0]!);
  const { node } = most;
  const sheet = sheetOf(character, node);
  const held = Uint8Array.from({ length: sheet.points }, () => 0);
  most.picked.forEach((v) => (held[sheet.pointOf[v]!] = 1));
  const carrier = carrierOf(character, node, held, sheet);
  // Only joints that weigh its points: with others it would wait for parts that never move it.
  const borne = pieces.flatMap((p) => weighingJoints(character, p.node, (v) => p.pointOf[v]! >= 0));
  return {
    ...{ part, pieces, ...rest, carrier },
    joints: new Int32Array(0),
    above: new Int32Array(0),
    borne: [...new Set([carrier, ...borne])],
  };
}
