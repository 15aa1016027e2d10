import { makePose, rootMatrix, updateWorld, type Character, type Clip } from '../character/index';
import { inOrder, OscillumError, type Collider } from '../model/index';
import {
  kindOf,
  writePlacement,
  type Hanging,
  type Moving,
  type PartLayout,
  type PartTrack,
  type Posed,
  type SourceTrack,
} from '../parts/index';
import { actionRange, partsInOrder, preRollFrames, type Part, type Shot } from '../shot/index';
import { makeArena } from '../solver/index';
import { clipOf, runUp } from './clip';
import { drivenSource } from './drive';
import { isPlain, makeCycle } from './cycle';
import { findLoop, wrapRows } from './findLoop';

/**
 * Poses are kept up to this many nodes × frames (about 200 bytes each); beyond it they are sampled again when asked.
 */
const MOST_KEPT = 1.5e6;

/** The joint a collider is attached to, or −1; a skinned mesh, the first joint of its skin. */
export function rideOf(character: Character, c: Collider): number {
  if (c.shape.kind !== 'mesh') return c.attachedTo?.node ?? -1;
  const skin = character.skins[character.nodes[c.shape.node]?.skin ?? -1];
  return skin?.joints[0] ?? c.shape.node;
}

/** Parts that are not muted, in order. */
export const moving = (shot: Shot): Part[] => partsInOrder(shot).filter((p) => !p.muted);

/** Nodes that colliders ride and parts follow. */
const ridden = (character: Character, shot: Shot): Set<number> =>
  new Set(
    inOrder(shot.colliders)
      .filter((c) => !c.muted)
      .map((c) => rideOf(character, c))
      .concat(moving(shot).flatMap((p) => kindOf(p).follows(p)))
      .filter((n) => n >= 0 && n < character.nodes.length),
  );

/** Everything that the rows of all parts depend on, but for what drives the source. */
export const sourceKey = (shot: Shot): readonly unknown[] => [
  shot.character,
  shot.clip,
  shot.fps,
  shot.range,
  actionRange(shot).last,
  shot.inPlace,
  shot.cycle,
  shot.stillAt,
  inOrder(shot.addedMotions),
  shot.loop,
  runUp(shot),
  waits(shot),
  inOrder(shot.colliders).map((c) => !c.muted && [c.attachedTo, c.shape.kind === 'mesh' && c.shape.node]),
];

/** Everything a source track depends on; equal keys mean an equal track. */
export const trackKey = (shot: Shot): string =>
  JSON.stringify([sourceKey(shot), moving(shot).map((p) => kindOf(p).sampled(p))]);

/** Whether the simulation begins at rest in the first pose rather than in the middle of the clip's motion. */
const waits = (shot: Shot): boolean => shot.start !== 'run up' && preRollFrames(shot) > 0 && !shot.loop;

/** The parts of a shot found on its character. Throws OscillumError('shot.invalid') where one does not fit. */
export const layOut = (character: Character, shot: Shot, coarse = false): PartLayout[] =>
  moving(shot).map((p) => {
    const kind = kindOf(p);
    const layout = kind.layout(character, p, shot.character.metresPerUnit);
    return coarse && kind.coarsen ? kind.coarsen(layout) : layout;
  });

/**
 * By part: how many parts it is tied to, one after the other: what is tied follows what it is tied to. Throws
 * OscillumError('shot.invalid') where sheets are tied in a ring.
 */
function tieDepths(shot: Shot, layouts: readonly PartLayout[]): Map<string, number> {
  const depths = new Map<string, number>();
  const sheets = new Map(layouts.filter((l) => l.borne).map((l) => [l.part.id as string, l.part]));
  const depthOf = (id: string, below: readonly string[]): number => {
    const part = sheets.get(id);
    if (!part) return 0;
    if (below.includes(id))
      throw new OscillumError(
        'shot.invalid',
        `${part.name} is tied to what is tied to it`,
        `/parts/${id}/ties`,
        'Remove one of the ties.',
      );
    const own = shot.parts[part.id]!;
    const known = depths.get(id);
    const depth =
      known ??
      Math.max(
        0,
        ...kindOf(own)
          .tied(own)
          .map((to) => 1 + depthOf(to, [...below, id])),
      );
    depths.set(id, depth);
    return depth;
  };
  for (const l of layouts) depths.set(l.part.id, depthOf(l.part.id, []));
  return depths;
}

