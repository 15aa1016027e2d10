import { meshTriangles, type Character } from '../../character/index';
import { toPoints } from '../../maps/index';
import { OscillumError, readWeightMap } from '../../model/index';
import { carrierOf, diagonalsOf, heldPoints, sheetOf, weighingJoints, type Sheet } from '../../sheets/index';
import type { PartLayout } from '../kind';
import { tieJoints, tiedPoints, type TiedPoints } from './tiedPoints';
import { MAPS, type ClothPart, type MapKey } from './document';

/** The mesh behind a coarse cloth: its points move as the coarse ones among them do. */
export interface Detail {
  readonly sheet: Sheet;
  readonly held: Uint8Array;
  /** The point of the whole sheet that each coarse point is. */
  readonly pick: Int32Array;
  /** Points that lie between coarse ones, those next to them first, and all neighbours of each. */
  readonly between: Int32Array;
  /** Where each point stands among those; −1 for coarse and held ones. */
  readonly rank: Int32Array;
  readonly from: Int32Array;
  readonly beside: Int32Array;
}

/** Points that are a sheet, found on a character. */
export interface SheetLayout extends PartLayout {
  /** Its sheet at rest, in file units. */
  readonly sheet: Sheet;
  /** 1 for each point of the sheet that is held. */
  readonly held: Uint8Array;
  /** How far each edge runs across the threads of its texture, 0..1; null where that is not known. */
  readonly diagonal: Float64Array | null;
  /** What is tied to something else; points of a coarse sheet where it is one. */
  readonly ties: readonly TiedPoints[];
  /** Shares of settings, a point each. */
  readonly shares: Partial<Record<MapKey, Float64Array>>;
  /** The whole sheet where this is a coarse one of it. */
  readonly detail: Detail | null;
}

/** A cloth found on a character. */
export interface ClothLayout extends SheetLayout {
  readonly part: ClothPart;
  /** The node of its mesh, and vertices of it. */
  readonly node: number;
  readonly vertices: number;
  /** Nodes whose world matrices say where its skin is; the first carries what holds it. */
  readonly carriers: readonly number[];
}

/** Vertices that a cloth may have at most: beyond it a shot would not answer. */
const MOST_VERTICES = 60_000;

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
  if (sheet.edges.length === 0)
    throw fail(`${name} has no triangle with an area and no line`, 'mesh', 'Choose another mesh.');
  const skin = character.skins[own.skin];
  for (const { to } of part.ties)
    if (to.by === 'joint' && character.nodes[to.joint.node]?.name !== to.joint.name)
      throw fail(
        `the joint ${to.joint.name} it is tied to is not on this character`,
        'ties',
        'Remove the tie, or choose another joint.',
      );
  const shares = sharesOf(character, part, sheet, (key, count) =>
    fail(
      `its map of ${key} was painted on ${count} vertices, and ${name} has ${vertices}`,
      `maps/${key}`,
      'Remove the map, or paint it anew.',
    ),
  );
  return {
    ...{ part, node, vertices, sheet, detail: null, diagonal: diagonalsOf(character, node, sheet) },
    joints: new Int32Array(0),
    above: new Int32Array(0),
    borne: [...weighingJoints(character, node), ...tieJoints(part)],
    ties: tiedPoints(character, part, sheet),
    carriers: [...new Set([carrierOf(character, node, shares.held, sheet), ...(skin?.joints ?? [node])])],
    ...shares,
  };
}

/** The maps of a cloth as shares a point, and the points that are held: by what holds it, or by a leash of 0. */
function sharesOf(
  character: Character,
  part: ClothPart,
  sheet: Sheet,
  other: (key: MapKey, count: number) => OscillumError,
): Pick<ClothLayout, 'held' | 'shares'> {
  const held = heldPoints(character, part.mesh.node, part.holds, sheet);
  const shares: Partial<Record<MapKey, Float64Array>> = {};
  for (const key of MAPS) {
    const map = part.maps[key];
    if (!map) continue;
    if (map.vertices !== sheet.pointOf.length) throw other(key, map.vertices);
    shares[key] = toPoints(sheet, readWeightMap(map));
  }
  shares.leash?.forEach((s, p) => s === 0 && (held[p] = 1));
  return { held, shares };
}
