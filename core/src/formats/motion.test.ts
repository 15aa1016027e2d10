import { describe, expect, it } from 'vitest';
import { validateBytes } from 'gltf-validator';
import { demoFiles } from '../../../demo/src/index';
import { rootMatrix } from '../character/index';
import { mulberry32, quatFromAxis, quatMultiply } from '../math/index';
import { OscillumError } from '../model/index';
import { readBvh, writeBvh } from './bvh/index';
import { containerOf, openContainer, readContainer, readGltf, toGlb } from './gltf/index';
import { motionOf, motionSize, worldOf, type Motion } from './motion/index';
import { readUsda, writeUsda } from './usda/index';

const [brindle] = await demoFiles();
const character = readGltf(brindle!.bytes, 'brindle.glb');
const leap = motionOf(character, 2, { fps: 30, first: 0, last: 96, root: rootMatrix(1, 'Y') });
const usda = writeUsda(leap, { name: 'Brindle', metresPerUnit: 1, upAxis: 'Y' });

/** Largest distance of joints of like names, over all frames, as a share of the rig's size. */
function apart(a: Motion, b: Motion): number {
  const plain = (name: string) => name.replace(/\s/g, '_');
  const pairs = a.joints.map(
    (j, i) => [i, b.joints.findIndex((k) => plain(k.name) === plain(j.name))] as const,
  );
  expect(pairs.every(([, k]) => k >= 0)).toBe(true);
  expect([b.count, b.fps]).toEqual([a.count, a.fps]);
  let most = 0;
  for (let f = 0; f < a.count; f++) {
    const [p, q] = [worldOf(a, f).places, worldOf(b, f).places];
    for (const [i, k] of pairs)
      most = Math.max(most, Math.hypot(...[0, 1, 2].map((c) => p[3 * i + c]! - q[3 * k + c]!)));
  }
  return most / motionSize(a);
}

describe('a motion', () => {
  it('written as BVH and read again has its joints in the same places', () => {
    const { text, notes } = writeBvh(leap);
    expect(apart(leap, readBvh(text, 'leap.bvh'))).toBeLessThan(1e-5);
    expect(notes.join()).toMatch(/have spaces/);
    // End sites do not become more from time to time.
    const again = readBvh(writeBvh(readBvh(text, 'a.bvh')).text, 'b.bvh');
    expect(again.joints.length).toBe(readBvh(text, 'a.bvh').joints.length);
  });
  it('written as USD text and read again has its joints in the same places, with their names', () => {
    const back = readUsda(usda, 'leap.usda');
    expect(apart(leap, back)).toBeLessThan(1e-6);
    expect(back.joints.map((j) => j.name)).toEqual(leap.joints.map((j) => j.name));
    expect(back.name).toBe('Leap');
  });
  it('as glTF passes the validator and comes back', async () => {
    const bytes = toGlb(containerOf(leap, 'leap.glb'));
    expect((await validateBytes(bytes)).issues.numErrors).toBe(0);
    const back = readGltf(bytes, 'leap.glb');
    const again = motionOf(back, 0, { fps: 30, first: 0, last: 96, root: rootMatrix(1, 'Y') });
    expect(apart(leap, again)).toBeLessThan(1e-5);
  });
  it('keeps places under scale, which BVH does not have, and says so', () => {
    const scaled: Motion = {
      ...leap,
      s: leap.s.map((_, k) => 1 + 0.2 * Math.floor((k / 3) % 5)),
    };
    const { text, notes } = writeBvh(scaled);
    expect(apart(scaled, readBvh(text, 'a.bvh'))).toBeLessThan(1e-5);
    expect(notes.join()).toMatch(/Scale is kept in the places/);
  });
});

const BVH = `HIERARCHY
ROOT hips
{
  OFFSET 1 2 3
  CHANNELS 6 Yrotation Xposition Zrotation Yposition Xrotation Zposition
  JOINT tail one
  {
    OFFSET 0 0 -10
    CHANNELS 2 Xrotation Yrotation
    End Site
    {
      OFFSET 0 0 -5
    }
  }
}
ROOT bell
{
  OFFSET 7 0 0
  CHANNELS 3 Xposition Yposition Zposition
  End Site
  {
    OFFSET 0 1 0
  }
}
MOTION
Frames: 2
Frame Time: 0.0333333
90 5 10 6 20 7   30 40   8 9 10
0 0 0 0 0 0   0 0   0 0 0
`;

