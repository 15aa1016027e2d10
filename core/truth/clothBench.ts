import {
  makeCloth,
  wholeStep,
  type Cloth,
  type SheetMatter,
  type SheetStep,
} from '../src/solver/cloth/index';
import { makeSheet, type Sheet } from '../src/sheets/index';
import { makeArena, type Body } from '../src/solver/index';

/** Numbers from 0 to 1 that are the same in each run. */
export function seeded(seed: number): () => number {
  let state = seed >>> 0;
  return () => {
    state = (Math.imul(state, 1664525) + 1013904223) >>> 0;
    return (state >>> 8) / 16777216;
  };
}

/**
 * A square sheet of n × n points and a size in m, from its held edge (row 0, along x) down the way of `across`;
 * jittered points by a share of their spacing and diagonals by chance when `jitter` is not 0.
 */
export function squareSheet(
  n: number,
  size: number,
  jitter: number,
  across: readonly [number, number, number] = [0, -1, 0],
  columns = n,
): Sheet {
  const random = seeded(12345);
  const spacing = size / (n - 1);
  const places = new Float64Array(3 * n * columns);
  for (let r = 0; r < n; r++)
    for (let c = 0; c < columns; c++) {
      const a = c > 0 && c < columns - 1 ? jitter * spacing * (random() - 0.5) : 0;
      const b = r > 0 && r < n - 1 ? jitter * spacing * (random() - 0.5) : 0;
      const along = r * spacing + b;
      places.set(
        [c * spacing + a + along * across[0], along * across[1], along * across[2]],
        3 * (r * columns + c),
      );
    }
  const indices: number[] = [];
  for (let r = 0; r < n - 1; r++)
    for (let c = 0; c < columns - 1; c++) {
      const [p, q, s, t] = [
        r * columns + c,
        r * columns + c + 1,
        (r + 1) * columns + c,
        (r + 1) * columns + c + 1,
      ];
      const turned = jitter > 0 && random() < 0.5;
      indices.push(...(turned ? [p, s, q, q, s, t] : [p, s, t, p, t, q]));
    }
  return makeSheet(places, indices);
}

/** What a bench holds still, and steps with. */
export interface ClothBench {
  readonly cloth: Cloth;
  readonly env: { -readonly [K in keyof SheetStep]: SheetStep[K] };
  step(times?: number): void;
}

export const FELT: SheetMatter = { weight: 0.3, stretch: 3000, compression: 3000, rigidity: 1e-5 };

/** A sheet whose points of `held` stand still, in steps of 1/rate s, among bodies that the caller moves. */
export function benchCloth(
  sheet: Sheet,
  held: (point: number) => boolean,
  rate: number,
  more: {
    matter?: Partial<SheetMatter>;
    bodies?: readonly Body[];
    thickness?: number;
    friction?: number;
    /** Whether its layers keep apart. */
    self?: boolean;
    /** Runs the kernel as TypeScript. */
    plain?: boolean;
  } = {},
): ClothBench {
  const n = sheet.points;
  const skin = { thickness: more.thickness ?? 0.004, friction: more.friction ?? 0.4 };
  const cloth = makeCloth({
    sheet,
    matter: { ...FELT, ...more.matter },
    held: Uint8Array.from({ length: n }, (_, i) => Number(held(i))),
    h: 1 / rate,
    bodies: (more.bodies ?? []).map(wholeStep),
    skin: () => skin,
    selfContact: more.self ?? false,
    arena: more.plain ? null : makeArena,
  });
  const env = {
    gravity: [0, -9.81, 0] as ArrayLike<number>,
    before: sheet.rest,
    now: sheet.rest,
    ...{ from: 0, to: 1 },
    sail: { drag: 0, lift: 0, density: 0 },
    field: null,
    fresh: true,
  } as ClothBench['env'];
  cloth.begin(sheet.rest, new Float64Array(3 * n));
  return {
    cloth,
    env,
    step: (times = 1) => {
      for (let k = 0; k < times; k++) cloth.step(env);
    },
  };
}

/** Mean and largest share by which edges are longer than at rest. */
export function lengthened({ sheet, x }: Cloth): { mean: number; most: number } {
  let [sum, most] = [0, 0];
  sheet.length.forEach((l, e) => {
    const [a, b] = [3 * sheet.edges[2 * e]!, 3 * sheet.edges[2 * e + 1]!];
    const d = Math.sqrt((x[a]! - x[b]!) ** 2 + (x[a + 1]! - x[b + 1]!) ** 2 + (x[a + 2]! - x[b + 2]!) ** 2);
    sum += Math.max(0, d / l - 1);
    most = Math.max(most, d / l - 1);
  });
  return { mean: sum / sheet.length.length, most };
}

/** Where the mass of a cloth is, m. */
export function centreOf({ x, mass }: Cloth): [number, number, number] {
  const out: [number, number, number] = [0, 0, 0];
  let all = 0;
  mass.forEach((m, i) => {
    all += m;
    for (let a = 0; a < 3; a++) out[a]! += m * x[3 * i + a]!;
  });
  return out.map((s) => s / all) as [number, number, number];
}
