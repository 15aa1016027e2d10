import { atan2, norm, quatConjugate, quatMultiply } from '../../math/index';
import { turnBack, worldOf, type Motion } from '../motion/index';

/** A BVH file, and what of the motion it cannot hold, in sentences. */
export interface WrittenBvh {
  readonly text: string;
  readonly notes: readonly string[];
}

const DEGREES = 180 / Math.PI;
/** A place counts as moving when it leaves its offset by this share of the skeleton's size. */
const MOVES = 1e-6;

/** What of a motion BVH cannot hold, in sentences. */
function lossesOf(motion: Motion): string[] {
  const notes: string[] = [];
  const renamed = motion.joints.filter((j) => /\s/.test(j.name));
  if (renamed.length > 0)
    notes.push(
      `${renamed.length} joint names have spaces, which became underscores (${renamed[0]!.name} …).`,
    );
  if (motion.s.some((x) => x <= 0)) notes.push('Mirrored scale is not kept.');
  else if (uneven(motion)) notes.push('Scale that differs between axes is kept for places, not for turns.');
  else if (motion.s.some((x) => Math.abs(x - 1) > 1e-6))
    notes.push('Scale is kept in the places of joints only.');
  return notes;
}

/** Places and turns of joints beside their parents, without scale, row by row. */
interface Rows {
  readonly places: Float64Array;
  readonly turns: Float64Array;
}

function rowsOf(motion: Motion): Rows {
  const { joints, count } = motion;
  const n = joints.length;
  const places = new Float64Array(3 * n * count);
  const turns = new Float64Array(4 * n * count);
  const back = new Float64Array(4);
  for (let f = 0; f < count; f++) {
    const world = worldOf(motion, f);
    joints.forEach(({ parent }, i) => {
      const k = f * n + i;
      const here = [0, 1, 2].map((a) => world.places[3 * i + a]!);
      if (parent < 0) {
        places.set(here, 3 * k);
        turns.set(world.turns.subarray(4 * i, 4 * i + 4), 4 * k);
        return;
      }
      const way = here.map((x, a) => x - world.places[3 * parent + a]!);
      places.set(turnBack(world.turns, 4 * parent, way), 3 * k);
      quatConjugate(back, 0, world.turns, 4 * parent);
      quatMultiply(turns, 4 * k, back, 0, world.turns, 4 * i);
    });
  }
  return { places, turns };
}

/** Which joints leave their place: roots always count. */
function movesOf({ joints, count }: Motion, { places }: Rows): boolean[] {
  const n = joints.length;
  const size = joints.reduce((sum, _, i) => sum + norm([0, 1, 2].map((a) => places[3 * i + a]!)), 0);
  return joints.map(({ parent }, i) => {
    if (parent < 0) return true;
    for (let f = 1; f < count; f++)
      for (let a = 0; a < 3; a++)
        if (Math.abs(places[3 * (f * n + i) + a]! - places[3 * i + a]!) > MOVES * size) return true;
    return false;
  });
}

/** The lines of the joints, and the order in which they stand, which is that of the numbers. */
function writeHierarchy(
  motion: Motion,
  { places }: Rows,
  moves: readonly boolean[],
): { lines: string[]; order: number[] } {
  const { joints } = motion;
  const names = bvhNames(motion);
  /** Ends of bones that never turn are end sites, as they are named when a file with end sites is read. */
  const isEnd = joints.map(
    ({ name, parent }, i) =>
      parent >= 0 &&
      name === `${joints[parent]!.name} end` &&
      !moves[i] &&
      !joints.some((j) => j.parent === i) &&
      joints.filter((j) => j.parent === parent).length === 1,
  );
  const children = joints.map((_, i) => joints.flatMap((j, k) => (j.parent === i ? [k] : [])));
  const lines = ['HIERARCHY'];
  const order: number[] = [];
  const write = (i: number, depth: number): void => {
    order.push(i);
    const pad = '  '.repeat(depth);
    // Readers differ in whether a place stands instead of the offset or is added to it: with none both are right.
    const offset = [0, 1, 2].map((a) => (moves[i] ? 0 : places[3 * i + a]!));
    lines.push(`${pad}${joints[i]!.parent < 0 ? 'ROOT' : 'JOINT'} ${names[i]!}`, `${pad}{`);
    lines.push(`${pad}  OFFSET ${offset.map(digits).join(' ')}`);
    const place = moves[i] ? 'Xposition Yposition Zposition ' : '';
    lines.push(`${pad}  CHANNELS ${moves[i] ? 6 : 3} ${place}Zrotation Xrotation Yrotation`);
    const site = children[i]!.find((c) => isEnd[c]);
    for (const child of children[i]!) if (child !== site) write(child, depth + 1);
    if (site !== undefined || children[i]!.length === 0) {
      // Without one of its own the last bone is as long as the one before it.
      const end = site !== undefined ? [0, 1, 2].map((a) => places[3 * site + a]!) : offset;
      lines.push(
        `${pad}  End Site`,
        `${pad}  {`,
        `${pad}    OFFSET ${end.map(digits).join(' ')}`,
        `${pad}  }`,
      );
    }
    lines.push(`${pad}}`);
  };
  joints.forEach((j, i) => j.parent < 0 && write(i, 0));
  return { lines, order };
}

