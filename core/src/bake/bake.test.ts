import { describe, expect, it } from 'vitest';
import { validateBytes } from 'gltf-validator';
import { zipSync } from 'fflate';
import { demoFiles } from '../../../demo/src/index';
import { rowOfJoints, tilt } from '../../test/maker';
import { Player } from '../../test/player';
import { makePose, rigSize, rootMatrix, samplePose, worldMatrices, type Character } from '../character/index';
import { openContainer, readContainer, readGltf } from '../formats/gltf/index';
import { OscillumError } from '../model/index';
import { asChain, makeChainPart, type ChainSettings } from '../parts/chain/shared';
import { editShot, makeShot, type Shot } from '../shot/index';
import type { Frames } from '../frames/index';
import { simulateAll } from '../simulate/index';
import { bakeClip, bakeGlb, defaultBake, type BakeOptions } from './index';

const [brindle] = await demoFiles();

function bake(
  bytes: Uint8Array,
  fileName: string,
  shot: Shot,
  options: Partial<BakeOptions> = {},
): Uint8Array<ArrayBuffer> {
  const run = bakeGlb(openContainer(bytes, fileName), shot, { ...defaultBake(shot), ...options });
  for (;;) {
    const step = run.next();
    if (step.done) return step.value.bytes;
  }
}

/** World places of all joints at row f of the frames, in file units. */
function simulatedPlaces(c: Character, shot: Shot, frames: Frames, f: number): number[] {
  const pose = makePose(c);
  samplePose(c, shot.clip ? c.clips[shot.clip.index]! : null, (frames.first + f) / shot.fps, pose);
  const n = frames.joints.length;
  frames.joints.forEach((node, i) => {
    pose.r.set(frames.rotations.subarray(4 * (f * n + i), 4 * (f * n + i) + 4), 4 * node);
    pose.t.set(frames.translations.subarray(3 * (f * n + i), 3 * (f * n + i) + 3), 3 * node);
  });
  const world = new Float64Array(16 * c.nodes.length);
  worldMatrices(c, pose, rootMatrix(1, 'Y'), world);
  return [...c.joints].flatMap((j) => [12, 13, 14].map((k) => world[16 * j + k]!));
}

async function expectPlayed(
  baked: Uint8Array<ArrayBuffer>,
  clip: number,
  c: Character,
  shot: Shot,
  frames: Frames,
  first = shot.range.first,
  shift = 0,
): Promise<void> {
  const player = await Player.open(baked);
  const size = rigSize(c);
  for (let f = first; f <= shot.range.last; f++) {
    const theirs = player.places(clip, Math.fround(f / shot.fps + shift), [...c.joints]);
    const ours = simulatedPlaces(c, shot, frames, f - frames.first);
    ours.forEach((x, i) => expect(Math.abs(x - theirs[i]!) / size, `frame ${f}`).toBeLessThan(1e-5));
  }
}

function chainOn(
  c: Character,
  hash: string,
  row: readonly number[],
  settings: Partial<ChainSettings>,
  clip: number | null = 0,
): Shot {
  const k = clip === null ? null : c.clips[clip]!;
  const shot = makeShot({
    name: 't',
    hash,
    fileName: 'a.glb',
    clip: k && { index: clip!, name: k.name, duration: k.duration },
  });
  return editShot(shot, 'test-0001', 'Make chain', (d) => {
    d.parts.p = makeChainPart({
      id: 'p',
      name: 'P',
      joints: row.map((n) => ({ node: n, name: c.nodes[n]!.name })),
      settings,
    });
  }).shot;
}

