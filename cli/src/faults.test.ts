import { spawnSync } from 'node:child_process';
import { existsSync, mkdirSync, mkdtempSync, readFileSync, truncateSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { fileURLToPath } from 'node:url';
import { describe, expect, it } from 'vitest';
import { demoFiles } from '@oscillum/demo';
import { makePose, samplePose } from '@oscillum/core/character';
import { openContainer, readGltf } from '@oscillum/core/gltf';
import { quatAngle } from '@oscillum/core/math';
import { Collider } from '@oscillum/core/model';
import { Shot } from '@oscillum/core/shot';
import { simulateAll } from '@oscillum/core/simulate';

const bin = fileURLToPath(new URL('../bin/oscillum.mjs', import.meta.url));
const folder = mkdtempSync(join(tmpdir(), 'oscillum-cli-'));
const [brindle] = await demoFiles();
const shot = brindle!.shots.find((s) => s.clip?.name === 'Lookout')!;
const path = (name: string) => join(folder, name);
writeFileSync(path('brindle.glb'), brindle!.bytes);
writeFileSync(path('shot.json'), JSON.stringify(shot));

function run(...args: string[]): { code: number | null; out: string; err: string } {
  const r = spawnSync(process.execPath, [bin, ...args], { encoding: 'utf8', cwd: folder });
  return { code: r.status, out: r.stdout, err: r.stderr };
}
const bake = (...args: string[]) => run('bake', 'shot.json', '--character', 'brindle.glb', ...args);

describe('files', () => {
  it('a .gltf is read with the files beside it, and with none from outside its folder', () => {
    const { json, buffers } = openContainer(brindle!.bytes, 'brindle.glb');
    mkdirSync(path('apart/data'), { recursive: true });
    writeFileSync(path('apart/data/all of it.bin'), buffers[0]!);
    writeFileSync(path('outside.bin'), buffers[0]!);
    const gltf = (uri: string) =>
      JSON.stringify({ ...json, buffers: [{ ...json.buffers![0], uri }, ...json.buffers!.slice(1)] });
    writeFileSync(path('apart/bird.gltf'), gltf('data/all%20of%20it.bin'));
    writeFileSync(path('apart/thief.gltf'), gltf('../outside.bin'));
    expect(run('inspect', 'apart/bird.gltf').out).toContain('80 joints');
    expect(run('check', 'brindle.glb', 'apart/bird.gltf')).toMatchObject({ code: 0 });
    expect(run('inspect', 'apart/thief.gltf')).toMatchObject({
      code: 1,
      err: expect.stringContaining('needs ../outside.bin, which is not there'),
    });
  });
  it('one that is too large is refused before it is read', () => {
    writeFileSync(path('huge.glb'), '');
    truncateSync(path('huge.glb'), 1.9e9);
    expect(run('inspect', 'huge.glb')).toMatchObject({
      code: 1,
      err: expect.stringContaining('huge.glb is larger than 512 MiB'),
    });
  });
  it('a BVH file converted to GLB and back has the size it had, and both say what its unit was taken for', () => {
    expect(run('convert', 'brindle.glb', '--clip', 'Lookout', '--out', 'look.bvh').code).toBe(0);
    expect(run('convert', 'look.bvh', '--out', 'look.glb').err).toMatch(
      /taken to be in centimetres, by a figure/,
    );
    expect(run('convert', 'look.glb', '--out', 'again.bvh').code).toBe(0);
    const checked = run('check', 'look.bvh', 'again.bvh');
    expect(checked).toMatchObject({ code: 0 });
    expect(checked.out).toMatch(/look\.bvh is taken to be in centimetres/);
    expect(run('check', 'brindle.glb', 'look.glb', '--clip', 'Lookout', '--clip-b', '0')).toMatchObject({
      code: 0,
    });
  });
});

describe('what is asked', () => {
  it('--out says by its ending what is written, and every other ending is refused', () => {
    expect(bake('--out', 'motion.bvh').code).toBe(0);
    expect(readFileSync(path('motion.bvh'), 'utf8')).toMatch(/^HIERARCHY/);
    for (const [out, says] of [
      ['motion', '--out must end in .glb'],
      ['motion.fbx', '--out must end in .glb'],
      ['brindle.glb', 'which is also read'],
      ['shot.json', 'which is also read'],
    ])
      expect(bake('--out', out!)).toMatchObject({ code: 2, err: expect.stringContaining(says!) });
    expect(bake('--out', 'nowhere/motion.glb')).toMatchObject({
      code: 1,
      err: expect.stringMatching(/There is no folder .*nowhere/),
    });
    expect(bake('--out', 'motion.glb', '--format', 'bvh')).toMatchObject({ code: 2 });
    mkdirSync(path('folder'));
    expect(bake('--out', 'folder', '--format', 'bvh').code).toBe(0);
    expect(readFileSync(path('folder/shot.bvh'), 'utf8')).toMatch(/^HIERARCHY/);
    expect(run('convert', 'brindle.glb', '--out', 'brindle.glb')).toMatchObject({ code: 2 });
    expect(run('inspect', '.')).toMatchObject({ code: 1, err: expect.stringContaining('is a folder') });
    expect(readFileSync(path('brindle.glb')).equals(brindle!.bytes)).toBe(true);
  });
  it('--help after any command is help', () => {
    for (const command of ['inspect', 'bake', 'presets'])
      expect(run(command, '--help')).toMatchObject({
        code: 0,
        out: expect.stringContaining('oscillum bake'),
      });
  });
  it('a clip that is not there is said with those that are', () => {
    expect(run('convert', 'brindle.glb', '--clip', 'Fly', '--out', 'fly.bvh')).toMatchObject({
      code: 1,
      err: expect.stringMatching(/no clip Fly.*0 Stride, 1 Stride away/),
    });
  });
});

describe('shots on files they were not made on', () => {
  it('what is named otherwise there is warned of', () => {
    const changed: Shot = structuredClone(shot) as Shot;
    changed.clip = { index: 3, name: 'Look about' };
    changed.addedMotions = {
      turn0001: {
        ...{ id: 'turn0001', name: 'Nod', order: 0, muted: false, joint: { node: 1, name: 'pelvis' } },
        ...{ axis: [1, 0, 0], kind: 'swing', amount: 5, count: 1, phase: 0, keys: [], cycles: false },
      } as unknown as Shot['addedMotions'][string],
    };
    writeFileSync(path('changed.json'), JSON.stringify(changed));
    for (const args of [
      ['measure', 'changed.json', '--character', 'brindle.glb'],
      ['bake', 'changed.json', '--character', 'brindle.glb', '--out', 'changed.glb'],
    ]) {
      const { code, err } = run(...args);
      expect(code, err).toBe(0);
      expect(err).toContain('warning: Clip 3 is “Lookout” here; the shot was made on “Look about”');
      expect(err).toContain('warning: Nod: joint 1 is not pelvis here, so it moves nothing.');
    }
  });
  it('a preset is taken by its name, on rows of one’s own, with clip, frames, unit and loop; limbs are warned of', () => {
    const names = JSON.parse(run('presets', '--json').out) as { name: string }[];
    expect(names.length).toBeGreaterThan(3);
    const applied = run(
      ...[
        'apply',
        names[0]!.name,
        '--character',
        'brindle.glb',
        '--out',
        'applied.json',
        '--clip',
        'Lookout',
      ],
      ...['--joints', 'plume middle 1, thigh left', '--frames', '0..40', '--unit', '0.5', '--loop', '--json'],
    );
    expect(applied).toMatchObject({ code: 0 });
    const { parts, warnings } = JSON.parse(applied.out) as { parts: string[]; warnings: string[] };
    expect(parts).toEqual(['plume middle 1', 'thigh left']);
    expect(warnings).toEqual([expect.stringContaining('“thigh left” looks like a limb')]);
    const made = Shot.parse(JSON.parse(readFileSync(path('applied.json'), 'utf8')));
    expect(made).toMatchObject({
      range: { first: 0, last: 40 },
      loop: true,
      character: { metresPerUnit: 0.5 },
    });
    expect(
      run('apply', names[0]!.name, '--character', 'brindle.glb', '--out', 'no.json', '--joints', 'tail'),
    ).toMatchObject({ code: 1, err: expect.stringContaining('has no joint named tail') });
    expect(existsSync(path('no.json'))).toBe(false);
  });
});

it('a mesh of the character as a collider bakes as it is previewed', () => {
  const character = readGltf(brindle!.bytes, 'brindle.glb');
  const node = character.nodes.findIndex((n) => n.mesh >= 0 && n.name === 'body mesh');
  const shape = { kind: 'mesh' as const, node, name: 'body mesh' };
  const body = Collider.parse({ id: 'body', name: 'Body', shape });
  const meshy = Shot.parse({ ...shot, range: { first: 0, last: 24 }, colliders: { body } });
  writeFileSync(path('meshy.json'), JSON.stringify(meshy));
  const baked = run('bake', 'meshy.json', '--character', 'brindle.glb', '--out', 'meshy.glb');
  expect(baked).toMatchObject({ code: 0 });
  const made = readGltf(new Uint8Array(readFileSync(path('meshy.glb'))), 'meshy.glb');
  const frames = simulateAll(character, meshy);
  // On a frame of contact the joints stand as they were simulated with the mesh.
  const pose = makePose(made);
  const touching = Array.from(frames.contacts).findIndex((n) => n > 0);
  const f = Math.max(20, Math.floor(touching / frames.parts.length));
  samplePose(made, made.clips.at(-1)!, f / shot.fps, pose);
  frames.joints.forEach((j, k) => {
    const at = f * frames.joints.length + k;
    expect(quatAngle(pose.r, 4 * j, frames.rotations, 4 * at)).toBeLessThan(1e-3);
  });
});

it('a loop that was asked for and not found is said by measure and by bake', () => {
  const away = brindle!.shots.find((s) => s.clip?.name === 'Stride away')!;
  const cut = { ...away, loop: true, range: { first: 0, last: 21 } };
  writeFileSync(path('cut.json'), JSON.stringify(cut));
  const measured = run('measure', 'cut.json', '--character', 'brindle.glb');
  expect(measured).toMatchObject({ code: 0, err: expect.stringContaining('warning: It does not loop: ') });
  const baked = run('bake', 'cut.json', '--character', 'brindle.glb', '--out', 'cut.glb');
  expect(baked).toMatchObject({ code: 0, err: expect.stringContaining('It does not loop: ') });
  expect(measured.out).not.toMatch(/NaN|Infinity/);
});
