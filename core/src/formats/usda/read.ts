import { matDecompose, quatFromAxis, quatMultiply, quatNormalise, quatSlerp } from '../../math/index';
import { OscillumError } from '../../model/index';
import { keepSigns, type Motion, type MotionJoint } from '../motion/index';
import { parseUsda, type UsdPrim, type UsdValue } from './parse';

const MOST_JOINTS = 10_000;
const MOST_NUMBERS = 100e6;
const MOST_FRAMES = 1e6;

type Fail = (message: string) => never;

/** The joints of a skeleton at rest, in the file's own unit and axis, and their paths. */
function readJoints(skeleton: UsdPrim, fail: Fail): { tokens: string[]; joints: MotionJoint[] } {
  const tokens = words(skeleton.properties.get('joints')) ?? fail('has a Skeleton without joints');
  if (tokens.length === 0 || tokens.length > MOST_JOINTS) fail(`has a Skeleton of ${tokens.length} joints`);
  if (new Set(tokens).size !== tokens.length) fail('has two joints of one path');
  const rest = skeleton.properties.get('restTransforms') ?? null;
  const matrices =
    rest === null
      ? null
      : Array.isArray(rest)
        ? rest.map((m) => flat(m, 16))
        : fail('has rest transforms that are no list');
  if (matrices && (matrices.length !== tokens.length || matrices.includes(null)))
    fail(`has ${matrices.length} rest transforms for ${tokens.length} joints`);
  const names = words(skeleton.properties.get('jointNames'));
  const indexOf = new Map(tokens.map((t, i) => [t, i]));
  const joints = tokens.map((path, i): MotionJoint => {
    const parts = path.split('/');
    let parent = -1;
    for (let k = parts.length - 1; k > 0 && parent < 0; k--)
      parent = indexOf.get(parts.slice(0, k).join('/')) ?? -1;
    if (parent >= i) fail(`has joint ${path} before its parent`);
    const t = [0, 0, 0];
    const r = [0, 0, 0, 1];
    const s = [1, 1, 1];
    if (matrices) matDecompose(Float64Array.from(matrices[i]!), 0, t, r, s);
    return { name: names?.[i] || parts.at(-1)! || 'joint', parent, t, r, s };
  });
  return { tokens, joints };
}

/** The animation a skeleton names, else the first for its joints. */
function animationOf(
  prims: ReadonlyMap<string, UsdPrim>,
  skeleton: UsdPrim,
  tokens: readonly string[],
): UsdPrim | undefined {
  const source = skeleton.properties.get('skel:animationSource');
  const named = typeof source === 'string' ? prims.get(source) : undefined;
  const known = new Set(tokens);
  return (
    named ??
    [...prims.values()].find(
      (p) => p.type === 'SkelAnimation' && words(p.properties.get('joints'))?.some((t) => known.has(t)),
    )
  );
}

/** Frames of an animation: row by row, in the file's own unit and axis. */
function readFrames(
  animation: UsdPrim | undefined,
  tokens: readonly string[],
  joints: readonly MotionJoint[],
  fail: Fail,
): Pick<Motion, 'first' | 'count' | 't' | 'r' | 's'> {
  const n = joints.length;
  const indexOf = new Map(tokens.map((t, i) => [t, i]));
  const column = animation
    ? (words(animation.properties.get('joints')) ?? tokens).map((t) => indexOf.get(t) ?? -1)
    : [];
  const tracks = {
    t: samplesOf(animation, 'translations', 3, column, fail),
    r: samplesOf(animation, 'rotations', 4, column, fail),
    s: samplesOf(animation, 'scales', 3, column, fail),
  };
  const times = Object.values(tracks).flatMap((k) => k?.times ?? []);
  const moving = Object.values(tracks).some((k) => k && k.times.length > 1);
  const first = moving ? Math.ceil(times.reduce((a, b) => Math.min(a, b), Infinity) - 1e-6) + 0 : 0;
  const last = moving ? Math.floor(times.reduce((a, b) => Math.max(a, b), -Infinity) + 1e-6) : 0;
  const count = last - first + 1;
  if (count > MOST_FRAMES || 10 * n * count > MOST_NUMBERS)
    fail(`has ${count} frames of ${n} joints, more than is read`);
  const t = new Float64Array(3 * n * count);
  const r = new Float64Array(4 * n * count);
  const s = new Float64Array(3 * n * count);
  for (let f = 0; f < count; f++)
    joints.forEach((j, i) => {
      const k = f * n + i;
      valueAt(tracks.t, i, first + f, j.t, t, 3 * k);
      valueAt(tracks.r, i, first + f, j.r, r, 4 * k);
      valueAt(tracks.s, i, first + f, j.s, s, 3 * k);
    });
  return { first, count, t, r, s };
}

/** All prims of a layer by their paths; of two with one path the first. */
function primsOf(list: readonly UsdPrim[], above: string, out: Map<string, UsdPrim>): Map<string, UsdPrim> {
  for (const p of list) {
    const path = `${above}/${p.name}`;
    if (!out.has(path)) out.set(path, p);
    primsOf(p.children, path, out);
  }
  return out;
}

/**
 * The first skeleton of a USD text file with its animation (the one it names, else the first for its joints), in metres
 * with +Y up, one frame a time code; between samples values go straight. Throws OscillumError('file.*'). Source:
 * UsdSkel schemas (OpenUSD).
 */
