import { makePose, rootMatrix, updateWorld, type Character, type Pose } from '../character/index';
import { cos, matInvert, quatFromAxis, quatMultiply, sin } from '../math/index';
import { inOrder, makeValueCurve, type AddedMotion } from '../model/index';
import { actionRange, channelsOf, liveAgain, partsInOrder, playsKeys, type Shot } from '../shot/index';
import type { Source } from '../parts/index';
import { clipOf, runUp } from './clip';
import { carrierOf, findCycle, isPlain, makeCycle, type Carrier, type Cycle } from './cycle';

/** Something that a source moves otherwise than the file's clip does. */
export interface Changed {
  readonly node: number;
  readonly path: 'rotation' | 'translation' | 'scale' | 'weights';
}

/** The clip of a shot as it is played, with what was added to it. */
export interface ClipSource extends Source {
  /** Seconds after which the clip stands still; Infinity without one. Whether it moves before its begin. */
  readonly lasts: number;
  readonly leads: boolean;
  /** Whether it is the file's clip, frame by frame, but for what was added. */
  readonly plain: boolean;
  readonly changed: readonly Changed[];
}

/**
 * The clip of a shot as its cycle has it played, with its added motion, and without its travel when it is to stay in
 * place. Throws OscillumError('shot.invalid') when the clip is not there; motion of joints that are not there does
 * nothing.
 */
export function makeSource(character: Character, shot: Shot): ClipSource {
  const clip = clipOf(character, shot);
  const live = channelsOf(liveAgain(shot));
  // Keys that were baked hold what was added then.
  const baked = channelsOf(partsInOrder(shot).filter((p) => playsKeys(shot, p)));
  const added = inOrder(shot.addedMotions).filter(
    ({ muted, joint, path }) =>
      !muted && character.nodes[joint.node]?.name === joint.name && !baked({ node: joint.node, path }),
  );
  const writers = added.map((m) =>
    m.path === 'rotation' ? turnWriter(m, shot) : moveWriter(m, shot, character),
  );
  // Before a run-up the clip is in the time before, where it closes.
  const runs = runUp(shot) > 0 && findCycle(character, clip, shot)?.kind === 'closes';
  const cycle = makeCycle(character, clip, shot, runs);
  const drift = shot.inPlace ? driftOf(cycle, carrierOf(character, clip, shot), character, shot) : null;
  const action = actionRange(shot);
  const length = Math.max(1, action.last - action.first);
  const plain = isPlain(shot.cycle) && shot.stillAt === null;
  const channels = (shot.clip ? character.clips[shot.clip.index]?.channels : undefined) ?? [];
  const changed: Changed[] = [
    ...added.map((m) => ({ node: m.joint.node, path: m.path })),
    ...(drift ? [{ node: drift.node, path: 'translation' as const }] : []),
    ...channels.flatMap(({ node, path }) =>
      path !== 'points' && (!plain || (shot.clip!.baked && live({ node, path }))) ? [{ node, path }] : [],
    ),
  ];
  return {
    lasts: clip ? cycle.total : Infinity,
    leads: runs,
    plain,
    at: (frame, out) => {
      // Frames that were added to see it settle hold its last pose.
      const acted = Math.min(frame, shot.settleFrames > 0 && !shot.loop ? action.last : Infinity);
      const shown = shot.stillAt ?? acted;
      cycle.at(shown, out);
      if (drift)
        for (let a = 0; a < 3; a++)
          out.t[3 * drift.node + a]! -= (drift.way[a]! * (shown - shot.range.first)) / length;
      for (const write of writers) write(out, acted);
    },
    changed,
  };
}

/** Degrees about its axis, or m along it, at a frame: of motion that has one fixed axis. */
export function motionAmount(turn: AddedMotion, range: Shot['range']): (frame: number) => number {
  const length = Math.max(1, range.last - range.first);
  const round = (frame: number) => (turn.count * (frame - range.first)) / length + turn.phase;
  if (turn.kind === 'turn') return (frame) => turn.amount * round(frame);
  if (turn.kind === 'swing') return (frame) => turn.amount * sin(2 * Math.PI * round(frame));
  if (turn.kind === 'circle' || turn.keys.length === 0) return () => 0;
  const curve = makeValueCurve(turn.keys);
  const frames = turn.keys.map((k) => k.frame);
  const [first, last] = [Math.min(...frames), Math.max(...frames)];
  if (!turn.cycles || last === first) return curve;
  const wrap = (f: number) => first + ((((f - first) % (last - first)) + last - first) % (last - first));
  return (frame) => curve(frame === last ? last : wrap(frame));
}

