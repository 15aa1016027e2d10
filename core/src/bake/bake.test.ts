import { describe, expect, it } from 'vitest';
import { validateBytes } from 'gltf-validator';
import { zipSync } from 'fflate';
import { rowOfJoints, tilt } from '../../test/maker';
import { Player } from '../../test/player';
import { openContainer, readContainer, readGltf } from '../formats/gltf/index';
import { OscillumError } from '../model/index';
import { asChain } from '../parts/chain/shared';
import { editShot } from '../shot/index';
import { simulateAll } from '../simulate/index';
import { type BakeOptions } from './index';
import { brindle, bake, simulatedPlaces, expectPlayed, chainOn } from '../../test/bakes';

describe('the baked file', () => {
  it('plays in an independent player within 1e-5 of the rig on every frame, and passes the validator', async () => {
    // Cloths have a test of their own, beside them.
    const chains = brindle!.shots.filter((s) => Object.values(s.parts).every((p) => p.kind === 'chain'));
    for (const shot of chains) {
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
    const shot = chainOn(c, 'a'.repeat(64), row, { rootSlide: 0.05, hold: 2 }, 2);
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
