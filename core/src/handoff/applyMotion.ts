import { makePose, rootMatrix, worldMatrices, type Character } from '../character/index';
import { writeGlb, type BakedChannel, type Container } from '../formats/gltf/index';
import { keepSigns, motionSize, turnBack, worldOf, type Motion } from '../formats/motion/index';
import { matRotation, norm, quatBetween, quatConjugate, quatMultiply, quatRotate } from '../math/index';
import { OscillumError } from '../model/index';
import { plainName } from './compare';

/** A character with one clip more, and which joints found no like. */
export interface Applied {
  readonly bytes: Uint8Array<ArrayBuffer>;
  readonly matched: number;
  /** Joints of the motion that the character does not have. */
  readonly missed: readonly string[];
}

/** Directions that make a smaller angle than this (its sine) are one direction. */
const ONE_DIRECTION = 0.05;
/** A place that leaves its rest by this share of the skeleton's size moves. */
const MOVES = 1e-5;

/**
 * Writes a motion as a clip of a character with joints of like names, frame by frame. Rest poses are aligned first:
 * each of the character's bones is turned to point where the motion's bone points at rest (by two of its bones where a
 * joint has more than one, so that branches fit too), and then follows its turns in the world. Places that move are
 * scaled by the two skeletons' sizes. Throws OscillumError('joints.invalid') when no name is alike.
 */
export function applyMotion(
  container: Container,
  character: Character,
  motion: Motion,
  name: string,
): Applied {
  const nodeOf = new Map(Array.from(character.joints, (n) => [plainName(character.nodes[n]!.name), n]));
  const pairs = new Map<number, number>();
  motion.joints.forEach((j, i) => {
    const node = nodeOf.get(plainName(j.name));
    if (node !== undefined && !pairs.has(node)) pairs.set(node, i);
  });
  if (pairs.size === 0)
    throw new OscillumError(
      'joints.invalid',
      'No joint of the motion has a name that is a joint of this character',
      '',
      'Rename the joints of one of them so that those that belong together are called alike.',
    );
  const matched = new Set(pairs.values());
  const { rotations, moving } = follow(character, motion, pairs);
  const times = Float64Array.from({ length: motion.count }, (_, f) => f / motion.fps);
  const channels: BakedChannel[] = [];
  for (const [node, values] of rotations) {
    keepSigns(values, 1);
    channels.push({ node, path: 'rotation', interpolation: 'LINEAR', times, values });
  }
  for (const [node, values] of moving)
    channels.push({ node, path: 'translation', interpolation: 'LINEAR', times, values });
  const bytes = writeGlb(container, { name, channels, source: -1, replace: false, shift: 0, extras: {} });
  return {
    bytes,
    matched: pairs.size,
    missed: motion.joints.flatMap((j, i) => (matched.has(i) ? [] : [j.name])),
  };
}

/** Turns and places of the matched nodes, frame by frame. */
function follow(
  character: Character,
  motion: Motion,
  pairs: ReadonlyMap<number, number>,
): { rotations: Map<number, Float64Array>; moving: Map<number, Float64Array> } {
  const rest = restOf(motion);
  const source = worldOf(rest, 0);
  const target = restWorld(character);
  const scale = scaleOf(motion, pairs, target.places);
  const align = alignment(character, pairs, source, target);

  const least = MOVES * motionSize(rest);
  const order = Array.from(character.order);
  const world = new Float64Array(4 * character.nodes.length);
  const rotations = new Map([...pairs.keys()].map((n) => [n, new Float64Array(4 * motion.count)]));
  const moving = new Map(
    [...pairs]
      .filter(([, i]) => movesFrom(motion, i, least))
      .map(([n]) => [n, new Float64Array(3 * motion.count)]),
  );
  const q = new Float64Array(4);
  const back = new Float64Array(4);
  for (let f = 0; f < motion.count; f++) {
    const now = worldOf(motion, f);
    for (const n of order) {
      const node = character.nodes[n]!;
      const above = node.parent < 0 ? [0, 0, 0, 1] : world.subarray(4 * node.parent, 4 * node.parent + 4);
      const i = pairs.get(n);
      if (i === undefined) {
        quatMultiply(world, 4 * n, above, 0, node.r, 0);
        continue;
      }
      // As far as the motion's joint has turned from its rest, the aligned bone turns.
      quatConjugate(back, 0, source.turns, 4 * i);
      quatMultiply(q, 0, now.turns, 4 * i, back, 0);
      quatMultiply(q, 0, q, 0, align.get(n)!, 0);
      quatMultiply(world, 4 * n, q, 0, target.turns, 4 * n);
      quatConjugate(back, 0, above, 0);
      quatMultiply(rotations.get(n)!, 4 * f, back, 0, world, 4 * n);
      const places = moving.get(n);
      if (!places) continue;
      const { parent, t } = motion.joints[i]!;
      // A root, and a joint that BVH gives its whole place frame by frame, stands where it stands; others leave their
      // rest.
      const whole = parent < 0 || norm(t) < least;
      const way = [0, 1, 2].map(
        (a) => scale * (motion.t[3 * (f * motion.joints.length + i) + a]! - (whole ? 0 : t[a]!)),
      );
      if (parent >= 0) quatRotate(way, 0, now.turns, 4 * parent, way, 0);
      const own = turnBack(Float64Array.from(above), 0, way);
      places.set(
        own.map((x, a) => (whole ? x : node.t[a]! + x)),
        3 * f,
      );
    }
  }
  return { rotations, moving };
}