describe('the baked file', () => {
  it('plays in an independent player within 1e-5 of the rig on every frame, and passes the validator', async () => {
    for (const shot of brindle!.shots) {
      const c = readGltf(brindle!.bytes, 'brindle.glb');
      const frames = simulateAll(c, shot);
      const baked = bake(brindle!.bytes, 'brindle.glb', shot);
      const report = await validateBytes(baked);
      expect(report.issues.messages).toEqual([]);
      await expectPlayed(baked, 4, c, shot, frames);
      expect(readGltf(baked, 'b.glb').clips.map((k) => k.name)).toEqual([
        'Stride',
        'Stride away',
        'Leap',
        'Lookout',
        `${shot.clip!.name} with follow-through`,
      ]);
    }
  });
  it('keeps stretched lengths as translations', async () => {
    const c = readGltf(brindle!.bytes, 'brindle.glb');
    const row = Array.from({ length: 7 }, (_, i) =>
      c.nodes.findIndex((n) => n.name === `plume middle ${i + 1}`),
    );
    const shot = chainOn(c, 'a'.repeat(64), row, { stretch: 25, gravity: 4, hold: 0.5, bend: 1 }, 2);
    const frames = simulateAll(c, shot);
    const baked = bake(brindle!.bytes, 'brindle.glb', shot);
    expect(
      readGltf(baked, 'b.glb').clips[4]!.channels.filter(
        (k) => k.path === 'translation' && row.includes(k.node),
      ),
    ).toHaveLength(6);
    await expectPlayed(baked, 4, c, shot, frames);
  });
  it('keeps the places of a chain that shifts', async () => {
    const c = readGltf(brindle!.bytes, 'brindle.glb');
    const row = ['crest front 1', 'crest front 2'].map((name) => c.nodes.findIndex((n) => n.name === name));
    const shot = chainOn(c, 'a'.repeat(64), row, { shift: 0.05, hold: 2 }, 2);
    const frames = simulateAll(c, shot);
    const baked = bake(brindle!.bytes, 'brindle.glb', shot);
    const moves = readGltf(baked, 'b.glb').clips[4]!.channels.find(
      (k) => k.path === 'translation' && k.node === row[0],
    )!;
    expect(moves.values.some((x, k) => Math.abs(x - moves.values[k % 3]!) > 1e-3)).toBe(true);
    await expectPlayed(baked, 4, c, shot, frames);
  });
  it('leaves what was not simulated equal: the JSON around it and every byte of the old data', () => {
    const shot = brindle!.shots[0]!;
    const before = openContainer(brindle!.bytes, 'a.glb');
    const after = openContainer(bake(brindle!.bytes, 'a.glb', shot), 'b.glb');
    for (const key of ['asset', 'scenes', 'nodes', 'meshes', 'materials', 'skins'] as const)
      expect(after.json[key]).toEqual(before.json[key]);
    expect(after.json.animations!.slice(0, 4)).toEqual(before.json.animations);
    expect(after.json.accessors!.slice(0, before.json.accessors!.length)).toEqual(before.json.accessors);
    expect(
      Buffer.from(after.buffers[0]!.subarray(0, before.buffers[0]!.length)).equals(
        Buffer.from(before.buffers[0]!),
      ),
    ).toBe(true);
  });
  it('keeps unknown extensions, extras and pictures, also from a zip with files beside it', () => {
    const { m, joints } = rowOfJoints();
    m.skinned(joints);
    m.json.extensionsUsed = ['VENDOR_sparkle'];
    m.json.nodes[0].extensions = { VENDOR_sparkle: { amount: 3 } };
    m.json.nodes[1].extras = { rigger: 'Ane' };
    m.json.images = [{ uri: 'felt.png', name: 'felt' }];
    m.clip('keys', [
      {
        node: joints[0]!,
        path: 'rotation',
        input: m.times([0, 1]),
        output: m.accessor([...tilt(0), ...tilt(1)], 'VEC4'),
      },
    ]);
    const { gltf, bin } = m.files('a.bin');
    const png = Uint8Array.from([0x89, 0x50, 0x4e, 0x47, 1, 2, 3]);
    const zip = zipSync({ 'a.gltf': gltf, 'a.bin': bin, 'felt.png': png });
    const c = readGltf(zip, 'a.zip');
    const after = openContainer(bake(zip, 'a.zip', chainOn(c, 'a'.repeat(64), joints.slice(1), {})), 'b.glb');
    expect(after.json.nodes![0]!.extensions).toEqual({ VENDOR_sparkle: { amount: 3 } });
    expect(after.json.nodes![1]!.extras).toEqual({ rigger: 'Ane' });
    expect(after.json.extensionsUsed).toEqual(['VENDOR_sparkle']);
    const image = readContainer(after).images[0]!;
    expect([...image.bytes]).toEqual([...png]);
  });
  it('in place of the old clip: same place and name, source motion outside the frames', async () => {
    const shot = brindle!.shots[1]!;
    const c = readGltf(brindle!.bytes, 'a.glb');
    const baked = bake(brindle!.bytes, 'a.glb', shot, { into: 'replace', first: 20, last: 50 });
    const after = readGltf(baked, 'b.glb');
    expect(after.clips.map((k) => k.name)).toEqual(c.clips.map((k) => k.name));
    const frames = simulateAll(c, shot);
    const player = await Player.open(baked);
    const source = await Player.open(brindle!.bytes);
    const at = (p: Player, f: number) => p.places(3, Math.fround(f / 30), [...c.joints]);
    for (const f of [0, 10, 19, 51, 80, 110])
      at(player, f).forEach((x, i) => expect(Math.abs(x - at(source, f)[i]!)).toBeLessThan(1e-5));
    for (const f of [20, 33, 50])
      at(player, f).forEach((x, i) =>
        expect(Math.abs(x - simulatedPlaces(c, shot, frames, f)[i]!)).toBeLessThan(1e-5),
      );
  });
  it('every n-th frame keeps the last one, and signs of quaternions are continuous', () => {
    const shot = brindle!.shots[0]!;
    const after = readGltf(bake(brindle!.bytes, 'a.glb', shot, { step: 5 }), 'b.glb');
    const channel = after.clips[4]!.channels.find(
      (k) => k.node === asChain(shot.parts.part1).joints[3]!.node,
    )!;
    expect(channel.times).toHaveLength(21);
    expect(channel.times[20]).toBeCloseTo(96 / 30, 5);
    for (let i = 4; i < channel.values.length; i += 4) {
      expect(
        [0, 1, 2, 3].reduce((s, k) => s + channel.values[i + k]! * channel.values[i - 4 + k]!, 0),
      ).toBeGreaterThan(0);
    }
  });
  it('a range that begins before frame 0 is moved to begin at 0, the source with it', async () => {
    const c = readGltf(brindle!.bytes, 'a.glb');
    const { shot } = editShot(
      brindle!.shots[0]!,
      'test-0002',
      'Range',
      (d) => void (d.range = { first: -10, last: 40 }),
    );
    const baked = bake(brindle!.bytes, 'a.glb', shot);
    expect((await validateBytes(baked)).issues.numErrors).toBe(0);
    await expectPlayed(baked, 4, c, shot, simulateAll(c, shot), -10, 10 / 30);
  });
  it('a character without clips bakes what gravity does to it', async () => {
    const { m, joints } = rowOfJoints();
    m.skinned(joints);
    const bytes = m.glb();
    const c = readGltf(bytes, 'a.glb');
    const shot = chainOn(c, 'a'.repeat(64), joints.slice(1), { hold: 0, bend: 0 }, null);
    await expectPlayed(bake(bytes, 'a.glb', shot), 0, c, shot, simulateAll(c, shot));
  });
});

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
      d.preRoll = 12;
    }).shot;
    const earlier = editShot(shot, 'test-0006', 'Earlier', (d) => {
      d.range.first = -12;
      d.preRoll = 0;
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
      d.preRoll = 9;
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

describe('choices that cannot be baked', () => {
  it.each([
    [{ first: 5, last: 4 }, 'not a range'],
    [{ first: -5 }, 'outside the shot'],
    [{ step: 0 }, 'not a step'],
    [{ step: 0.3 }, 'not a step'],
    [{ step: 1 / 3 }, 'does not divide'],
    [{ thin: { kind: 'cubic', degrees: 0, millimetres: 1 } }, 'not a tolerance'],
    [{ joints: [0] }, 'None of the chosen joints'],
    [{ name: ' ' }, 'no name'],
    [{ parts: ['nobody'] }, 'no part nobody'],
    [{ parts: [] }, 'nothing to bake'],
  ])('%j is refused with a remedy', (options, says) => {
    try {
      bake(brindle!.bytes, 'a.glb', brindle!.shots[0]!, options as Partial<BakeOptions>);
      expect.unreachable();
    } catch (e) {
      expect(e).toBeInstanceOf(OscillumError);
      expect((e as OscillumError).message).toContain(says);
      expect((e as OscillumError).remedy).not.toBe('');
    }
  });
});
