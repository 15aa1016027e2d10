import { describe, expect, it } from 'vitest';
import { validateBytes } from 'gltf-validator';
import { rowOfJoints, tilt } from '../../test/maker';
import { Player } from '../../test/player';
import { makePose, rigSize, rootMatrix, samplePose, worldMatrices, type Character } from '../character/index';
import { readGltf } from '../formats/gltf/index';
import { asChain } from '../parts/chain/shared';
import { editShot, type Shot } from '../shot/index';
import { simulateAll } from '../simulate/index';
import { bakeClip, defaultBake } from './index';
import { brindle, bake, chainOn } from '../../test/bakes';

/** All of Brindle's shot on another clip. */
function onClip(c: Character, shot: Shot, name: string, more: (d: Shot) => void = () => undefined): Shot {
  const index = c.clips.findIndex((k) => k.name === name);
  const { duration } = c.clips[index]!;
  return editShot(shot, 'test-0004', 'Clip', (d) => {
    d.clip = { index, name };
    d.range = { first: 0, last: Math.floor(duration * d.fps + 1e-3) };
    more(d as Shot);
  }).shot;
}

/** World places of joints in a clip of a file, by our own reader. */
function placesIn(
  bytes: Uint8Array,
  clip: string,
  frames: readonly number[],
  joints: readonly number[],
): number[] {
  const c = readGltf(bytes, 'a.glb');
  const pose = makePose(c);
  const world = new Float64Array(16 * c.nodes.length);
  return frames.flatMap((f) => {
    samplePose(
      c,
      c.clips.find((k) => k.name === clip)!,
      f / 30,
      pose,
    );
    worldMatrices(c, pose, rootMatrix(1, 'Y'), world);
    return joints.flatMap((j) => [12, 13, 14].map((k) => world[16 * j + k]!));
  });
}
const furthest = (a: readonly number[], b: readonly number[]) =>
  Math.max(...a.map((x, i) => Math.abs(x - b[i]!)));
const allFrames = (n: number) => Array.from({ length: n }, (_, f) => f);

