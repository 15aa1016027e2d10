import { validateBytes } from 'gltf-validator';
import { describe, expect, it } from 'vitest';
import { brindle } from '../../test/bakes';
import { Player } from '../../test/player';
import { defaultBake } from '../bake/index';
import { openContainer, readGltf } from '../formats/gltf/index';
import { growGuides } from '../parts/strands/grow';
import { Growth, makeGroom, makeStrandsPart } from '../parts/strands/shared';
import { editShot } from '../shot/index';
import { character, lookout } from '../../test/poncho';
import { writeCards, type HairChoice } from './cards';
import { handOff, type HandOffPlan } from './handOff';

const FPS = 30;
const FRAMES = 12;
/** Three guides that hang and swing, 24 cm long, with points of their own count. */
const curves = {
  ...{
    part: 'mane',
    name: 'Mane',
    node: 0,
    counts: [9, 9, 5],
    widths: [0.01, 0.002],
    colours: [
      [0.5, 0.2, 0.1],
      [1, 1, 1],
    ],
  },
  times: Float64Array.from({ length: FRAMES }, (_, f) => f / FPS),
  values: Float64Array.from(
    Array.from({ length: FRAMES }, (_, f) =>
      [9, 9, 5].flatMap((n, g) =>
        Array.from({ length: n }, (__, i) => {
          const t = i / (n - 1);
          const swing = 0.9 * t * Math.sin(f / 3 + g);
          return [0.1 * g + 0.24 * t * Math.sin(swing), 1 - 0.24 * t * Math.cos(swing), 0.02 * f];
        }).flat(),
      ),
    ).flat(),
  ),
} as const;
const cards = (choice: HairChoice) => writeCards([curves as never], FPS, choice, 'mane.cards.glb');

/** Where the middle of each ring of a card is played, and where its guide has it. */
async function played(bytes: Uint8Array<ArrayBuffer>, f: number, joints: number) {
  const read = readGltf(bytes, 'cards.glb');
  const node = read.nodes.findIndex((n) => n.mesh >= 0);
  const all = (await Player.open(bytes)).vertices(0, Math.fround(f / FPS), node);
  const rings = 2 * joints + 1;
  return Array.from({ length: all.length / 6 }, (_, k) => {
    const at = [0, 1, 2].map((a) => (all[6 * k + a]! + all[6 * k + 3 + a]!) / 2);
    return { guide: Math.floor(k / rings), t: (k % rings) / (rings - 1), at };
  });
}

describe('hair cards', () => {
  it('are valid glTF, and another player plays them within the error that is reported', async () => {
    const { bytes, rms, largest } = cards({ cards: 10, joints: 4 });
    const { issues } = await validateBytes(bytes);
    expect(issues.messages.filter((m) => m.severity < 2)).toEqual([]);
    let [sum, count, worst] = [0, 0, 0];
    for (let f = 0; f < FRAMES; f++)
      for (const { guide, t, at } of await played(bytes, f, 4)) {
        const n = curves.counts[guide]!;
        const first = [0, 9, 18][guide]!;
        const u = t * (n - 1);
        const i = Math.min(n - 2, Math.floor(u));
        const o = f * 69 + 3 * (first + i);
        const off = Math.hypot(
          ...[0, 1, 2].map((a) => {
            const p = curves.values[o + a]!;
            return at[a]! - (p + (u - i) * (curves.values[o + 3 + a]! - p));
          }),
        );
        sum += off * off;
        count++;
        worst = Math.max(worst, off);
      }
    expect(1000 * Math.sqrt(sum / count)).toBeCloseTo(rms, 2);
    expect(1000 * worst).toBeCloseTo(largest, 2);
    expect(largest).toBeLessThan(20);
    // It does move.
    const [a, b] = [await played(bytes, 0, 4), await played(bytes, 6, 4)];
    expect(Math.hypot(...a.at(-1)!.at.map((x, k) => x - b.at(-1)!.at[k]!))).toBeGreaterThan(0.05);
  });

  it('follow more closely on more joints, and are as few as are asked', () => {
    const errors = [1, 2, 4, 8].map((joints) => cards({ cards: 10, joints }).rms);
    for (let k = 1; k < errors.length; k++) expect(errors[k]!).toBeLessThan(errors[k - 1]!);
    const few = cards({ cards: 2, joints: 3 });
    expect([few.cards, few.guides]).toEqual([2, 3]);
    expect(readGltf(few.bytes, 'few.glb').joints.length).toBe(6);
    expect(() => cards({ cards: 10, joints: 32 })).not.toThrow();
    const many = {
      ...curves,
      counts: Array<number>(2000).fill(2),
      values: new Float64Array(2000 * 6 * FRAMES),
    };
    expect(() => writeCards([many as never], FPS, { cards: 2000, joints: 32 }, 'many.glb')).toThrow(
      /more corners/,
    );
  });

  it('are a file of the hand off where a shot has hair, and a sentence where it has none', () => {
    const node = character.nodes.findIndex((n) => n.name === 'fringe scalp mesh');
    const growth = Growth.parse({ count: 6, length: 0.1 });
    const base = { ...lookout, parts: {}, colliders: {}, range: { first: 0, last: 5 } };
    const hairy = editShot(base, 'grow-0001', 'Grow hair', (d) => {
      d.parts.hair = makeStrandsPart({
        ...{ id: 'hair', name: 'Down', mesh: { node, name: 'fringe scalp mesh' }, growth },
        groom: makeGroom(growGuides(character, node, 1, [0, -1, 0], growth, null)),
      });
    }).shot;
    const plan: HandOffPlan = {
      ...{
        bake: defaultBake(hairy),
        clips: null,
        formats: ['glb', 'cards.glb', 'hair.glb'],
        stem: 'down',
        unit: null,
        up: 'Y',
      },
      ...{ hair: { cards: 4, joints: 3 }, pack: 'none' },
    };
    const run = (shot: typeof hairy) => {
      const job = handOff(openContainer(brindle!.bytes, 'brindle.glb'), shot, plan);
      let step = job.next();
      while (!step.done) step = job.next();
      return step.value;
    };
    const { files, notes } = run(hairy);
    expect(files.map((f) => f.name)).toEqual(['down.glb', 'down.cards.glb', 'down.hair.glb']);
    expect(notes.join()).toMatch(/4 of 6 guides/);
    const bare = run({ ...lookout, colliders: {}, range: base.range });
    expect(bare.files.map((f) => f.name)).toEqual(['down.glb']);
    expect(bare.notes.join()).toMatch(/There is no hair/);
  });
});
