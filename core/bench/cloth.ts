import type { Character } from '../src/character/index';
import type { Frames } from '../src/frames/index';
import { Force } from '../src/model/index';
import { readGltf } from '../src/formats/gltf/index';
import { editShot, type Shot } from '../src/shot/index';
import { simulateAll, type TrackCache } from '../src/simulate/index';
import { brindle } from '../test/bakes';
import { clothScene } from './clothScene';
import { besideC } from './clothScheme';

/** Median of some runs, ms. */
function median(times: number, run: () => void): number {
  const all = Array.from({ length: times }, () => {
    const start = performance.now();
    run();
    return performance.now() - start;
  });
  return all.sort((a, b) => a - b)[times >> 1]!;
}

/** The step of an irregular sheet that hangs, without contact, beside the same scheme in plain C. */
function kernel(n: number): void {
  const { ours, c, kernels } = besideC(n);
  const beside = c === null ? 'no C compiler (cc)' : `C ${c.toFixed(0)}, ratio ${(ours / c).toFixed(2)}`;
  console.log(`${n * n} points, no contact: ${ours.toFixed(0)} ns a point and step; ${beside}`);
  console.log(
    Object.entries(kernels)
      .map(([name, ns]) => `  ${name} ${ns.toFixed(1)}`)
      .join(''),
  );
}

/** Memory that is in use once what is not needed was let go, MB. */
function used(): number {
  (globalThis as { gc?: () => void }).gc?.();
  const { heapUsed, external, arrayBuffers } = process.memoryUsage();
  return (heapUsed + Math.max(external, arrayBuffers)) / 1e6;
}

/** Memory of a whole shot, and how much more is taken by further runs of it, for so many minutes. */
function memory(says: string, character: Character, shot: Shot, minutes: number): void {
  const before = used();
  const cache: TrackCache = { reuse: true };
  const again = (k: number) => simulateAll(character, { ...shot, gravity: [0, -9.81 - 1e-6 * k, 0] }, cache);
  let held: unknown = again(0);
  const first = used();
  let k = 0;
  for (const start = performance.now(); k < 6 || performance.now() - start < 60_000 * minutes;)
    held = again(++k);
  const after = used();
  console.log(
    `${says}: ${(first - before).toFixed(0)} MB for ${(held as Frames).count} frames, ${(after - first).toFixed(1)} more after ${k} further runs`,
  );
}

const character = readGltf(brindle!.bytes, 'brindle.glb');
const shotOf = (name: string) => brindle!.shots.find((s) => s.name === name)!;
type Recipe = Parameters<typeof editShot>[3];

/** A whole shot of the demo with its poncho of 1 656 points, in one thread. */
function whole(says: string, shot: Shot, change: Recipe, on = character): void {
  const changed = editShot(shot, 'bench-0001', 'Change', change).shot;
  let frames = 0;
  const ms = median(3, () => (frames = simulateAll(on, changed).count));
  console.log(`${says}: ${ms.toFixed(0)} ms for ${frames} frames, ${(ms / frames).toFixed(1)} a frame`);
}

const minutes = Number(process.argv[2] ?? 0);
const walk = shotOf('Brindle, Walk in a poncho');
const [sheet, large] = [clothScene(39), clothScene(63)];
// First: what later runs have made is kept with the character.
memory('walk, memory', character, walk, 0);
memory('3 969 vertices, memory', large.character, large.shot, minutes);
for (const n of [23, 41, 63]) kernel(n);
const plain = (says: string, { character: on, shot }: typeof sheet, change: Recipe) =>
  whole(says, shot, change, on);
plain('1 521 vertices, 8 steps, body of 720 triangles', sheet, (d) => void (d.name = 'Plain'));
plain('the same, 12 steps', sheet, (d) => void (d.substeps = 12));
plain('the same, 8 steps, nothing to touch', sheet, (d) => void (d.colliders = {}));
plain('the same, 8 steps, wind and a leash', sheet, (d) => {
  d.forces['wind' as never] = Force.parse({ id: 'wind', name: 'Wind', kind: 'wind', speed: 4 });
  Object.assign(d.parts.sheet!.settings, { leash: 0.5 });
});
plain('3 969 vertices, 8 steps', large, (d) => void (d.name = 'Large'));
whole('walk, nothing to touch', walk, (d) => void (d.colliders = {}));
whole('walk, body simplified to 3 mm', walk, (d) => void (d.name = 'Walk'));
whole('walk, body as drawn', walk, (d) => {
  const { shape } = d.colliders.body!;
  if (shape.kind === 'mesh') shape.simplified = 0;
});
whole('walk, layers apart', walk, (d) => {
  const part = d.parts.poncho!;
  if (part.kind === 'cloth') part.collidesWith.itself = true;
});
whole('leap in gusts', shotOf('Brindle, Leap in the wind'), (d) => void (d.name = 'Leap'));
