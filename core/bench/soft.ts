import { benchAnimal } from './animal';
import { readGltf } from '../src/formats/gltf/index';
import { makeArena, type Arena } from '../src/solver/index';
import {
  bodyNumbers,
  makeLattice,
  makeRegion,
  makeSoftBody,
  regionNumbers,
  type Region,
} from '../src/solver/soft/index';
import { boxMesh, ground, softBodies } from '../test/parcel';
import { layOutRegion } from '../src/parts/soft/layout';
import type { RegionPart } from '../src/parts/soft/shared';
import { carryTo, simulateAll } from '../src/simulate/index';
import { brindle } from '../test/bakes';
import { softPatch } from '../truth/softRig';
import { BODY_FIELDS, bodySource, REGION_FIELDS, regionSource } from './cSource';
import { imageOf, inC } from './native';

const STEPS = 240;
const ROUNDS = 5;
const sway = (t: number) => [0.1 * Math.sin(9 * t), 0.05 * Math.sin(7 * t), 0] as const;

/** Median of some runs, ms. */
function median(times: number, run: () => void): number {
  const all = Array.from({ length: times }, () => {
    const start = performance.now();
    run();
    return performance.now() - start;
  });
  return all.sort((a, b) => a - b)[times >> 1]!;
}

/** The step of a painted patch that was pushed, beside the same in C: from the same memory to the same places. */
function kernel(n: number): void {
  const { character, shot } = softPatch(n, 0.6, sway);
  const { lattice, weight } = layOutRegion(character, shot.parts.skin as RegionPart, 1);
  const inner = makeArena(regionNumbers(lattice));
  let header = -1;
  const arena: Arena = { ...inner, region: (at) => inner.region((header = at)) };
  const region: Region = makeRegion({ ...lattice, share: weight }, 1 / 120, arena);
  region.drive.forEach((_, o) => (region.drive[o] = o % 3 === 1 ? 20 : 0));
  const matter = { hold: 3, damping: 0.2, spread: 0.03, along: 1, volume: 0, swell: 0 };
  region.step(matter);
  const { buffer } = region.u;
  const { base, bytes } = imageOf({ buffer, header, fields: REGION_FIELDS });
  let [best, sum] = [Infinity, 0];
  for (let r = 0; r < ROUNDS; r++) {
    new Uint8Array(buffer, base, bytes.length).set(bytes);
    const start = performance.now();
    for (let k = 0; k < STEPS; k++) inner.region(header);
    best = Math.min(best, (performance.now() - start) * 1e6);
    // The solution of the last step is what is found now.
    sum = region.u.reduce((a, b) => a + b, 0);
  }
  const c = inC(regionSource(), { base, bytes, header }, { count: STEPS, seldom: 1, rounds: ROUNDS }, sum);
  const per = STEPS * lattice.points;
  const beside =
    c === null ? 'no C compiler (cc)' : `C ${(c / per).toFixed(0)}, ratio ${(best / c).toFixed(2)}`;
  console.log(
    `${lattice.points} free points of ${n * n}, 3 Hz: ${(best / per).toFixed(0)} ns a point and step; ${beside}`,
  );
}

/** A whole shot of 240 frames in one thread: painted within a disc, or all over. */
function whole(n: number, hold: number, all: boolean): void {
  const { character, shot } = softPatch(n, 0.6, sway, (p) => void (p.settings.hold = hold), { all });
  let free = 0;
  const ms = median(5, () => (free = simulateAll(character, shot).pointed[0]!.vertices));
  console.log(`${n * n} vertices, ${free} of them soft, ${hold} Hz, 241 frames: ${ms.toFixed(0)} ms`);
}

