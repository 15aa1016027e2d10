import { readGltf } from '../src/formats/gltf/index';
import { editShot, type Shot } from '../src/shot/index';
import { simulateAll } from '../src/simulate/index';
import { brindle } from '../test/bakes';
import { benchCloth, squareSheet } from '../truth/clothBench';

/** Median of some runs, ms. */
function median(times: number, run: () => void): number {
  const all = Array.from({ length: times }, () => {
    const start = performance.now();
    run();
    return performance.now() - start;
  });
  return all.sort((a, b) => a - b)[times >> 1]!;
}

/** The step of an irregular sheet that hangs, without contact: ns a point and step. */
function kernel(n: number): void {
  const b = benchCloth(squareSheet(n, 1, 0.4), (i) => i < n, 480, { matter: { rigidity: 1e-4 } });
  b.step(100);
  const steps = 480;
  const ms = median(5, () => b.step(steps));
  console.log(
    `${n * n} points, no contact: ${((1e6 * ms) / (steps * n * n)).toFixed(0)} ns a point and step`,
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