/** A motion of one frame: its rest. */
function restOf(motion: Motion): Motion {
  const all = (key: 't' | 'r' | 's') => Float64Array.from(motion.joints.flatMap((j) => [...j[key]]));
  return { ...motion, first: 0, count: 1, t: all('t'), r: all('r'), s: all('s') };
}

/** Places and turns of all nodes at rest, in file units. */
function restWorld(character: Character): { places: Float64Array; turns: Float64Array } {
  const n = character.nodes.length;
  const world = new Float64Array(16 * n);
  worldMatrices(character, makePose(character), rootMatrix(1, 'Y'), world);
  const places = new Float64Array(3 * n);
  const turns = new Float64Array(4 * n);
  for (let i = 0; i < n; i++) {
    places.set(world.subarray(16 * i + 12, 16 * i + 15), 3 * i);
    matRotation(turns, 4 * i, world, 16 * i);
  }
  return { places, turns };
}

/** How much longer the character's bones are than the motion's, together; 1 without bones in both. */
function scaleOf(motion: Motion, pairs: ReadonlyMap<number, number>, places: Float64Array): number {
  const nodes = new Map([...pairs].map(([n, i]) => [i, n]));
  let ours = 0;
  let theirs = 0;
  for (const [n, i] of pairs) {
    const { parent, t } = motion.joints[i]!;
    const above = nodes.get(parent);
    // What has no offset at rest says nothing.
    if (above === undefined || norm(t) < 1e-9) continue;
    theirs += norm(t);
    ours += norm([0, 1, 2].map((a) => places[3 * n + a]! - places[3 * above + a]!));
  }
  return ours > 0 && theirs > 0 ? ours / theirs : 1;
}

/** For each matched node the turn in the world that lays its bones at rest along those of the motion. */
function alignment(
  character: Character,
  pairs: ReadonlyMap<number, number>,
  source: { places: Float64Array },
  target: { places: Float64Array },
): Map<number, Float64Array> {
  const out = new Map<number, Float64Array>();
  /** The matched node a node hangs from, through any that are not. */
  const matchedAbove = (n: number): number => {
    let p = character.nodes[n]!.parent;
    while (p >= 0 && !pairs.has(p)) p = character.nodes[p]!.parent;
    return p;
  };
  const below = new Map<number, number[]>();
  for (const n of character.order)
    if (pairs.has(n)) below.set(matchedAbove(n), [...(below.get(matchedAbove(n)) ?? []), n]);
  const direction = (list: Float64Array, from: number, to: number): number[] | null => {
    const way = [0, 1, 2].map((a) => list[3 * to + a]! - list[3 * from + a]!);
    const l = norm(way);
    return l > 1e-9 ? way.map((x) => x / l) : null;
  };
  for (const n of character.order) {
    const i = pairs.get(n);
    if (i === undefined) continue;
    const bones = (below.get(n) ?? []).flatMap((c) => {
      const [a, b] = [direction(target.places, n, c), direction(source.places, i, pairs.get(c)!)];
      return a && b ? [{ a, b }] : [];
    });
    const turn = Float64Array.of(0, 0, 0, 1);
    const first = bones[0];
    const second = bones.find(
      (x) => first && norm(cross(first.a, x.a)) > ONE_DIRECTION && norm(cross(first.b, x.b)) > ONE_DIRECTION,
    );
    if (first && second) frameTurn(turn, first.a, second.a, first.b, second.b);
    else if (first)
      quatBetween(
        turn,
        0,
        first.a[0]!,
        first.a[1]!,
        first.a[2]!,
        first.b[0]!,
        first.b[1]!,
        first.b[2]!,
        1,
        0,
        0,
      );
    else turn.set(out.get(matchedAbove(n)) ?? turn);
    out.set(n, turn);
  }
  return out;
}

const cross = (a: readonly number[], b: readonly number[]): number[] => [
  a[1]! * b[2]! - a[2]! * b[1]!,
  a[2]! * b[0]! - a[0]! * b[2]!,
  a[0]! * b[1]! - a[1]! * b[0]!,
];

/**
 * The turn that takes directions a1, a2 to b1 (exactly) and b2 (as far as their angle allows). Source: TRIAD (Black
 * 1964).
 */
function frameTurn(
  out: Float64Array,
  a1: readonly number[],
  a2: readonly number[],
  b1: readonly number[],
  b2: readonly number[],
): void {
  const frame = (x: readonly number[], y: readonly number[]) => {
    const z = cross(x, y);
    const l = norm(z);
    const unit = z.map((v) => v / l);
    return [x, cross(unit, x), unit] as const;
  };
  const [p, q] = [frame(a1, a2), frame(b1, b2)];
  const m = new Float64Array(16);
  // Sum of the outer products q pᵀ, column-major.
  for (let c = 0; c < 3; c++)
    for (let r = 0; r < 3; r++) m[4 * c + r] = [0, 1, 2].reduce((s, k) => s + q[k]![r]! * p[k]![c]!, 0);
  m[15] = 1;
  matRotation(out, 0, m, 0);
}

function movesFrom(motion: Motion, joint: number, least: number): boolean {
  const { t } = motion.joints[joint]!;
  for (let f = 0; f < motion.count; f++)
    for (let a = 0; a < 3; a++)
      if (Math.abs(motion.t[3 * (f * motion.joints.length + joint) + a]! - t[a]!) > least) return true;
  return false;
}