/** Brindle's belly and wattle on all of her clips, one after the other in one thread. */
function clips(): void {
  const character = readGltf(brindle!.bytes, 'brindle.glb');
  const fed = brindle!.shots.find((s) => s.name === 'Brindle, Leap, well fed')!;
  const shots = character.clips.map((_, k) => carryTo(fed, character, fed.character, k).shot);
  const ms = median(3, () => shots.forEach((s) => simulateAll(character, s)));
  console.log(`belly and wattle on ${shots.length} clips: ${ms.toFixed(0)} ms in one thread`);
}

/** The solve of a block of n³ cells that hangs from one side, beside the same in C. */
function body(n: number): void {
  const lattice = makeLattice([n, n, n], 0.5 / n, [0, 0, 0], new Float64Array(n ** 3).fill(1));
  const inner = makeArena(bodyNumbers(lattice));
  let header = -1;
  const arena: Arena = { ...inner, body: (at) => inner.body((header = at)) };
  const matter = { young: 1e5, poisson: 0.45, density: 1000, damping: 0.2, first: 5 };
  const soft = makeSoftBody(lattice, matter, 1 / 120, arena);
  for (let i = 0; i < lattice.nodes; i++) if (lattice.rest[3 * i]! < 1e-9) soft.free[i] = 0;
  soft.begin(lattice.rest, new Float64Array(3 * lattice.nodes));
  for (let k = 0; k < 20; k++) soft.step([0, -9.81, 0]);
  const { buffer } = soft.x;
  const lying = { buffer, header, fields: BODY_FIELDS };
  const { base, bytes } = imageOf(lying);
  const goal = goalOf(lying, 3 * lattice.nodes);
  const steps = 20;
  let [best, sum] = [Infinity, 0];
  for (let r = 0; r < ROUNDS; r++) {
    new Uint8Array(buffer, base, bytes.length).set(bytes);
    const start = performance.now();
    for (let k = 0; k < steps; k++) {
      soft.x.set(goal);
      inner.body(header);
    }
    best = Math.min(best, (performance.now() - start) * 1e6);
    sum = soft.x.reduce((a, b) => a + b, 0);
  }
  const c = inC(bodySource(), { base, bytes, header }, { count: steps, seldom: 1, rounds: ROUNDS }, sum);
  const per = steps * lattice.cells * 1e3;
  const beside =
    c === null ? 'no C compiler (cc)' : `C ${(c / per).toFixed(2)}, ratio ${(best / c).toFixed(2)}`;
  console.log(`block of ${n ** 3} cells: ${(best / per).toFixed(2)} µs a cell and step; ${beside}`);
}

/** Where inertia alone takes the nodes, in the memory of a step. */
function goalOf({ buffer, header, fields }: Parameters<typeof imageOf>[0], size: number): Float64Array {
  const arrays = fields.filter((f) => f.array);
  const addresses = new Uint32Array(buffer, header + 8 * (fields.length - arrays.length), arrays.length);
  return new Float64Array(buffer, addresses[arrays.findIndex((f) => f.name === 'goal')]!, size);
}

/** A parcel of n³ cells that bounces on the ground, 240 frames in one thread. */
function parcel(n: number): void {
  const { character, shot } = softBodies(
    { parcel: boxMesh([0.4, 0.4, 0.4], 6) },
    (t) => [0, 0.22 + 0.5 * Math.abs(Math.sin(Math.PI * t)), 0],
    { parcel: { cells: n, settings: { droop: 6, volume: 98 } } },
    (d) => void (d.colliders.ground = ground()),
    { seconds: 4, fps: 60 },
  );
  const ms = median(3, () => simulateAll(character, shot));
  console.log(`parcel of ${n ** 3} cells, 241 frames, contact with the ground: ${ms.toFixed(0)} ms`);
}

for (const n of [23, 45]) kernel(n);
for (const n of [6, 10]) body(n);
for (const n of [6, 10]) parcel(n);
for (const hold of [1.5, 3, 8]) whole(45, hold, false);
whole(45, 3, true);
clips();
for (const cells of [6, 10, 14]) benchAnimal(cells);