describe('reading BVH', () => {
  it('takes several roots, channels in any order, end sites and names with spaces', () => {
    const m = readBvh(BVH, 'a.bvh');
    expect(m.joints.map((j) => [j.name, j.parent])).toEqual([
      ['hips', -1],
      ['tail one', 0],
      ['tail one end', 1],
      ['bell', -1],
      ['bell end', 3],
    ]);
    expect(m.fps).toBe(30);
    expect([...m.t.subarray(0, 3)]).toEqual([5, 6, 7]);
    // Turns in the order they stand: y, then z, then x.
    const q = [0, 0, 0, 1];
    const turn = [0, 0, 0, 1];
    for (const [axis, degrees] of [
      [1, 90],
      [2, 10],
      [0, 20],
    ] as const) {
      quatFromAxis(
        turn,
        0,
        axis === 0 ? 1 : 0,
        axis === 1 ? 1 : 0,
        axis === 2 ? 1 : 0,
        (degrees * Math.PI) / 180,
      );
      quatMultiply(q, 0, q, 0, turn, 0);
    }
    q.forEach((x, k) => expect(m.r[k]).toBeCloseTo(x, 12));
    expect([...worldOf(m, 1).places.subarray(6, 9)]).toEqual([0, 0, -15]);
  });
  it('opens as a character with joints and one clip', () => {
    const c = readContainer(openContainer(new TextEncoder().encode(BVH), 'a.bvh'));
    expect(c.joints).toHaveLength(5);
    expect(c.clips[0]).toMatchObject({ name: 'a', duration: expect.closeTo(1 / 30, 6) as number });
  });
  it.each([
    ['HIERARCHY\nROOT a\n{\n OFFSET 0 0\n}', 'line 5', 'where a number should stand'],
    [BVH.replace('Frames: 2', 'Frames: 3'), 'line 30', 'ends in the middle of its numbers'],
    [BVH.replace('Frames: 2', 'Frames: 1'), 'line 29', 'more numbers than 1 frames take'],
    [BVH.replace('Yrotation', 'Wrotation'), 'line 5', 'is not Xposition'],
    [BVH.replace('0.0333333', '0'), 'line 27', 'a frame takes 0 s'],
    [BVH.slice(0, 120), 'line 6', 'should stand'],
    [`HIERARCHY\n${'ROOT a { OFFSET 0 0 0 '}${'JOINT b { OFFSET 0 0 0 '.repeat(2000)}`, 'line 2', 'deep'],
  ])('says where a broken file is broken', (text, place, says) => {
    try {
      readBvh(text, 'broken.bvh');
      expect.unreachable();
    } catch (e) {
      expect(e).toBeInstanceOf(OscillumError);
      expect((e as OscillumError).place).toBe(place);
      expect((e as OscillumError).message).toContain(says);
    }
  });
});

describe('reading USD text', () => {
  const small = (body: string, meta = '') => `#usda 1.0\n(${meta})\n
def SkelRoot "Bird" { # a comment
  def Skeleton "Skel" (prepend apiSchemas = ["SkelBindingAPI"]) {
    uniform token[] joints = ["a", "a/b"]
    uniform matrix4d[] restTransforms = [((1,0,0,0),(0,1,0,0),(0,0,1,0),(2,0,0,1)), ((1,0,0,0),(0,1,0,0),(0,0,1,0),(0,3,0,1))]
    ${body}
  }
}`;
  it('between samples goes straight, and joints without samples rest', () => {
    const m = readUsda(
      small(
        `def SkelAnimation "Go" { uniform token[] joints = ["a"]
         float3[] translations.timeSamples = { 0: [(0, 0, 0)], 4: [(8, 0, 0)], }
         quatf[] rotations = [(1, 0, 0, 0)] half3[] scales = [(1, 1, 1)] }`,
        'metersPerUnit = 1\ntimeCodesPerSecond = 24; customLayerData = { string maker = "us" }',
      ),
      'a.usda',
    );
    expect([m.count, m.fps, m.first]).toEqual([5, 24, 0]);
    expect([...worldOf(m, 1).places]).toEqual([2, 0, 0, 2, 3, 0]);
  });
  it('stands up what has +Z up, in centimetres when nothing is said', () => {
    const m = readUsda(small('', 'upAxis = "Z"'), 'a.usda');
    const { places } = worldOf(m, 0);
    [0.02, 0, 0, 0.02, 0, -0.03].forEach((x, k) => expect(places[k]).toBeCloseTo(x, 12));
  });
  it.each([
    ['#usda 1.0\ndef Mesh "m" { }', 'has no Skeleton'],
    ['#usda 1.0\ndef Mesh "m" { int x = }', 'where a value should stand'],
    ['#usda 1.0\ndef Mesh "m" {', 'ends inside a prim'],
    ['#usda 1.0\ndef Mesh "m" { int[] x = [1, 2', 'should stand'],
    [small('').replace('"a/b"]', '"a/b", "c"]'), '2 rest transforms for 3 joints'],
    [`#usda 1.0\ndef X "x" { int y = ${'('.repeat(5000)} }`, 'deep'],
  ])('says what is wrong with a broken file', (text, says) => {
    expect(() => readUsda(text, 'broken.usda')).toThrow(says);
  });
});

describe('seeded fuzz', () => {
  it.each([
    ['BVH', () => [BVH, writeBvh(readBvh(BVH, 'a')).text], readBvh],
    [
      'USD text',
      () => [usda.slice(0, 6000), writeUsda(readBvh(BVH, 'a'), { name: 'a', metresPerUnit: 1, upAxis: 'Y' })],
      readUsda,
    ],
  ] as const)('2 000 mutated files of %s are read or refused; none crashes or hangs', (_, bases, read) => {
    const random = mulberry32(5);
    const pick = (n: number) => Math.floor(random() * n);
    const texts = bases();
    const marks = '{}()[]<>"=:,. -0123456789eE\nJOINT';
    let fine = 0;
    for (let n = 0; n < 2000; n++) {
      let text = texts[n % texts.length]!;
      for (let k = 1 + pick(4); k > 0; k--) {
        const at = pick(text.length);
        const kind = pick(4);
        if (kind === 0) text = text.slice(0, at) + marks[pick(marks.length)]! + text.slice(at + 1);
        else if (kind === 1) text = text.slice(0, at) + text.slice(at + pick(30));
        else if (kind === 2)
          text = text.slice(0, at) + text.slice(pick(text.length)).slice(0, pick(200)) + text.slice(at);
        else text = text.slice(0, at);
      }
      try {
        const m = read(text, 'fuzz');
        worldOf(m, m.count - 1);
        fine++;
      } catch (e) {
        if (!(e instanceof OscillumError)) throw e;
      }
    }
    expect(fine).toBeGreaterThan(20);
    expect(fine).toBeLessThan(1900);
  });
});