/**
 * Writes a motion as BVH: places of roots and of joints that leave their place, turns of all, in the order Z X Y.
 * BVH has neither turns at rest nor scale: rest turns go into every frame, and scale into the offsets, so that joints
 * stand where they stand.
 */
export function writeBvh(motion: Motion): WrittenBvh {
  const { joints, count } = motion;
  const n = joints.length;
  const rows = rowsOf(motion);
  const { places, turns } = rows;
  const moves = movesOf(motion, rows);
  const { lines, order } = writeHierarchy(motion, rows, moves);
  lines.push('MOTION', `Frames: ${count}`, `Frame Time: ${(1 / motion.fps).toFixed(8)}`);
  const before = new Float64Array(3 * n);
  for (let f = 0; f < count; f++) {
    const row: string[] = [];
    for (const i of order) {
      const k = f * n + i;
      if (moves[i]) for (let a = 0; a < 3; a++) row.push(digits(places[3 * k + a]!));
      const angles = eulerZxy(turns, 4 * k, f === 0 ? null : before.subarray(3 * i, 3 * i + 3));
      before.set(angles, 3 * i);
      for (const angle of angles) row.push(digits(angle));
    }
    lines.push(row.join(' '));
  }
  return { text: `${lines.join('\n')}\n`, notes: lossesOf(motion) };
}

/** The names joints have in BVH: one word each, and no two alike. */
export function bvhNames({ joints }: Motion): string[] {
  const taken = new Set<string>();
  return joints.map(({ name }) => {
    let word = name.trim().replace(/\s+/g, '_').replace(/[{}]/g, '') || 'joint';
    while (taken.has(word)) word += '_';
    taken.add(word);
    return word;
  });
}

const digits = (x: number): string => {
  const text = x.toFixed(7).replace(/\.?0+$/, '');
  return text === '-0' ? '0' : text;
};

function uneven({ s }: Motion): boolean {
  for (let k = 0; k < s.length; k += 3) {
    const most = Math.max(s[k]!, s[k + 1]!, s[k + 2]!);
    if (most - Math.min(s[k]!, s[k + 1]!, s[k + 2]!) > 1e-4 * most) return true;
  }
  return false;
}

/** Angles z, x, y in degrees with q = z · x · y, those of the two ways nearest to the angles before. */
export function eulerZxy(
  q: Float64Array,
  i: number,
  before: ArrayLike<number> | null,
): [number, number, number] {
  const x = q[i]!,
    y = q[i + 1]!,
    z = q[i + 2]!,
    w = q[i + 3]!;
  // Entries of the rotation matrix of Rz · Rx · Ry.
  const m21 = 2 * (y * z + x * w);
  const m01 = 2 * (x * y - z * w),
    m11 = 1 - 2 * (x * x + z * z);
  const m20 = 2 * (x * z - y * w),
    m22 = 1 - 2 * (x * x + y * y);
  const level = Math.sqrt(m01 * m01 + m11 * m11);
  let a: [number, number, number];
  if (level > 1e-7) a = [atan2(-m01, m11), atan2(m21, level), atan2(-m20, m22)];
  else {
    // Z and Y turn about the same axis: Y keeps what it was.
    const keep = before ? before[2]! / DEGREES : 0;
    const m00 = 1 - 2 * (y * y + z * z),
      m10 = 2 * (x * y + z * w);
    const both = atan2(m10, m00);
    a = [m21 > 0 ? both - keep : both + keep, m21 > 0 ? Math.PI / 2 : -Math.PI / 2, keep];
  }
  const first = a.map((v) => v * DEGREES);
  if (!before) return first as [number, number, number];
  const near = (angles: readonly number[]) =>
    angles.map((v, k) => v + 360 * Math.round((before[k]! - v) / 360)) as [number, number, number];
  const other = near([first[0]! + 180, 180 - first[1]!, first[2]! + 180]);
  const one = near(first);
  const far = (angles: readonly number[]) => angles.reduce((s, v, k) => s + Math.abs(v - before[k]!), 0);
  return far(other) < far(one) ? other : one;
}