describe('what is written', () => {
  const c = readGltf(brindle!.bytes, 'brindle.glb');
  const stride = brindle!.shots[0]!;

  it('an offset clip adds to its source: alone it is small, on it the motion is the whole bake', () => {
    const whole = bake(brindle!.bytes, 'a.glb', stride, { name: 'Both' });
    const offset = bake(brindle!.bytes, 'a.glb', stride, { into: 'offset', name: 'Added' });
    const after = readGltf(offset, 'b.glb');
    const added = after.clips.at(-1)!;
    expect(added.over).toEqual({ clip: 1, shift: 0 });
    expect(new Set(added.channels.map((k) => k.node))).toEqual(
      new Set(Object.values(stride.parts).flatMap((p) => asChain(p).joints.map((j) => j.node))),
    );
    expect(after.notes.map((n) => n.text).join()).toMatch(/1 offset clip/);
    const frames = allFrames(97);
    const joints = [...c.joints];
    expect(
      furthest(placesIn(offset, 'Added', frames, joints), placesIn(whole, 'Both', frames, joints)) /
        rigSize(c),
    ).toBeLessThan(1e-5);
  });

  it('the plume in Stride, thinned to half a degree, has a sixth of the keys or fewer', () => {
    const shot = onClip(c, stride, 'Stride', (d) => {
      for (const id of Object.keys(d.parts)) if (!/Plume/.test(d.parts[id]!.name)) delete d.parts[id];
      d.loop = true;
    });
    const frames = simulateAll(c, shot);
    expect(frames.start.loop?.found).toBe(true);
    const thin = { kind: 'cubic', degrees: 0.5, millimetres: 20 } as const;
    const { clip, report } = bakeClip(c, shot, frames, { ...defaultBake(shot), thin });
    expect(report.before / report.after).toBeGreaterThanOrEqual(6);
    expect(report.degrees).toBeLessThanOrEqual(0.5);
    expect(report.millimetres).toBeLessThanOrEqual(20);
    // The loop closes in value and in tangent.
    for (const { values } of clip.channels) {
      const last = values.length - 12;
      const side = values[4]! * values[last + 4]! < 0 ? -1 : 1;
      for (let k = 0; k < 12; k++) expect(values[last + k]).toBeCloseTo(side * values[k]!, 9);
    }
  });

  it('a tip is held within its own tolerance, at the price of keys', () => {
    const frames = simulateAll(c, stride);
    const by = (millimetres: number) =>
      bakeClip(c, stride, frames, {
        ...defaultBake(stride),
        thin: { kind: 'linear', degrees: 2, millimetres },
      }).report;
    expect(by(1).millimetres).toBeLessThanOrEqual(1);
    expect(by(1).after).toBeGreaterThan(by(30).after);
  });

  it.each(['linear', 'cubic'] as const)(
    'thinned %s keys pass the validator and play within the tolerance',
    async (kind) => {
      const thin = { kind, degrees: 0.5, millimetres: 5 };
      const all = bake(brindle!.bytes, 'a.glb', stride, { name: 'All' });
      const few = bake(brindle!.bytes, 'a.glb', stride, { name: 'Few', thin });
      expect((await validateBytes(few)).issues.messages).toEqual([]);
      const joints = Object.values(stride.parts).flatMap((p) => asChain(p).joints.map((j) => j.node));
      const [a, b] = [await Player.open(all), await Player.open(few)];
      for (const f of [0, 13, 40, 77, 96])
        expect(
          furthest(a.places(4, Math.fround(f / 30), joints), b.places(4, Math.fround(f / 30), joints)),
        ).toBeLessThan(0.006);
    },
  );

  it('source keys outside the frames stay: their times and their values', () => {
    const { m, joints } = rowOfJoints();
    m.skinned(joints);
    const keys = [0, 0.4, 1, 1.5, 2.1, 3];
    m.clip('keys', [
      {
        node: joints[1]!,
        path: 'rotation',
        input: m.times(keys),
        output: m.accessor(
          keys.flatMap((t) => tilt(0.5 * Math.sin(3 * t))),
          'VEC4',
        ),
      },
    ]);
    const bytes = m.glb();
    const shot = chainOn(readGltf(bytes, 'a.glb'), 'a'.repeat(64), joints.slice(1), {});
    const after = readGltf(bake(bytes, 'a.glb', shot, { first: 30, last: 50 }), 'b.glb');
    const [source, baked] = after.clips.map((k) =>
      k.channels.find((x) => x.node === joints[1] && x.path === 'rotation')!,
    );
    const seconds = [0, 0.4, 29 / 30, ...Array.from({ length: 21 }, (_, f) => 1 + f / 30), 51 / 30, 2.1, 3];
    expect(baked!.times).toHaveLength(seconds.length);
    seconds.forEach((t, k) => expect(baked!.times[k]).toBeCloseTo(t, 6));
    const value = (c: typeof baked, k: number) => [...c!.values.subarray(4 * k, 4 * k + 4)];
    for (const [k, own] of [
      [0, 0],
      [1, 1],
      [seconds.length - 2, 4],
      [seconds.length - 1, 5],
    ] as const)
      value(baked, k).forEach((x, i) => expect(x).toBeCloseTo(value(source, own)[i]!, 6));
  });

  it('frames before the range are written as they were simulated, or left out', () => {
    const shot = editShot(stride, 'test-0005', 'Start', (d) => {
      d.start = 'run up';
      d.preRollSeconds = 12 / d.fps;
    }).shot;
    const earlier = editShot(shot, 'test-0006', 'Earlier', (d) => {
      d.range.first = -12;
      d.preRollSeconds = 0;
    }).shot;
    const led = readGltf(bake(brindle!.bytes, 'a.glb', shot, { lead: true }), 'b.glb').clips.at(-1)!;
    const longer = readGltf(bake(brindle!.bytes, 'a.glb', earlier), 'b.glb').clips.at(-1)!;
    const node = asChain(shot.parts.part1).joints[3]!.node;
    const rotation = (k: typeof led) => k.channels.find((x) => x.node === node && x.path === 'rotation')!;
    expect(led.duration).toBeCloseTo((12 + 96) / 30, 5);
    expect([...rotation(led).times]).toEqual([...rotation(longer).times]);
    expect([...rotation(led).values]).toEqual([...rotation(longer).values]);
    // A chain that waits on its first pose has that pose's time before the range.
    const waits = editShot(stride, 'test-0007', 'Wait', (d) => {
      d.start = 'wait';
      d.preRollSeconds = 9 / d.fps;
    }).shot;
    expect(
      readGltf(bake(brindle!.bytes, 'a.glb', waits, { lead: true }), 'b.glb').clips.at(-1)!.duration,
    ).toBeCloseTo((9 + 96) / 30, 5);
  });

  it('half frames lie on the motion between whole ones, which stay to the bit', () => {
    const whole = readGltf(bake(brindle!.bytes, 'a.glb', stride), 'b.glb').clips.at(-1)!;
    const half = readGltf(bake(brindle!.bytes, 'a.glb', stride, { step: 0.5 }), 'b.glb').clips.at(-1)!;
    const node = asChain(stride.parts.part1).joints[2]!.node;
    const of = (k: typeof whole) => k.channels.find((x) => x.node === node && x.path === 'rotation')!;
    expect(of(half).times).toHaveLength(2 * 97 - 1);
    const value = (k: typeof whole, i: number) => [...of(k).values.subarray(4 * i, 4 * i + 4)];
    for (let f = 0; f < 97; f++) expect(value(half, 2 * f)).toEqual(value(whole, f));
    let off = 0;
    for (let f = 1; f < 95; f++) {
      // The middle of a cubic through four frames.
      const [a, b, d, e] = [f - 1, f, f + 1, f + 2].map((i) => value(whole, i)) as number[][];
      const middle = b!.map((x, k) => (9 * (x + d![k]!) - a![k]! - e![k]!) / 16);
      off = Math.max(off, furthest(value(half, 2 * f + 1), middle));
    }
    expect(off).toBeLessThan(0.01);
  });

  it('only the chosen joints, and the source alone moves the others', () => {
    const nodes = asChain(stride.parts.part1)
      .joints.slice(2, 4)
      .map((j) => j.node);
    const frames = simulateAll(c, stride);
    const { clip } = bakeClip(c, stride, frames, { ...defaultBake(stride), joints: nodes });
    expect([...new Set(clip.channels.map((k) => k.node))].sort()).toEqual([...nodes].sort());
  });
});
