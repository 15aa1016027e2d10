import { matCompose, matMultiply } from '../../math/index';
import type { Motion } from '../motion/index';
import { digits, identifier, quoted } from './text';

export interface UsdaOptions {
  readonly name: string;
  readonly metresPerUnit: number;
  readonly upAxis: 'Y' | 'Z';
}

/** Sizes that count as the same through a clip. */
const SAME = 1e-7;

/** Joint tokens: paths of plain words, no two alike. */
function pathsOf({ joints }: Motion): string[] {
  const words: string[] = [];
  joints.forEach(({ name, parent }, i) => {
    let word = identifier(name);
    const beside = (w: string) => joints.slice(0, i).some((j, k) => j.parent === parent && words[k] === w);
    while (beside(word)) word += '_';
    words.push(word);
  });
  const paths: string[] = [];
  joints.forEach(({ parent }, i) => paths.push(parent < 0 ? words[i]! : `${paths[parent]}/${words[i]}`));
  return paths;
}

/** Matrices of the joints at rest, beside their parents and in the world. */
function restOf({ joints }: Motion): { rest: Float64Array[]; bind: Float64Array[] } {
  const rest = joints.map(({ t, r, s }) => {
    const m = new Float64Array(16);
    matCompose(m, 0, Float64Array.from(t), 0, Float64Array.from(r), 0, Float64Array.from(s), 0);
    return m;
  });
  const bind: Float64Array[] = [];
  joints.forEach(({ parent }, i) => {
    const m = new Float64Array(16);
    if (parent < 0) m.set(rest[i]!);
    else matMultiply(m, 0, bind[parent]!, 0, rest[i]!, 0);
    bind.push(m);
  });
  return { rest, bind };
}

/** An attribute of the animation: one row where it stands still, else a sample a frame. */
function attribute(motion: Motion, type: string, name: string, list: Float64Array, size: number): string {
  const { joints, count, first } = motion;
  const n = joints.length;
  const row = (f: number) =>
    `[${joints
      .map((_, i) => {
        const at = size * (f * n + i);
        const v = Array.from(list.subarray(at, at + size));
        // Quaternions stand real part first.
        return `(${(size === 4 ? [v[3]!, v[0]!, v[1]!, v[2]!] : v).map(digits).join(', ')})`;
      })
      .join(', ')}]`;
  const width = size * n;
  const still = list.every((x, k) => Math.abs(x - list[k % width]!) <= SAME);
  if (still) return `            ${type}[] ${name} = ${row(0)}`;
  const samples = Array.from({ length: count }, (_, f) => `                ${first + f}: ${row(f)},`);
  return `            ${type}[] ${name}.timeSamples = {\n${samples.join('\n')}\n            }`;
}

/**
 * Writes a motion as USD text: a SkelRoot with a Skeleton (rest and bind transforms) and a SkelAnimation, a time code a
 * frame. Joint tokens are made of plain words; the names joints had stand in `jointNames`.
 * Source: UsdSkel schemas (OpenUSD).
 */
export function writeUsda(motion: Motion, o: UsdaOptions): string {
  const { joints, count, first } = motion;
  const { rest, bind } = restOf(motion);
  const root = identifier(o.name);
  const clip = identifier(motion.name);
  const tokens = `[${pathsOf(motion).map(quoted).join(', ')}]`;
  return `#usda 1.0
(
    defaultPrim = "${root}"
    endTimeCode = ${first + count - 1}
    framesPerSecond = ${digits(motion.fps)}
    metersPerUnit = ${digits(o.metresPerUnit)}
    startTimeCode = ${first}
    timeCodesPerSecond = ${digits(motion.fps)}
    upAxis = "${o.upAxis}"
)

def SkelRoot "${root}" (
    prepend apiSchemas = ["SkelBindingAPI"]
)
{
    rel skel:skeleton = </${root}/Skeleton>

    def Skeleton "Skeleton" (
        prepend apiSchemas = ["SkelBindingAPI"]
    )
    {
        uniform matrix4d[] bindTransforms = [${bind.map(matrix).join(', ')}]
        uniform token[] jointNames = [${joints.map((j) => quoted(j.name)).join(', ')}]
        uniform token[] joints = ${tokens}
        uniform matrix4d[] restTransforms = [${rest.map(matrix).join(', ')}]
        rel skel:animationSource = </${root}/Skeleton/${clip}>

        def SkelAnimation "${clip}"
        {
            uniform token[] joints = ${tokens}
${attribute(motion, 'quatf', 'rotations', motion.r, 4)}
${attribute(motion, 'half3', 'scales', motion.s, 3)}
${attribute(motion, 'float3', 'translations', motion.t, 3)}
        }
    }
}
`;
}

/** Rows of a matrix for row vectors: our columns. */
const matrix = (m: Float64Array): string =>
  `(${[0, 4, 8, 12].map((c) => `(${Array.from(m.subarray(c, c + 4), digits).join(', ')})`).join(', ')})`;
