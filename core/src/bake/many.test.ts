import { asChain } from '../parts/chain/shared';
import { describe, expect, it } from 'vitest';
import { demoFiles } from '../../../demo/src/index';
import { containerOf, openContainer, readContainer, readGltf, toGlb } from '../formats/gltf/index';
import { motionOf, type Motion } from '../formats/motion/index';
import { rootMatrix } from '../character/index';
import { Refinement } from '../model/index';
import { parseShot, type Shot } from '../shot/index';
import { bakeClips, defaultBake, planClips, type BakedPiece } from './index';

const [brindle, lantern] = await demoFiles();
const container = openContainer(brindle!.bytes, 'brindle.glb');
const character = readContainer(container);
const stride = brindle!.shots.find((s) => s.clip?.name === 'Stride away')!;
const options = (shot: Shot) => ({ ...defaultBake(shot), name: '{clip} baked', parts: null });

function bake(shot: Shot, clips: readonly number[], known = new Map<number, BakedPiece>(), of = container) {
  const made = new Map<number, BakedPiece>();
  const figure = readContainer(of);
  const plans = planClips(figure, shot, clips, options(shot));
  const run = bakeClips(of, figure, plans, { known, made: (k, piece) => made.set(k, piece) });
  for (;;) {
    const step = run.next();
    if (step.done) return { ...step.value, made, plans };
  }
}

describe('many clips in one file', () => {
  it('are made of pieces: those that are known are not made again, and the bytes are the same', () => {
    const clips = [1, 3];
    const first = bake(stride, clips);
    expect([...first.made.keys()]).toEqual([0, 1]);
    const second = bake(stride, clips, new Map([[1, first.made.get(1)!]]));
    expect([...second.made.keys()]).toEqual([0]);
    expect(Buffer.from(second.bytes).equals(Buffer.from(first.bytes))).toBe(true);
    expect(second.reports).toEqual(first.reports);
    expect(first.reports.map((r) => [r.clip, r.frames])).toEqual([
      ['Stride away', 97],
      ['Lookout', 111],
    ]);
  });

  it('take the refinements of the clip they were made on, and leave the others as they are', () => {
    const node = asChain(Object.values(stride.parts)[0]).joints[1]!;
    const step = Refinement.parse({
      ...{ id: 's', name: 'Turned', channels: [{ joint: node, path: 'rotation' }], first: 0, last: 200 },
      does: { tool: 'move', keys: null, frames: 0, component: 2, by: 30 },
    });
    const refined = parseShot({ ...stride, refine: { steps: [step] } });
    const [plain, turned] = [stride, refined].map((s) => bake(s, [1, 3]).made);
    const curve = (made: typeof plain, k: number) =>
      made!.get(k)!.clip.channels.find((c) => c.node === node.node && c.path === 'rotation')!.values;
    expect(curve(turned, 0)).not.toEqual(curve(plain, 0));
    expect(curve(turned, 1)).toEqual(curve(plain, 1));
  });
});

/** A skeleton of a character's joints but some, with one of its clips. */
function without(pattern: RegExp): Motion {
  const all = motionOf(character, 0, { fps: 30, first: 0, last: 40, root: rootMatrix(1, 'Y') });
  const kept = all.joints.flatMap((j, i) => (pattern.test(j.name) ? [] : [i]));
  const place = new Map(kept.map((i, k) => [i, k]));
  const n = all.joints.length;
  const some = (list: Float64Array, size: number) =>
    Float64Array.from({ length: all.count * kept.length * size }, (_, at) => {
      const [f, k, a] = [
        Math.floor(at / (kept.length * size)),
        Math.floor(at / size) % kept.length,
        at % size,
      ];
      return list[size * (f * n + kept[k]!) + a]!;
    });
  const joints = kept.map((i) => ({
    ...all.joints[i]!,
    parent: place.get(all.joints[i]!.parent) ?? -1,
  }));
  return { ...all, joints, t: some(all.t, 3), r: some(all.r, 4), s: some(all.s, 3) };
}

describe('a set-up on another character', () => {
  /** The shot as it is asked for on a character it was not made on. */
  const on = (hash: string): Shot =>
    parseShot({ ...stride, clip: null, character: { ...stride.character, hash, fileName: 'other.glb' } });

  it('moves what has joints of like names, and says what has none', () => {
    const bytes = toGlb(containerOf(without(/^crest/), 'other.glb'));
    const { reports, plans, made } = bake(
      on('b'.repeat(64)),
      [0],
      new Map(),
      openContainer(bytes, 'other.glb'),
    );
    expect(reports[0]!.missed.some((m) => /crest/i.test(m))).toBe(true);
    const other = readGltf(bytes, 'other.glb');
    const moved = new Set(made.get(0)!.clip.channels.map((c) => other.nodes[c.node]!.name));
    expect(moved.has('plume middle 3')).toBe(true);
    expect([...moved].some((name) => name.startsWith('crest'))).toBe(false);
    expect(plans[0]!.options.last).toBe(40);
  });

  it('of which nothing is there is refused with a sentence', () => {
    const other = openContainer(lantern!.bytes, 'lantern.glb');
    expect(() => bake(on('c'.repeat(64)), [0], new Map(), other)).toThrow(/Nothing moves/);
  });
});
