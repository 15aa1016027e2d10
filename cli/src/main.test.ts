import { spawnSync } from 'node:child_process';
import { existsSync, mkdirSync, mkdtempSync, readFileSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { basename, join } from 'node:path';
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
  it('writes the baked clip for chosen frames and another step', () => {
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
        '--name',
        'Watch',
      ).code,
    ).toBe(0);
    const c = readGltf(new Uint8Array(readFileSync(path('out.glb'))), 'out.glb');
    expect(c.clips.at(-1)!.name).toBe('Watch');
    expect(c.clips.at(-1)!.duration).toBeCloseTo(c.clips[1]!.duration, 5);
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
    expect(run('help')).toMatchObject({
      code: 0,
      out: expect.stringContaining('oscillum bake SHOT… --character FILE'),
    });
  });
});

describe('many at once', () => {
  const json = (...args: string[]) => {
    const r = run(...args, '--json');
    expect(r.err.replace(/^.*prune.*$/gm, '').trim()).toBe('');
    return JSON.parse(r.out) as never;
  };
  it('one set-up on all clips, thinned, as GLB, BVH and USD text, whose motions are the same', () => {
    const done = json(
      ...['bake', 'shot.json', '--character', 'brindle.glb', '--out', 'all.glb', '--clips', 'all'],
      ...['--thin', 'cubic', '--format', 'glb,bvh,usda'],
    ) as {
      files: string[];
      clips: { clip: string; before: number; after: number; degrees: number }[];
      notes: string[];
    };
    expect(done.clips.map((c) => c.clip)).toEqual(['Stride', 'Stride away', 'Leap', 'Lookout']);
    for (const c of done.clips) {
      expect(c.degrees).toBeLessThanOrEqual(0.5);
      expect(c.after).toBeLessThan(c.before / 2);
    }
    expect(done.files).toHaveLength(9);
    expect(done.notes.join()).toContain('Meshes, skin and materials stay');
    expect(readGltf(new Uint8Array(readFileSync(path('all.glb'))), 'a.glb').clips).toHaveLength(8);
    for (const [clip, word] of [
      ['4', 'Stride'],
      ['7', 'Lookout'],
    ])
      for (const format of ['bvh', 'usda']) {
        const checked = json(
          ...[
            'check',
            'all.glb',
            `all-${word}-with-follow-through.${format}`,
            '--clip',
            clip!,
            '--fps',
            '30',
          ],
        ) as { same: boolean; joints: number; share: number };
        expect(checked).toMatchObject({ same: true, joints: 80 });
        expect(checked.share).toBeLessThan(1e-4);
      }
    // Another clip is another motion.
    expect(
      run('check', 'all.glb', 'all-Leap-with-follow-through.bvh', '--clip', '4', '--fps', '30'),
    ).toMatchObject({
      code: 1,
      out: expect.stringContaining('not the same'),
    });
  });
  it('a folder of shots, two at a time; one that fails fails alone', () => {
    mkdirSync(path('shots'));
    for (const name of ['a', 'b', 'c'])
      writeFileSync(path(`shots/${name}.json`), JSON.stringify(brindle!.shots[1]));
    writeFileSync(path('shots/bad.json'), '{"format":');
    const { code, out, err } = run(
      ...['bake', 'shots', '--character', 'brindle.glb', '--out', 'baked', '--jobs', '2', '--json'],
    );
    expect(code).toBe(1);
    expect(
      (JSON.parse(out) as { files: string[] }[]).flatMap((w) => w.files).map((f) => basename(f)),
    ).toEqual(['a.glb', 'b.glb', 'c.glb']);
    expect(err).toContain('bad.json is not valid JSON');
    expect(err).toContain('1 of 4 shots could not be baked');
    // The same shot gives the same bytes.
    expect(readFileSync(path('baked/a.glb')).equals(readFileSync(path('baked/c.glb')))).toBe(true);
  });
  it('refuses two shots that would be written to one file, before anything is baked', () => {
    mkdirSync(path('more'));
    writeFileSync(path('more/a.json'), JSON.stringify(brindle!.shots[1]));
    expect(
      run('bake', 'shots/a.json', 'more/a.json', '--character', 'brindle.glb', '--out', 'two'),
    ).toMatchObject({ code: 2, err: expect.stringContaining('both be written to two/a.glb') });
  });
  it('thins a file by itself', () => {
    expect(run('bake', 'shot.json', '--character', 'brindle.glb', '--out', 'whole.glb').code).toBe(0);
    const done = json('thin', 'whole.glb', '--out', 'thin.glb', '--clip', '4', '--degrees', '1') as {
      clips: { before: number; after: number; degrees: number }[];
    };
    expect(done.clips[0]!.after).toBeLessThan(done.clips[0]!.before / 3);
    expect(done.clips[0]!.degrees).toBeLessThanOrEqual(1);
    expect(
      run('check', 'whole.glb', 'thin.glb', '--clip', '4', '--within', '0.05', '--degrees', '5').code,
    ).toBe(0);
    expect(run('check', 'whole.glb', 'thin.glb', '--clip', '4', '--within', '0.05').code).toBe(1);
    expect(run('check', 'whole.glb', 'thin.glb', '--clip', '4', '--within', '0.000001').code).toBe(1);
  });
  it('converts between formats', () => {
    expect(run('convert', 'brindle.glb', '--clip', '2', '--out', 'leap.bvh').code).toBe(0);
    expect(run('convert', 'leap.bvh', '--out', 'leap.glb').code).toBe(0);
    expect(run('convert', 'leap.bvh', '--out', 'leap.usda').code).toBe(0);
    expect(run('check', 'leap.bvh', 'leap.usda').code).toBe(0);
    expect(run('check', 'brindle.glb', 'leap.usda', '--clip', '2').code).toBe(0);
    // The same motion, brought back onto the character it came from.
    expect(run('apply', 'leap.bvh', '--character', 'brindle.glb', '--out', 'again.glb').code).toBe(0);
    expect(run('check', 'brindle.glb', 'again.glb', '--clip', '2', '--clip-b', '4', '--fps', '30').code).toBe(
      0,
    );
    expect(run('convert', 'leap.bvh', '--out', 'leap.csv').code).toBe(0);
    expect(readFileSync(path('leap.csv'), 'utf8').split('\r\n')).toHaveLength(99);
    expect(run('convert', 'leap.bvh', '--out', 'leap.doc')).toMatchObject({ code: 2 });
  });
  it('a shot goes to another character, and a preset to what only rides along', () => {
    expect(run('apply', 'shot.json', '--character', 'lantern.glb', '--out', 'lantern.json')).toMatchObject({
      code: 1,
      err: expect.stringMatching(/Nothing of the shot is on lantern\.glb: .*no joint named/),
    });
    expect(existsSync(path('lantern.json'))).toBe(false);
    writeFileSync(
      path('swishy.json'),
      JSON.stringify({ format: 'oscillum-preset', name: 'Swishy', settings: { hold: 0.9 }, profiles: {} }),
    );
    const made = json(
      'apply',
      'swishy.json',
      '--character',
      'brindle.glb',
      '--clip',
      '3',
      '--out',
      'made.json',
    ) as {
      parts: string[];
    };
    expect(made.parts.length).toBeGreaterThan(2);
    expect(run('bake', 'made.json', '--character', 'brindle.glb', '--out', 'made.glb').code).toBe(0);
  });
});

describe('oscillum measure', () => {
  it('prints feel, measures and diagnoses of a shot, as JSON too', () => {
    const { code, out } = run('measure', 'shot.json', '--character', 'brindle.glb', '--json');
    expect(code).toBe(0);
    const report = JSON.parse(out) as {
      parts: { name: string; lag: number; overshoot: number; offSourceDegrees: number }[];
      diagnoses: unknown[];
    };
    expect(report.parts.map((p) => p.name)).toContain('Plume, middle');
    for (const p of report.parts) {
      expect(p.lag).toBeGreaterThan(0);
      expect(p.offSourceDegrees).toBeGreaterThan(1);
    }
    const text = run('measure', 'shot.json', '--character', 'brindle.glb').out;
    expect(text).toMatch(/Plume, middle: lag \d+\.\d frames, overshoot \d+ %/);
    expect(run('measure', 'shot.json').code).toBe(2);
  });
});
