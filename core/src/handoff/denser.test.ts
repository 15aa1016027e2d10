import { expect, it } from 'vitest';
import { brindle } from '../../test/bakes';
import { character, lookout } from '../../test/poncho';
import { defaultBake } from '../bake/index';
import { openContainer } from '../formats/gltf/index';
import { readLines } from '../formats/lines/index';
import { growGuides } from '../parts/strands/grow';
import { Growth, makeGroom, makeStrandsPart } from '../parts/strands/shared';
import { editShot } from '../shot/index';
import { handOff, type HandOffPlan } from './handOff';

const node = character.nodes.findIndex((n) => n.name === 'fringe scalp mesh');
const growth = Growth.parse({ count: 8, length: 0.1 });
const base = { ...lookout, parts: {}, colliders: {}, range: { first: 10, last: 14 } };
const hairy = editShot(base, 'grow-0001', 'Grow hair', (d) => {
  d.parts.hair = makeStrandsPart({
    ...{ id: 'hair', name: 'Down', mesh: { node, name: 'fringe scalp mesh' }, growth },
    groom: makeGroom(growGuides(character, node, 1, [0, -1, 0], growth, null)),
    look: { strands: 40, clump: 0, frizz: 0 },
  });
}).shot;

/** The lines of a USD file of its points, with so many strands. */
function linesOf(strands: number, shot = hairy) {
  const plan: HandOffPlan = {
    ...{ bake: defaultBake(shot), clips: null, formats: ['points.usda'], stem: 'down', unit: null, up: 'Y' },
    ...{ hair: { cards: 4, joints: 3, strands }, pack: 'none' },
  };
  const job = handOff(openContainer(brindle!.bytes, 'brindle.glb'), shot, plan);
  let step = job.next();
  while (!step.done) step = job.next();
  return readLines(step.value.files[0]!.bytes, 'down.points.usda').lines;
}

it('says so where there would be too many places, before it lays any', () => {
  const long = { ...hairy, range: { first: 0, last: 120 } };
  expect(() => linesOf(20_000, long)).toThrow(/would hold 22 million places/);
});

it('writes the guides of hair, or as many strands between them as are asked for, whatever is drawn', () => {
  const [guides, few, many] = [linesOf(0), linesOf(25), linesOf(300)];
  expect([guides.length, few.length, many.length]).toEqual([8, 25, 300]);
  // Each strand stands among the guides: no farther from one than guides are from each other.
  const far = (a: ArrayLike<number>, b: ArrayLike<number>, o: number) =>
    Math.hypot(...[0, 1, 2].map((k) => a[o + k]! - b[o + k]!));
  for (const line of many) {
    const nearest = Math.min(...guides.map((g) => far(line, g, 0)));
    expect(nearest).toBeLessThan(0.15);
    // It is as long as they are.
    let long = 0;
    for (let o = 3; o < line.length; o += 3)
      long += Math.hypot(...[0, 1, 2].map((k) => line[o + k]! - line[o + k - 3]!));
    expect(long).toBeGreaterThan(0.05);
    expect(long).toBeLessThan(0.2);
  }
});