/** Adds something to a pose at a frame. */
type Writer = (pose: Pose, frame: number) => void;

/** A unit vector, and two across it. */
function axesOf([x, y, z]: readonly [number, number, number]): readonly [V3, V3, V3] {
  const l = Math.sqrt(x * x + y * y + z * z) || 1;
  const axis = [x / l, y / l, z / l] as const;
  const helper = Math.abs(axis[0]) < 0.9 ? ([1, 0, 0] as const) : ([0, 1, 0] as const);
  const e = cross(axis, helper);
  const el = Math.sqrt(e[0] * e[0] + e[1] * e[1] + e[2] * e[2]);
  const u = [e[0] / el, e[1] / el, e[2] / el] as const;
  return [axis, u, cross(axis, u)];
}

/** Where on its circle a motion is at a frame: cosine and sine. */
function roundOf(m: AddedMotion, shot: Shot, frame: number): readonly [number, number] {
  const range = actionRange(shot);
  const length = Math.max(1, range.last - range.first);
  const round = 2 * Math.PI * ((m.count * (frame - range.first)) / length + m.phase);
  return [cos(round), sin(round)];
}

/** Turns a joint about an axis of its own space. */
function turnWriter(m: AddedMotion, shot: Shot): Writer {
  const [axis, u, v] = axesOf(m.axis);
  const { node } = m.joint;
  const angle = motionAmount(m, actionRange(shot));
  const q = new Float64Array(4);
  return (pose, frame) => {
    if (m.kind === 'circle') {
      // Its axis goes round in the plane across `axis`.
      const [c, s] = roundOf(m, shot, frame);
      const at = (k: 0 | 1 | 2) => c * u[k] + s * v[k];
      quatFromAxis(q, 0, at(0), at(1), at(2), (m.amount * Math.PI) / 180);
    } else quatFromAxis(q, 0, ...axis, (angle(frame) * Math.PI) / 180);
    quatMultiply(pose.r, 4 * node, pose.r, 4 * node, q, 0);
  };
}

/** Moves a joint along an axis of the world, m. */
function moveWriter(m: AddedMotion, shot: Shot, character: Character): Writer {
  const [axis, u, v] = axesOf(m.axis);
  const { node } = m.joint;
  const amount = motionAmount(m, actionRange(shot));
  const root = rootMatrix(shot.character.metresPerUnit, shot.character.upAxis);
  const above: number[] = [];
  for (let n = character.nodes[node]!.parent; n >= 0; n = character.nodes[n]!.parent) above.unshift(n);
  const world = new Float64Array(16 * character.nodes.length);
  const inverse = new Float64Array(16);
  return (pose, frame) => {
    for (const n of above) updateWorld(character, pose, root, n, world);
    const parent = above.length > 0 ? world.subarray(16 * above[above.length - 1]!) : root;
    // A parent without extent cannot be moved in.
    if (!matInvert(inverse, 0, parent, 0)) return;
    const [c, s] = m.kind === 'circle' ? roundOf(m, shot, frame) : [0, 0];
    const by = m.kind === 'circle' ? 0 : amount(frame);
    const way = ([0, 1, 2] as const).map((k) => by * axis[k] + m.amount * (c * u[k] + s * v[k]));
    for (let a = 0; a < 3; a++)
      pose.t[3 * node + a]! += inverse[a]! * way[0]! + inverse[4 + a]! * way[1]! + inverse[8 + a]! * way[2]!;
  };
}

type V3 = readonly [number, number, number];
const cross = (a: V3, b: V3): V3 => [
  a[1] * b[2] - a[2] * b[1],
  a[2] * b[0] - a[0] * b[2],
  a[0] * b[1] - a[1] * b[0],
];

/** How far the node that carries the figure travels over the range, level with the ground, in its parent's space. */
function driftOf(
  cycle: Cycle,
  carrier: Carrier | null,
  character: Character,
  shot: Shot,
): { node: number; way: Float64Array } | null {
  if (!carrier) return null;
  const { node, up } = carrier;
  const range = actionRange(shot);
  const pose = makePose(character);
  const place = (frame: number) => {
    cycle.at(frame, pose);
    return pose.t.slice(3 * node, 3 * node + 3);
  };
  const way = place(range.last);
  place(range.first).forEach((x, a) => (way[a]! -= x));
  // What goes up stays.
  const lift = way[0]! * up[0]! + way[1]! * up[1]! + way[2]! * up[2]!;
  for (let a = 0; a < 3; a++) way[a]! -= lift * up[a]!;
  return { node, way };
}
