import { readGltf } from '../src/formats/gltf/index';
import { editShot, type Shot } from '../src/shot/index';
import { makeBodyPart, bodySettingsFor, type BodyPart } from '../src/parts/body/shared';
import { simulate, simulateAll, type TrackCache } from '../src/simulate/index';
import { brindle } from '../test/bakes';
import { ground } from '../test/parcel';

const character = readGltf(brindle!.bytes, 'brindle.glb');
const leap = brindle!.shots.find((s) => s.clip?.name === 'Leap')!;
const node = character.nodes.findIndex((n) => n.name === 'body mesh');
const MB = 2 ** 20;

/** Brindle's body as one soft body of so many cells along it, 240 frames of her leap, on the ground. */
function animal(cells: number): Shot {
  return editShot(leap, 'bench-0001', 'Make a soft body', (d) => {
    Object.assign(d, { parts: {}, colliders: { ground: ground() }, preRollSeconds: 0 });
    d.range = { first: 0, last: 239 };
    d.parts.body = makeBodyPart({
      ...{ id: 'body', name: 'Body', mesh: { node, name: 'body mesh' }, cells },
      settings: { ...bodySettingsFor(0.8), hold: 2, droop: 4 },
    });
  }).shot;
}

const softer = (shot: Shot): Shot =>
  editShot(shot, 'bench-0002', 'Set hold', (d) => void ((d.parts.body as BodyPart).settings.hold = 1.8)).shot;

/** Whole shot, first frame after an edit and coarse answer, ms, and the memory that is left with two runs kept. */
export function benchAnimal(cells: number): void {
  const shot = animal(cells);
  const cache: TrackCache = { reuse: true };
  const time = (run: () => void): number => {
    const start = performance.now();
    run();
    return performance.now() - start;
  };
  globalThis.gc?.();
  const before = process.memoryUsage();
  const whole = time(() => simulateAll(character, shot, cache));
  const count = (cache.entry!.track.parts[0]!.layout as unknown as { lattice: { cells: number } }).lattice
    .cells;
  const first = time(() => void simulate(character, softer(shot), cache).next());
  globalThis.gc?.();
  const after = process.memoryUsage();
  const coarse: TrackCache = { coarse: true };
  simulateAll(character, shot, coarse);
  const rough = time(() => simulateAll(character, softer(shot), coarse));
  const memory = (after.heapUsed + after.arrayBuffers - before.heapUsed - before.arrayBuffers) / MB;
  const says = [
    `animal of ${count} cells, 240 frames on the ground: ${whole.toFixed(0)} ms`,
    `${((whole * 1000) / count).toFixed(0)} µs a cell`,
    `first frame after an edit ${first.toFixed(0)} ms`,
    `coarse answer ${rough.toFixed(0)} ms`,
    `${memory.toFixed(0)} MB`,
  ];
  console.log(says.join('; '));
}
