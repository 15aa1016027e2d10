import type { Character } from '../../character/index';
import { softness } from '../../maps/index';
import { OscillumError } from '../../model/index';
import { carrierOf, sheetOf, weighingJoints } from '../../sheets/index';
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
    const map = part.maps.weight;
    if (part.where.by === 'map' && map && map.vertices !== sheet.pointOf.length)
      throw fail(
        `it was painted on ${map.vertices} vertices, and the mesh has ${sheet.pointOf.length}`,
        'maps/weight',
        'Remove this region, or paint it anew.',
      );
    return { node, sheet, weights: softness(character, node, sheet, part.where, map, metresPerUnit) };
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
  const held = new Uint8Array(sheet.points);
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
