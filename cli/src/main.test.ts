import { spawnSync } from 'node:child_process';
import { existsSync, mkdtempSync, readFileSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { fileURLToPath } from 'node:url';
import { describe, expect, it } from 'vitest';
import { demoFiles } from '@oscillum/demo';
import { readGltf } from '@oscillum/core/gltf';

const bin = fileURLToPath(new URL('../bin/oscillum.mjs', import.meta.url));
const folder = mkdtempSync(join(tmpdir(), 'oscillum-cli-'));
const [brindle, lantern] = await demoFiles();
const path = (name: string) => join(folder, name);
writeFileSync(path('brindle.glb'), brindle!.bytes);
writeFileSync(path('lantern.glb'), lantern!.bytes);
writeFileSync(path('shot.json'), JSON.stringify(brindle!.shots[0]));
writeFileSync(path('broken.json'), '{"format":');

function run(...args: string[]): { code: number | null; out: string; err: string } {
  const r = spawnSync(process.execPath, [bin, ...args], { encoding: 'utf8', cwd: folder });
  return { code: r.status, out: r.stdout, err: r.stderr };
}

describe('oscillum inspect', () => {
  it('lists joints and clips with frames and durations as JSON', () => {
    const { code, out } = run('inspect', 'brindle.glb', '--json');
    expect(code).toBe(0);
    const report = JSON.parse(out) as {
      joints: { name: string }[];
      clips: { name: string; frames: number; fps: number }[];
    };
    expect(report.joints).toHaveLength(80);
    expect(report.clips.map((c) => [c.name, c.frames, c.fps])).toEqual([
      ['Stride', 61, 30],
      ['Stride away', 97, 30],
      ['Leap', 97, 30],
      ['Lookout', 111, 30],
    ]);
  });
  it('says what is wrong with a file that is not there or not a character, on stderr, with exit code 1', () => {
    expect(run('inspect', 'nowhere.glb')).toMatchObject({
      code: 1,
      out: '',
      err: expect.stringContaining('nowhere.glb is not there'),
    });
    expect(run('inspect', 'broken.json')).toMatchObject({
      code: 1,
      out: '',
      err: expect.stringContaining('broken.json: its JSON cannot be read'),
    });
  });
});

describe('oscillum bake', () => {
  it('writes the baked clip for chosen frames, another clip and another step', () => {
    expect(
      run(
        'bake',
        'shot.json',
        '--character',
        'brindle.glb',
        '--out',
        'out.glb',
        '--frames',
        '10..40',
        '--step',
        '2',
        '--clip',
        '3',
        '--name',
        'Watch',
      ).code,
    ).toBe(0);
    const c = readGltf(new Uint8Array(readFileSync(path('out.glb'))), 'out.glb');
    expect(c.clips.at(-1)!.name).toBe('Watch');
    expect(c.clips.at(-1)!.duration).toBeCloseTo(c.clips[3]!.duration, 5);
  });
  it('refuses another character, a broken shot, frames outside, and leaves no half file', () => {
    expect(run('bake', 'shot.json', '--character', 'lantern.glb', '--out', 'no.glb')).toMatchObject({
      code: 1,
      err: expect.stringContaining('not the file this shot was made on'),
    });
    expect(run('bake', 'broken.json', '--character', 'brindle.glb', '--out', 'no.glb')).toMatchObject({
      code: 1,
      err: expect.stringContaining('not valid JSON'),
    });
    expect(
      run('bake', 'shot.json', '--character', 'brindle.glb', '--out', 'no.glb', '--frames', '0..500'),
    ).toMatchObject({ code: 1, err: expect.stringContaining('outside the shot') });
    expect(existsSync(path('no.glb')) || existsSync(path('no.glb.part'))).toBe(false);
  });
  it('a command that is not understood has exit code 2 and points to help', () => {
    for (const args of [
      ['fly'],
      ['bake', 'shot.json'],
      ['bake', 'shot.json', '--character', 'a', '--out', 'b', '--wings'],
      ['bake', 'shot.json', '--character', 'brindle.glb', '--out', 'b.glb', '--frames', 'all'],
    ]) {
      expect(run(...args)).toMatchObject({ code: 2, err: expect.stringContaining('npx oscillum help') });
    }
    expect(run('help')).toMatchObject({ code: 0, out: expect.stringContaining('oscillum bake SHOT.json') });
  });
});

describe('oscillum measure', () => {
  it('prints feel, measures and diagnoses of a shot, as JSON too', () => {
    const { code, out } = run('measure', 'shot.json', '--character', 'brindle.glb', '--json');
    expect(code).toBe(0);
    const report = JSON.parse(out) as {
      parts: { name: string; lag: number; overshoot: number; strayDegrees: number }[];
      diagnoses: unknown[];
    };
    expect(report.parts.map((p) => p.name)).toContain('Plume, middle');
    for (const p of report.parts) {
      expect(p.lag).toBeGreaterThan(0);
      expect(p.strayDegrees).toBeGreaterThan(1);
    }
    const text = run('measure', 'shot.json', '--character', 'brindle.glb').out;
    expect(text).toMatch(/Plume, middle: lag \d+\.\d frames, overshoot \d+ %/);
    expect(run('measure', 'shot.json').code).toBe(2);
  });
});