export function readUsda(text: string, fileName: string): Motion {
  const fail = (message: string): never => {
    throw new OscillumError(
      'file.invalid',
      `${fileName.slice(0, 120)}: ${message}`,
      '',
      'Export its skeleton and skeletal animation as USD text (.usda).',
    );
  };
  const layer = parseUsda(text, fileName);
  const prims = primsOf(layer.prims, '', new Map());
  const skeleton = [...prims.values()].find((p) => p.type === 'Skeleton') ?? fail('has no Skeleton');
  const metres = numberOf(layer.metadata.get('metersPerUnit'), 0.01);
  const fps = numberOf(layer.metadata.get('timeCodesPerSecond') ?? layer.metadata.get('framesPerSecond'), 24);
  if (!(metres > 0) || !(fps >= 0.1) || fps > 1e4)
    fail(`has ${metres} metres a unit and ${fps} frames a second`);
  const { tokens, joints } = readJoints(skeleton, fail);
  const animation = animationOf(prims, skeleton, tokens);
  const { first, count, t, r, s } = readFrames(animation, tokens, joints, fail);
  const n = joints.length;
  const up = numberUp(layer.metadata.get('upAxis'));
  const placed = joints.map((j) => {
    const at = { t: j.t.map((x) => x * metres), r: [...j.r] };
    if (j.parent < 0 && up) stand(at.t, 0, at.r, 0);
    return { ...j, ...at };
  });
  for (let k = 0; k < t.length; k++) t[k]! *= metres;
  if (up) for (let k = 0; k < n * count; k++) if (joints[k % n]!.parent < 0) stand(t, 3 * k, r, 4 * k);
  keepSigns(r, n);
  return {
    name: animation?.name ?? fileName.replace(/\.[^.]*$/, '') ?? 'Motion',
    ...{ joints: placed, fps, first, count, t, r, s },
  };
}

const words = (v: UsdValue | undefined): string[] | null =>
  Array.isArray(v) && v.every((x) => typeof x === 'string') ? v : null;
const numberOf = (v: UsdValue | undefined, otherwise: number): number =>
  typeof v === 'number' ? v : otherwise;
const numberUp = (v: UsdValue | undefined): boolean => v === 'Z';

/** Nested numbers in one row; null when they are not `count` finite numbers. */
function flat(v: UsdValue, count: number): number[] | null {
  const out: number[] = [];
  const add = (x: UsdValue): boolean =>
    Array.isArray(x) ? x.every(add) : typeof x === 'number' && Number.isFinite(x) && out.push(x) > 0;
  return add(v) && out.length === count ? out : null;
}

interface Track {
  readonly times: readonly number[];
  /** One row a time, `size` numbers a joint of the skeleton; NaN for joints it does not move. */
  readonly rows: readonly Float64Array[];
  readonly size: number;
}

function samplesOf(
  prim: UsdPrim | undefined,
  name: string,
  size: number,
  column: readonly number[],
  fail: Fail,
): Track | null {
  const samples = prim?.properties.get(`${name}.timeSamples`);
  const still = prim?.properties.get(name);
  const list: [number, UsdValue][] =
    samples instanceof Map
      ? [...samples].map(([time, v]): [number, UsdValue] => [Number(time), v])
      : still !== undefined && still !== null
        ? [[0, still]]
        : [];
  if (list.length === 0) return null;
  if (list.some(([time]) => !Number.isFinite(time) || Math.abs(time) > 1e9))
    fail(`has a sample of ${name} at no time`);
  list.sort((a, b) => a[0] - b[0]);
  const joints = Math.max(0, ...column) + 1;
  const rows = list.map(([time, v]) => {
    const values = flat(v, size * column.length);
    if (!values) return fail(`has ${name} at ${time} that are not ${column.length} × ${size} numbers`);
    const row = new Float64Array(size * joints).fill(NaN);
    column.forEach((to, i) => {
      if (to < 0) return;
      const own = values.slice(size * i, size * (i + 1));
      // Quaternions stand real part first.
      row.set(size === 4 ? [own[1]!, own[2]!, own[3]!, own[0]!] : own, size * to);
      if (size === 4) quatNormalise(row, 4 * to);
    });
    return row;
  });
  return { times: list.map(([time]) => time), rows, size };
}

function valueAt(
  track: Track | null,
  joint: number,
  time: number,
  rest: readonly number[],
  out: Float64Array,
  o: number,
): void {
  const { size } = track ?? { size: rest.length };
  const held = track?.rows[0];
  if (!track || size * joint >= held!.length || Number.isNaN(held![size * joint]!)) {
    for (let k = 0; k < rest.length; k++) out[o + k] = rest[k]!;
    return;
  }
  const { times, rows } = track;
  let lo = 0;
  let hi = times.length - 1;
  while (lo < hi) {
    const mid = (lo + hi + 1) >> 1;
    if (times[mid]! <= time) lo = mid;
    else hi = mid - 1;
  }
  const next = Math.min(rows.length - 1, lo + 1);
  const span = times[next]! - times[lo]!;
  const share = span > 0 ? Math.min(1, Math.max(0, (time - times[lo]!) / span)) : 0;
  const [a, b] = [rows[lo]!, rows[next]!];
  if (size === 4) quatSlerp(out, o, a, 4 * joint, b, 4 * joint, share);
  else
    for (let k = 0; k < size; k++)
      out[o + k] = (1 - share) * a[size * joint + k]! + share * b[size * joint + k]!;
}

/** Stands a root up that was made with +Z up: a quarter turn about x. */
function stand(t: number[] | Float64Array, i: number, r: number[] | Float64Array, j: number): void {
  const [y, z] = [t[i + 1]!, t[i + 2]!];
  t[i + 1] = z;
  t[i + 2] = -y;
  const quarter = [0, 0, 0, 1];
  quatFromAxis(quarter, 0, 1, 0, 0, -Math.PI / 2);
  quatMultiply(r, j, quarter, 0, r, j);
}
