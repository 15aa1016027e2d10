import { z } from 'zod';
import { ValueKeys } from './curves';
import type { SettingTable } from './settingTable';
import type { WeightMap } from './weightMap';
import { documentName, frameNumber, PartId } from './world';

/** Joints that a row in a part may have at most. */
export const MAX_ROW_JOINTS = 400;

/** Which of some things, by id, a part minds. */
const Ids = z.array(z.string().max(40)).max(2000);
export const Minds = z.union([z.literal('all'), Ids, z.strictObject({ allBut: Ids.min(1) })]);
export type Minds = z.infer<typeof Minds>;
export const minds = (list: Minds, id: string): boolean =>
  list === 'all' || (Array.isArray(list) ? list.includes(id) : !list.allBut.includes(id));

/** A list of things minded without one, whatever comes later. */
export const withoutMinded = (list: Minds, id: string): Minds =>
  Array.isArray(list)
    ? list.filter((x) => x !== id)
    : { allBut: [...(list === 'all' ? [] : list.allBut), id] };

/** The ids that a list of things minded says. */
export const mindedIds = (list: Minds): readonly string[] =>
  list === 'all' ? [] : Array.isArray(list) ? list : list.allBut;

const frameCount = z.number().min(0).max(10_000);
/** x, y, z, w; made unit where it is used. */
const turnOfJoint = z
  .tuple([z.number(), z.number(), z.number(), z.number()])
  .refine((q) => q.some((x) => Math.abs(x) > 1e-6) && q.every((x) => Math.abs(x) <= 2), {
    error: 'A turn is four numbers, not all 0',
  });

/**
 * A frame at which a part is exactly in a pose, with frames to come to it, to stay in it and to leave it. The pose is
 * its source's, or one of one's own: turns of single joints in their parents' spaces, by their places in the row. What
 * is not turned goes on as it is simulated.
 */
const AnchorPose = z.strictObject({
  frame: frameNumber,
  easeIn: frameCount.default(8),
  easeOut: frameCount.default(8),
  hold: frameCount.default(0),
  turns: z
    .record(z.string().regex(/^\d{1,3}$/), turnOfJoint)
    .nullable()
    .default(null),
});
export type AnchorPose = z.infer<typeof AnchorPose>;

/** What a part of every kind has; a kind's document spreads it and adds its own. */
export const partBase = {
  id: PartId,
  name: documentName,
  /** Place in lists; ties are broken by id. */
  order: z.number().default(0),
  muted: z.boolean().default(false),
  /** The clip that holds its motion since a bake muted it for that; null when it was not, or was muted by hand. */
  bakedInto: z.string().max(1000).nullable().default(null),
  anchors: z
    .array(AnchorPose)
    .max(1000)
    .refine((a) => new Set(a.map((p) => p.frame)).size === a.length, {
      error: 'Two anchor poses of one part stand on the same frame',
    })
    .default([]),
};

/** The fields of {@link partBase}, with what every kind has in its own way: a kind, settings and keys of them. */
export interface PartBase {
  readonly kind: string;
  id: PartId;
  name: string;
  order: number;
  muted: boolean;
  bakedInto: string | null;
  anchors: AnchorPose[];
  settings: Record<string, number>;
  keys: { [key: string]: ValueKeys | undefined };
}

/** Things of the document in their stable order: by `order`, then by id. */
export function inOrder<T extends { readonly order: number; readonly id: string }>(
  things: Readonly<Record<string, T>>,
): T[] {
  return Object.values(things).sort((a, b) => a.order - b.order || (a.id < b.id ? -1 : 1));
}

/** What a part moves, by the paths of glTF. */
export interface Claim {
  readonly node: number;
  readonly name: string;
  readonly path: 'translation' | 'rotation' | 'scale' | 'weights' | 'points';
  /** Others may move it too: what they do adds up. Else it has one owner. */
  readonly shared: boolean;
}

/** Things of a shot that a part names, or that are there to be named, by id. */
export interface There {
  readonly colliders: ReadonlySet<string>;
  readonly parts: ReadonlySet<string>;
}
export interface Names {
  readonly colliders: readonly string[];
  readonly parts: readonly string[];
}

/** A joint or a mesh of a file, by its node and the name it had. */
interface NodeRef {
  readonly node: number;
  readonly name: string;
}

