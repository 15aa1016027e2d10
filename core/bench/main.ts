import { execFileSync } from 'node:child_process';
import { mkdtempSync, rmSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { fileURLToPath } from 'node:url';
import type { ChainSettings } from '../src/parts/chain/shared';
import { simulateAll, trackOf, type TrackCache } from '../src/simulate/index';
import { benchScene } from './scene';
import { besideScheme, compileScheme } from './scheme';

/** Times fixed scenes beside the plain native loop of the same size, interleaved in one run; medians. */
const ROUNDS = 7;

const median = (a: number[]) => [...a].sort((x, y) => x - y)[a.length >> 1]!;

function compileNative(folder: string): string | null {
  const out = join(folder, 'chain');
  try {
    execFileSync('cc', ['-O2', '-o', out, fileURLToPath(new URL('native/chain.c', import.meta.url)), '-lm']);
    return out;
  } catch {
    return null;
  }
}

function runScene(
  chains: number,
  links: number,
  frames: number,
  settings: Partial<ChainSettings>,
  substeps: number,
  capsules = 0,
): { ours: () => number; native: (program: string) => number; scene: ReturnType<typeof benchScene> } {
  const scene = benchScene(chains, links, frames, settings, substeps, capsules);
  const { character, shot } = scene;
  const first: TrackCache = {};
  trackOf(character, shot, first);
  const entry = first.entry!;
  return {
    scene,
    ours: () => {
      // Checkpoints would let it begin at the end.
      const cache = { entry };
      const start = performance.now();
      simulateAll(character, shot, cache);
      return performance.now() - start;
    },
    native: (program) =>
      Number(
        execFileSync(
          program,
          [chains, links, frames * substeps, (settings.bend ?? 1) > 0 ? 1 : 0].map(String),
          { encoding: 'utf8' },
        ).split(' ')[0],
      ),
  };
}

const json = process.argv.includes('--json');
const folder = mkdtempSync(join(tmpdir(), 'oscillum-bench-'));
const result: Record<string, number> = {};
const say = (line: string) => !json && console.log(line);
try {
  const native = compileNative(folder);
  if (!native) say('No C compiler (cc): ratios to the native loop are left out.');
  const scenes = {
    'ten.hold-bend.4': {
      run: runScene(10, 10, 240, {}, 4),
      links: 10 * 10 * 240 * 4,
      frames: 240,
      name: '10 chains × 10 links, hold and bend, 240 frames, 4 substeps (default)',
    },
    'ten.hold-bend.8': {
      run: runScene(10, 10, 240, {}, 8),
      links: 10 * 10 * 240 * 8,
      frames: 240,
      name: '10 chains × 10 links, hold and bend, 240 frames, 8 substeps',
    },
    'hundred.hold.8': {
      run: runScene(100, 20, 30, { bend: 0 }, 8),
      links: 100 * 20 * 30 * 8,
      frames: 30,
      name: '100 chains × 20 links, hold, 30 frames, 8 substeps',
    },
    'hundred.hold-bend.8': {
      run: runScene(100, 20, 30, {}, 8),
      links: 100 * 20 * 30 * 8,
      frames: 30,
      name: '100 chains × 20 links, hold and bend, 30 frames, 8 substeps',
    },
    'hundred.hold.capsules': {
      run: runScene(100, 20, 15, { bend: 0, thickness: 0.005 }, 8, 8),
      links: 100 * 20 * 15 * 8,
      frames: 15,
      name: '100 chains × 20 links among 8 capsules, hold, 15 frames, 8 substeps',
    },
    'hundred.hold-bend.capsules': {
      run: runScene(100, 20, 15, { thickness: 0.005 }, 8, 8),
      links: 100 * 20 * 15 * 8,
      frames: 15,
      name: '100 chains × 20 links among 8 capsules, hold and bend, 15 frames',
    },
    slow: {
      run: runScene(1, 200, 15, { thickness: 0.005 }, 8, 8),
      links: 200 * 15 * 8,
      frames: 15,
      name: 'slow case: one chain of 200 links among 8 capsules, 15 frames',
    },
    ...Object.fromEntries(
      (
        [
          ['links', (k) => [10, 10 * k, 60]],
          ['chains', (k) => [10 * k, 10, 60]],
          ['frames', (k) => [10, 10, 60 * k]],
        ] as [string, (k: number) => [number, number, number]][]
      ).flatMap(([what, size]) =>
        [1, 2, 4].map((k) => {
          const [chains, links, frames] = size(k);
          return [
            `growth.${what}.${k}`,
            {
              run: runScene(chains, links, frames, {}, 4),
              links: chains * links * frames * 4,
              frames,
              name: `growth: ${k} × the ${what} (${chains} chains, ${links} links, ${frames} frames)`,
            },
          ];
        }),
      ),
    ),
  };
  const times = new Map(
    Object.keys(scenes).map((k) => [k, { ours: [] as number[], native: [] as number[] }]),
  );
  for (let round = -1; round < ROUNDS; round++) {
    for (const [key, { run }] of Object.entries(scenes)) {
      const ours = run.ours();
      const theirs = native ? run.native(native) : NaN;
      // The first round warms the compiler up.
      if (round < 0) continue;
      times.get(key)!.ours.push(ours);
      times.get(key)!.native.push(theirs);
    }
  }
  say(
    'scene'.padEnd(74) +
      'ms'.padStart(9) +
      'ms/frame'.padStart(10) +
      'ns/link'.padStart(9) +
      'native ms'.padStart(11) +
      'ratio'.padStart(8),
  );
  for (const [key, { links, frames, name }] of Object.entries(scenes)) {
    const t = times.get(key)!;
    const ours = median(t.ours);
    const theirs = median(t.native);
    result[`ms.${key}`] = ours;
    result[`ns-per-link.${key}`] = (ours / links) * 1e6;
    if (native) result[`ratio.${key}`] = ours / theirs;
    say(
      name.padEnd(74) +
        ours.toFixed(1).padStart(9) +
        (ours / frames).toFixed(3).padStart(10) +
        ((ours / links) * 1e6).toFixed(0).padStart(9) +
        theirs.toFixed(1).padStart(11) +
        (ours / theirs).toFixed(1).padStart(8),
    );
  }
  for (const what of ['links', 'chains', 'frames'])
    for (const k of [2, 4]) {
      const by = result[`ms.growth.${what}.${k}`]! / result[`ms.growth.${what}.1`]!;
      result[`ratio.growth.${what}.${k}`] = by;
      say(`${k} × the ${what} takes ${by.toFixed(2)} times as long`);
    }
  const scheme = compileScheme(folder);
  if (scheme) {
    say('\nthe step alone beside the same scheme in C -O2, on the same memory, to the same bits');
    for (const key of [
      'ten.hold-bend.4',
      'hundred.hold.8',
      'hundred.hold-bend.8',
      'hundred.hold.capsules',
      'hundred.hold-bend.capsules',
      'slow',
    ]) {
      const { run, name } = scenes[key as 'slow'];
      const { ours, c } = besideScheme(scheme, folder, run.scene, ROUNDS);
      result[`ratio.scheme.${key}`] = ours / c;
      say(name.padEnd(74) + `${(ours / c).toFixed(2)}`.padStart(9));
    }
  }
  if (json) console.log(JSON.stringify(result, null, 1));
} finally {
  rmSync(folder, { recursive: true, force: true });
}
