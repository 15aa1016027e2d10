import { makeArena, type Arena } from '../src/solver/index';
import { makeCloth } from '../src/solver/cloth/index';
import { squareSheet } from '../truth/clothBench';
import { CLOTH_FIELDS, clothSource } from './cSource';
import { imageOf, inC } from './native';

/** Steps that are timed, and every how many the aims of bending are taken anew. */
const STEPS = 480;
const SELDOM = 4;
const ROUNDS = 7;
/** The kernels of a step without contact, in their order. */
const KERNELS = [
  ...(['blowCloth', 'predictCloth', 'readyTouches', 'aimBend', 'bendBack'] as const),
  ...(['keepLengths', 'keepLeash', 'finishCloth'] as const),
];

/** A hanging sheet of n × n points, ready to step, and where it stands in its memory. */
function hanging(n: number): { arena: Arena; header: number; x: Float64Array } {
  const sheet = squareSheet(n, 1, 0.4);
  let arena!: Arena;
  let header = -1;
  const cloth = makeCloth({
    ...{ sheet, held: Uint8Array.from({ length: n * n }, (_, p) => Number(p < n)), h: 1 / 480, bodies: [] },
    ...{ selfContact: false, skin: () => ({ thickness: 0.004, friction: 0.4 }) },
    matter: { weight: 0.3, stretch: 3000, compression: 3000, rigidity: 1e-4 },
    arena: (numbers) => {
      arena = makeArena(numbers);
      const finishCloth = (at: number) => arena.cloth.finishCloth((header = at));
      return { ...arena, cloth: { ...arena.cloth, finishCloth } };
    },
  });
  cloth.begin(sheet.rest, new Float64Array(3 * n * n));
  for (let k = 0; k < 200; k++)
    cloth.step({
      ...{ before: sheet.rest, now: sheet.rest, from: 0, to: 1, gravity: [0, -9.81, 0] },
      ...{ sail: { drag: 1, lift: 0.5, density: 1.2 }, field: null, fresh: k === 0 },
    });
  return { arena, header, x: cloth.x };
}

/**
 * Times the step of a sheet of n × n points, from the same memory to the same places: ours (WebAssembly) and the same
 * scheme in C, both in 64 bit. Gives ns a point and step of the best round, and of ours each kernel's; C is null
 * without a compiler. Throws when the two do not come to the same.
 */
export function besideC(n: number): { ours: number; c: number | null; kernels: Record<string, number> } {
  const { arena, header, x } = hanging(n);
  const { base, bytes } = imageOf({ buffer: x.buffer, header, fields: CLOTH_FIELDS });
  let [best, sum] = [Infinity, 0];
  let kernels: Record<string, number> = {};
  for (let r = 0; r < ROUNDS; r++) {
    new Uint8Array(x.buffer, base, bytes.length).set(bytes);
    const times: Record<string, number> = {};
    for (let k = 0; k < STEPS; k++)
      for (const name of KERNELS) {
        if (name === 'aimBend' && k % SELDOM !== 0) continue;
        const start = performance.now();
        arena.cloth[name](header);
        times[name] = (times[name] ?? 0) + (performance.now() - start) * 1e6;
      }
    const ns = Object.values(times).reduce((a, b) => a + b, 0);
    if (ns < best) [best, kernels] = [ns, times];
    sum = x.reduce((a, b) => a + b, 0);
  }
  const per = STEPS * n * n;
  const how = { count: STEPS, seldom: SELDOM, rounds: ROUNDS };
  const c = inC(clothSource(), { base, bytes, header }, how, sum);
  return {
    ...{ ours: best / per, c: c === null ? null : c / per },
    kernels: Object.fromEntries(Object.entries(kernels).map(([k, ns]) => [k, ns / per])),
  };
}