/** Where a part is carried to. */
export interface Onto {
  /** The node of that name, or null. */
  find(ref: NodeRef): NodeRef | null;
  parentOf(node: number): number;
  /** Vertices of the mesh of a node; 0 when it has none. */
  verticesOf(node: number): number;
  /** A map of the old mesh (by its node) for the new one, by nearest place; null when the old is not known. */
  carriedMap(map: WeightMap, from: number, to: number): WeightMap | null;
  /** Whether it is the same character, so that what belongs to frames and places still holds. */
  readonly same: boolean;
}

/** The document of a kind of part, and the rules that keep it whole when other things change. */
export interface PartDocument<D extends PartBase = PartBase> {
  readonly schema: z.ZodType<D>;
  readonly settings: SettingTable;
  /** The settings that a pendulum may add to. */
  readonly driven: readonly string[];
  claims(part: D): readonly Claim[];
  /** Other things it names. */
  names(part: D): Names;
  /** Lets go, in place, of what it names that is not there any more. */
  mend(part: D, there: There): void;
  /**
   * Puts it, in place, on another character or clip: everything it names is looked for by its name. Returns what is not
   * there, and whether the part can do without.
   */
  carry(part: D, onto: Onto): { readonly keeps: boolean; readonly missed: readonly string[] };
  /** What an edit of some parts of this kind changes on others that are linked with them, by id. */
  linked?(after: readonly D[], before: Readonly<Record<string, unknown>>): ReadonlyMap<string, Partial<D>>;
  /**
   * Makes, in place, every length in it so many times as large: settings, keys, and what else has a place or a size.
   */
  scale(part: D, by: number): void;
}

/** A list of things minded with one more or less. Ids that are not there are dropped; everything is said as 'all'. */
export function withMinded(list: Minds, there: Iterable<string>, id: string, on: boolean): Minds {
  const all = [...there];
  const next = all.filter((x) => (x === id ? on : minds(list, x)));
  if (next.length === all.length) return 'all';
  if (list !== 'all' && !Array.isArray(list)) return { allBut: all.filter((x) => !next.includes(x)) };
  return next;
}

/** Drops what is not there from a list of things minded. */
export function mendMinds(list: Minds, there: ReadonlySet<string>): Minds {
  if (mindedIds(list).every((id) => there.has(id))) return list;
  const kept = mindedIds(list).filter((id) => there.has(id));
  if (Array.isArray(list)) return kept;
  return kept.length > 0 ? { allBut: kept } : 'all';
}

/**
 * Puts, in place, the maps of a part on the mesh it is carried to, by nearest place; those that cannot be go. Returns
 * what is missed. `from` is the node its mesh had.
 */
export function carryMaps<K extends string>(
  part: { readonly name: string; readonly maps: Partial<Record<K, WeightMap>> },
  keys: readonly K[],
  from: number,
  mesh: NodeRef,
  { verticesOf, carriedMap }: Pick<Onto, 'verticesOf' | 'carriedMap'>,
): string[] {
  const missed: string[] = [];
  for (const key of keys) {
    const map = part.maps[key];
    if (!map || map.vertices === verticesOf(mesh.node)) continue;
    const carried = carriedMap(map, from, mesh.node);
    if (carried) {
      part.maps[key] = carried;
      continue;
    }
    missed.push(
      `${part.name}: the map of ${key}, which was painted on ${map.vertices} vertices (${mesh.name} has ${verticesOf(mesh.node)})`,
    );
    delete part.maps[key];
  }
  return missed;
}

const limited = (x: number, min: number, max: number): number => Math.min(max, Math.max(min, x));

/** A length (m) so many times as large, to a micrometre of a metre's size, within what a document may hold. */
export const scaledLength = (x: number, by: number, min = -1e6, max = 1e6): number =>
  limited(Number((x * by).toPrecision(9)), min, max);

export const scaledPlace = (t: readonly number[], by: number): [number, number, number] =>
  t.map((x) => scaledLength(x, by)) as [number, number, number];

/** Scales, in place, the settings that are lengths, with their keys. */
export function scaleSettings(part: PartBase, table: SettingTable, by: number): void {
  for (const key of Object.keys(table)) {
    const { unit, min, max } = table[key]!;
    if (unit !== 'm') continue;
    part.settings[key] = scaledLength(part.settings[key]!, by, min, max);
    for (const k of part.keys[key] ?? []) k.value = scaledLength(k.value, by, min, max);
  }
}
