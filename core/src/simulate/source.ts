import { makePose, samplePose, type Character } from '../character/index';
import { cos, matRotation, quatConjugate, quatFromAxis, quatMultiply, quatRotate, sin } from '../math/index';
import { inOrder, makeValueCurve, type SourceTurn } from '../model/index';
import { channelsOf, liveAgain, partsInOrder, playsKeys, type Shot } from '../shot/index';
import { rootMatrix, worldMatrices } from '../character/index';
import type { Source } from '../parts/index';
import { clipOf } from './clip';

/** The clip of a shot with what was added to it, and which nodes it turns and moves otherwise than the file's clip. */
export interface ClipSource extends Source {
  readonly turned: ReadonlySet<number>;
  readonly moved: ReadonlySet<number>;
}

/**
 * The clip of a shot with its added turns, and without its travel when it is to stay in place. Throws
 * OscillumError('shot.invalid') when the clip is not there; turns of joints that are not there do nothing.
 */
export function makeSource(character: Character, shot: Shot): ClipSource {
  const clip = clipOf(character, shot);
  const live = channelsOf(liveAgain(shot));
  // Keys that were baked hold what was added then.
  const baked = channelsOf(partsInOrder(shot).filter((p) => playsKeys(shot, p)));
  const turns = inOrder(shot.sourceTurns).filter(
    (t) =>
      !t.muted &&
      character.nodes[t.joint.node]?.name === t.joint.name &&
      !baked({ node: t.joint.node, path: 'rotation' }),
  );
  const added = turns.map((turn) => ({ node: turn.joint.node, write: turnOf(turn, shot) }));
  const drift = shot.inPlace ? driftOf(character, shot) : null;
  const q = new Float64Array(4);
  const length = Math.max(1, shot.range.last - shot.range.first);
  const nodesWith = (path: 'rotation' | 'translation') =>
    (shot.clip?.baked ? character.clips[shot.clip.index]!.channels : []).flatMap((c) =>
      c.path === path && live(c) ? [c.node] : [],
    );
  return {
    at: (frame, out) => {
      samplePose(character, clip, frame / shot.fps, out);
      if (drift)
        for (let a = 0; a < 3; a++)
          out.t[3 * drift.node + a]! -= (drift.way[a]! * (frame - shot.range.first)) / length;
      for (const { node, write } of added) {
        write(q, frame);
        quatMultiply(out.r, 4 * node, out.r, 4 * node, q, 0);
      }
    },
    turned: new Set([...added.map((a) => a.node), ...nodesWith('rotation')]),
    moved: new Set([...(drift ? [drift.node] : []), ...nodesWith('translation')]),
  };
}

/** Degrees about its axis at a frame: of turns that have one fixed axis. */
export function turnAngle(turn: SourceTurn, range: Shot['range']): (frame: number) => number {
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

/** What a turn adds at a frame, as a quaternion in the joint's own space. */
function turnOf(turn: SourceTurn, shot: Shot): (out: Float64Array, frame: number) => void {
  const [ax, ay, az] = turn.axis;
  const l = Math.sqrt(ax * ax + ay * ay + az * az) || 1;
  const axis = [ax / l, ay / l, az / l] as const;
  if (turn.kind !== 'circle') {
    const angle = turnAngle(turn, shot.range);
    return (out, frame) => quatFromAxis(out, 0, ...axis, (angle(frame) * Math.PI) / 180);
  }
  // Its axis goes round in the plane across `axis`.
  const helper = Math.abs(axis[0]) < 0.9 ? ([1, 0, 0] as const) : ([0, 1, 0] as const);
  const e = cross(axis, helper);
  const el = Math.sqrt(e[0] * e[0] + e[1] * e[1] + e[2] * e[2]);
  const u = [e[0] / el, e[1] / el, e[2] / el] as const;
  const v = cross(axis, u);
  const length = Math.max(1, shot.range.last - shot.range.first);
  return (out, frame) => {
    const round = 2 * Math.PI * ((turn.count * (frame - shot.range.first)) / length + turn.phase);
    const [c, s] = [cos(round), sin(round)];
    quatFromAxis(
      out,
      0,
      c * u[0] + s * v[0],
      c * u[1] + s * v[1],
      c * u[2] + s * v[2],
      (turn.amount * Math.PI) / 180,
    );
  };
}

type V3 = readonly [number, number, number];
const cross = (a: V3, b: V3): V3 => [
  a[1] * b[2] - a[2] * b[1],
  a[2] * b[0] - a[0] * b[2],
  a[0] * b[1] - a[1] * b[0],
];

/** How far the node that carries the figure travels over the range, level with the ground, in its parent's space. */
function driftOf(character: Character, shot: Shot): { node: number; way: Float64Array } | null {
  const clip = clipOf(character, shot);
  const keyed = new Set(clip?.channels.flatMap((c) => (c.path === 'translation' ? [c.node] : [])));
  const node = Array.from(character.order).find((n) => keyed.has(n));
  if (node === undefined) return null;
  const pose = makePose(character);
  const place = (frame: number) => {
    samplePose(character, clip, frame / shot.fps, pose);
    return pose.t.slice(3 * node, 3 * node + 3);
  };
  const way = place(shot.range.last);
  place(shot.range.first).forEach((x, a) => (way[a]! -= x));
  // What goes up stays.
  const up = new Float64Array([0, 1, 0]);
  const { parent } = character.nodes[node]!;
  const world = new Float64Array(16 * character.nodes.length);
  const root = rootMatrix(shot.character.metresPerUnit, shot.character.upAxis);
  worldMatrices(character, pose, root, world);
  const turn = new Float64Array(4);
  if (parent >= 0) matRotation(turn, 0, world, 16 * parent);
  else matRotation(turn, 0, root, 0);
  quatConjugate(turn, 0, turn, 0);
  quatRotate(up, 0, turn, 0, up, 0);
  const lift = way[0]! * up[0]! + way[1]! * up[1]! + way[2]! * up[2]!;
  for (let a = 0; a < 3; a++) way[a]! -= lift * up[a]!;
  return { node, way };
}
