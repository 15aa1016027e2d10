import { readGltf } from '../src/formats/gltf/index';
import { editShot, type Shot } from '../src/shot/index';
import { simulateAll, type TrackCache } from '../src/simulate/index';
import { brindle } from '../test/bakes';
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

/** Memory of a whole shot of a sheet, and how much more is taken by further runs of it, MB. */
function memory(says: string, shot: Shot): void {
  const used = () => {
    (globalThis as { gc?: () => void }).gc?.();
    const { heapUsed, external, arrayBuffers } = process.memoryUsage();
    return (heapUsed + Math.max(external, arrayBuffers)) / 1e6;
  };
  const before = used();
  const cache: TrackCache = { reuse: true };
  const again = (k: number) => simulateAll(character, { ...shot, gravity: [0, -9.81 - 1e-6 * k, 0] }, cache);
  again(0);
  const first = used();
  for (let k = 1; k <= 6; k++) again(k);
  console.log(
    `${says}: ${(first - before).toFixed(0)} MB with its body, ${(used() - first).toFixed(1)} more after 6 further runs`,
  );
}

const character = readGltf(brindle!.bytes, 'brindle.glb');
const shotOf = (name: string) => brindle!.shots.find((s) => s.name === name)!;
type Recipe = Parameters<typeof editShot>[3];

/** A whole shot of the demo with its poncho of 1 656 points, in one thread. */
function whole(says: string, shot: Shot, change: Recipe): void {
  const changed = editShot(shot, 'bench-0001', 'Change', change).shot;
  let frames = 0;
  const ms = median(3, () => (frames = simulateAll(character, changed).count));
  console.log(`${says}: ${ms.toFixed(0)} ms for ${frames} frames, ${(ms / frames).toFixed(1)} a frame`);
}

for (const n of [23, 41, 63]) kernel(n);
const walk = shotOf('Brindle, Walk in a poncho');
// First: what later runs have made is kept with the character.
memory('walk, memory', walk);
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