/** Room for the rows of all parts, in one arena with room for what runs on them. */
function makeParts(character: Character, shot: Shot, layouts: readonly PartLayout[], rows: number) {
  // Parts come parents first, so that one hanging from another follows it; skins that others bear come last, and of
  // those first what others lie on, and at the end what lies on all others.
  const depth = tieDepths(shot, layouts);
  const place = (l: PartLayout) => {
    const { solid, fine } = kindOf(shot.parts[l.part.id]!);
    return solid ? 0 : fine ? 2 : 1;
  };
  const sorted = [...layouts].sort(
    (a, b) =>
      Number(!!a.borne) - Number(!!b.borne) ||
      place(a) - place(b) ||
      a.above.length - b.above.length ||
      depth.get(a.part.id)! - depth.get(b.part.id)!,
  );
  const kinds = sorted.map((l) => kindOf(shot.parts[l.part.id]!));
  const owner = new Map<number, Hanging>();
  sorted.forEach((l, part) => {
    if (!kinds[part]!.drive) l.joints.forEach((node, link) => owner.set(node, { part, link }));
  });
  // A part may touch every collider and every body of a part before it. What is not used is never touched.
  let size = 0;
  let needs = 0;
  let others = inOrder(shot.colliders).length;
  sorted.forEach((layout, i) => {
    const room = kinds[i]!.room(layout, rows, others);
    size += room.rows;
    needs += room.rows + room.run;
    others += room.bodies;
  });
  const arena = makeArena(needs);
  const parts: PartTrack[] = [];
  sorted.forEach((layout, i) => {
    let hanging: Hanging = { part: -1, link: -1 };
    for (const node of layout.above) {
      const own = owner.get(node);
      // A sheet of joints comes last: what hangs from it follows the source.
      if (own && own.part < i) hanging = own;
    }
    const bearers = (layout.borne ?? []).flatMap((joint) => {
      let node = joint;
      while (node >= 0 && !owner.has(node)) node = character.nodes[node]!.parent;
      const links: Hanging[] = [];
      for (let h = owner.get(node); h && h.part >= 0 && h.part < i; h = parts[h.part]!.hanging)
        links.unshift(h);
      return links.length > 0 ? [{ joint, links }] : [];
    });
    parts.push({ layout, hanging, bearers, source: kinds[i]!.source(layout, character, rows, arena) });
  });
  return { parts, arena, size };
}

/** Nodes whose world matrices matter, parents before children. */
function neededNodes(
  character: Character,
  shot: Shot,
  parts: readonly PartTrack[],
  joints: Iterable<number>,
): number[] {
  const needed = new Set<number>();
  const withAbove = (node: number) => {
    for (let n = node; n >= 0; n = character.nodes[n]!.parent) needed.add(n);
  };
  for (const { layout, source } of parts) {
    for (const node of layout.above) needed.add(node);
    for (const node of source.nodes) withAbove(node);
  }
  for (const node of joints) withAbove(node);
  for (const c of inOrder(shot.colliders)) {
    // A skinned mesh goes where its joints go.
    const skin = c.shape.kind === 'mesh' && !c.muted ? character.nodes[c.shape.node]?.skin : undefined;
    for (const joint of character.skins[skin ?? -1]?.joints ?? []) withAbove(joint);
  }
  return Array.from(character.order).filter((n) => needed.has(n));
}

/** Frames of one time of a clip that is repeated, where they are whole; else null. */
function oneTime(character: Character, clip: Clip | null, shot: Shot): number | null {
  if (isPlain(shot.cycle) || shot.cycle.repeats === 1) return null;
  const { length } = makeCycle(character, clip, shot);
  return Math.abs(length - Math.round(length)) < 1e-6 ? Math.round(length) : null;
}

/** Samples the source: row k is frame from − 1 + k, one frame before the first simulated and two after the last. */
export function makeTrack(character: Character, shot: Shot, layouts: readonly PartLayout[]): SourceTrack {
  const root = rootMatrix(shot.character.metresPerUnit, shot.character.upAxis);
  const source = drivenSource(character, shot);
  const clip = clipOf(character, shot);
  const { first } = shot.range;
  const frames = shot.range.last - first + 1;
  const from = first - runUp(shot);
  const rows = shot.range.last - from + 4;
  const { parts, arena, size } = makeParts(character, shot, layouts, rows);
  const joints = new Map([...ridden(character, shot)].map((node) => [node, new Float64Array(7 * rows)]));
  const nodes = neededNodes(character, shot, parts, joints.keys());
  const sample = (frame: number, out: Posed) => {
    source.at(frame, out.pose);
    for (const n of nodes) updateWorld(character, out.pose, root, n, out.world);
  };
  const fresh = (): Posed => ({
    pose: makePose(character),
    world: new Float64Array(16 * character.nodes.length),
  });
  const keep = character.nodes.length * frames <= MOST_KEPT;
  const kept: Posed[] = [];
  const [shared, shifted] = [fresh(), fresh()];
  const lates = [...new Set(parts.map((p) => p.layout.late ?? 0))];
  for (let k = 0; k < rows; k++) {
    const f = from - 1 + k - first;
    const posed = keep && f >= 0 && f < frames ? fresh() : shared;
    // Waiting happens on the first pose, so the frame before the range is that pose again.
    const frame = k === 0 && waits(shot) ? first : first + f;
    sample(frame, posed);
    for (const late of lates) {
      if (late !== 0) sample(frame - late, shifted);
      for (const p of parts)
        if ((p.layout.late ?? 0) === late) p.source.write(k, late === 0 ? posed : shifted);
    }
    for (const [node, placed] of joints) writePlacement(placed, k, posed.world, node);
    if (posed !== shared) kept.push(posed);
  }
  // Without a clip there is no end at which it would stop.
  const lasts = clip ? source.lasts * shot.fps - first : Infinity;
  const paths = parts.flatMap((p) => p.source.path ?? []);
  const loop = shot.loop ? findLoop(paths, rows, frames, lasts, oneTime(character, clip, shot)) : null;
  // Outside the clip the source stands still; its neighbours at the ends of the range are continued instead, so that
  // the first and last frame keep their velocity. In a loop they are those of the other end.
  const before = !waits(shot) && from - 1 < 0 && !source.leads;
  const after = (shot.range.last + 1) / shot.fps > (clip ? source.lasts : 0);
  const all: Moving[] = [
    ...parts.flatMap((p) => p.source.moving),
    ...[...joints.values()].map((list) => ({ list, places: [0], turns: [3] })),
  ];
  for (const m of all) {
    const width = m.list.length / rows;
    if (loop) wrapRows(m, width, loop, rows);
    else {
      if (before && rows > 4) continueRow(m.list, width, 0, 1, 2);
      if (after && rows > 4) {
        continueRow(m.list, width, rows - 2, rows - 3, rows - 4);
        continueRow(m.list, width, rows - 1, rows - 2, rows - 3);
      }
    }
  }
  for (const p of parts) p.source.finish(first - from + 1);
  const poseAt = (f: number): Posed => {
    if (keep) return kept[f]!;
    sample(first + f, shared);
    return shared;
  };
  const { drivers } = source;
  return { first, frames, from, parts, joints, loop, arena, size, drivers, poseAt };
}

/** Row `to` = 2 · row `a` − row `b`; turns are made unit when they are used. */
function continueRow(rows: Float64Array, size: number, to: number, a: number, b: number): void {
  for (let k = 0; k < size; k++) rows[to * size + k] = 2 * rows[a * size + k]! - rows[b * size + k]!;
}
