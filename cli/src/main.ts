import { readFile, rename, rm, writeFile } from 'node:fs/promises';
import { basename } from 'node:path';
import { parseArgs } from 'node:util';
import { bakeGlb, defaultBake } from '@oscillum/core/bake';
import {
  diagnose,
  loopGap,
  measureShot,
  partFeel,
  peakAcceleration,
  roughness,
} from '@oscillum/core/measure';
import { simulateAll, type TrackCache } from '@oscillum/core/simulate';
import { guessFps, rigSize, type Character } from '@oscillum/core/character';
import {
  loadMeshopt,
  openContainer,
  readContainer,
  type Container,
  type Decoders,
} from '@oscillum/core/gltf';
import { editShot, OscillumError, parseShot, type Shot } from '@oscillum/core/model';
import { printTruth } from '@oscillum/core/truth';

const HELP = `oscillum: simulate and bake without the application or a database.

  oscillum inspect FILE [--json]
      Joints, skins, clips and what was found or repaired in a .glb, .gltf or .zip.

  oscillum bake SHOT.json --character FILE --out FILE.glb
      [--clip N] [--frames A..B] [--step N] [--name NAME] [--replace] [--force]
      Writes the baked GLB: the same bytes the application gives.

  oscillum measure SHOT.json --character FILE [--json] [--force]
      Simulates a shot and prints lag, overshoot, settle and more for each chain, and what is wrong with its cure.

  oscillum truth [--json]
      Prints the truth table of the simulation.

Exit codes: 0 done, 1 the file or shot cannot be used, 2 the command was not understood.
`;

/** A mistake in the command itself. */
class UsageError extends Error {}

/** Runs a command; returns its exit code. Results go to stdout, messages to stderr. */
export async function main(args: readonly string[]): Promise<number> {
  const [command, ...rest] = args;
  try {
    if (command === undefined || command === 'help' || command === '--help' || command === '-h') {
      process.stdout.write(HELP);
      return command === undefined ? 2 : 0;
    }
    if (command === 'inspect') return await inspect(rest);
    if (command === 'bake') return await bake(rest);
    if (command === 'measure') return await measure(rest);
    if (command === 'truth') return await printTruth(rest.includes('--json'));
    throw new UsageError(`There is no command ${command}.`);
  } catch (e) {
    if (e instanceof OscillumError) {
      console.error(e.sentence);
      return 1;
    }
    if (
      e instanceof UsageError ||
      (e instanceof TypeError && 'code' in e && String(e.code).startsWith('ERR_PARSE_ARGS'))
    ) {
      console.error(`${e.message}\nSee: npx oscillum help`);
      return 2;
    }
    if (e instanceof Error && 'code' in e && 'path' in e) {
      const says: Record<string, string> = {
        ENOENT: 'is not there',
        EACCES: 'may not be read or written',
        EISDIR: 'is a folder',
        ENOSPC: 'does not fit: the disk is full',
      };
      console.error(
        `${String(e.path)} ${says[String(e.code)] ?? `cannot be used (${String(e.code)})`}. Check the path and try again.`,
      );
      return 1;
    }
    throw e;
  }
}

async function open(path: string): Promise<{ container: Container; decoders: Decoders }> {
  const container = openContainer(new Uint8Array(await readFile(path)), basename(path));
  const used = container.json.extensionsUsed ?? [];
  const decoders: Decoders = {};
  if (used.some((e) => e.includes('meshopt'))) decoders.meshopt = await loadMeshopt();
  if (used.includes('KHR_draco_mesh_compression')) {
    const { default: draco } = (await import('draco3dgltf')) as unknown as {
      default: typeof import('draco3dgltf');
    };
    decoders.draco = (await draco.createDecoderModule()) as NonNullable<Decoders['draco']>;
  }
  return { container, decoders };
}

async function inspect(args: string[]): Promise<number> {
  const { values, positionals } = parseArgs({
    args,
    options: { json: { type: 'boolean' } },
    allowPositionals: true,
  });
  if (positionals.length !== 1) throw new UsageError('inspect takes one file.');
  const { container, decoders } = await open(positionals[0]!);
  const c = readContainer(container, decoders);
  const clips = c.clips.map((k) => {
    const fps = guessFps(k);
    return {
      name: k.name,
      seconds: k.duration,
      fps,
      frames: Math.floor(k.duration * fps + 1e-3) + 1,
      channels: k.channels.length,
    };
  });
  const report = {
    file: positionals[0],
    joints: Array.from(c.joints, (j) => ({ node: j, name: c.nodes[j]!.name, parent: jointParent(c, j) })),
    skins: c.skins.map((s) => ({ name: s.name, joints: s.joints.length })),
    meshes: c.meshes.map((m) => ({
      name: m.name,
      vertices: m.primitives.reduce((n, p) => n + p.positions.length / 3, 0),
    })),
    clips,
    size: rigSize(c),
    notes: c.notes,
    warnings: c.notes.filter((n) => n.kind === 'warning').map((n) => n.text),
  };
  if (values.json) {
    process.stdout.write(JSON.stringify(report, null, 1) + '\n');
    return 0;
  }
  const depth = (j: number): number => {
    let d = 0;
    for (let n = jointParent(c, j); n >= 0; n = jointParent(c, n)) d++;
    return d;
  };
  const lines = [
    `${report.file}: ${report.joints.length} joints, ${report.skins.length} skins, ${report.meshes.length} meshes, ${clips.length} clips, rig ${report.size.toPrecision(4)} units across`,
    '',
    ...report.joints.map(
      (j) => `${String(j.node).padStart(5)}  ${'  '.repeat(Math.min(20, depth(j.node)))}${j.name}`,
    ),
    '',
    ...clips.map(
      (k, i) => `clip ${i}  ${k.name}: ${k.frames} frames at ${k.fps} fps, ${k.seconds.toFixed(3)} s`,
    ),
    ...c.notes.map((n) => `${n.kind}: ${n.text}`),
  ];
  process.stdout.write(lines.join('\n') + '\n');
  return 0;
}

function jointParent(c: Character, joint: number): number {
  const set = new Set(c.joints);
  const parent = c.nodes[joint]!.parent;
  return set.has(parent) ? parent : -1;
}

const whole = (text: string, what: string): number => {
  const n = Number(text);
  if (!Number.isInteger(n)) throw new UsageError(`${what} must be a whole number, not ${text}.`);
  return n;
};

async function bake(args: string[]): Promise<number> {
  const { values, positionals } = parseArgs({
    args,
    options: {
      character: { type: 'string' },
      out: { type: 'string' },
      clip: { type: 'string' },
      frames: { type: 'string' },
      step: { type: 'string' },
      name: { type: 'string' },
      replace: { type: 'boolean' },
      force: { type: 'boolean' },
    },
    allowPositionals: true,
  });
  if (positionals.length !== 1 || !values.character || !values.out)
    throw new UsageError('bake takes a shot, --character FILE and --out FILE.');
  let shot = await readShot(positionals[0]!);
  const { container, decoders } = await open(values.character);
  await checkSame(shot, values.character, values.force ?? false);
  if (values.clip !== undefined)
    shot = onClip(
      shot,
      readContainer(container, decoders, { skeletonOnly: true }),
      whole(values.clip, '--clip'),
    );
  let options = defaultBake(shot);
  if (values.frames !== undefined) {
    const m = /^(-?\d+)\.\.(-?\d+)$/.exec(values.frames);
    if (!m) throw new UsageError('--frames takes A..B, such as 0..48.');
    options = { ...options, first: Number(m[1]), last: Number(m[2]) };
  }
  if (values.step !== undefined) options = { ...options, step: whole(values.step, '--step') };
  options = { ...options, name: values.name ?? options.name, into: values.replace ? 'replace' : 'new' };
  const run = bakeGlb(container, shot, options, decoders);
  let step = run.next();
  while (!step.done) step = run.next();
  // Whole or not at all: a half-written file never has the name asked for.
  const part = `${values.out}.part`;
  try {
    await writeFile(part, step.value.bytes);
    await rename(part, values.out);
  } finally {
    await rm(part, { force: true });
  }
  console.error(
    `${values.out}: “${options.into === 'replace' ? shot.clip!.name : options.name}”, frames ${options.first} to ${options.last}, ${(step.value.bytes.length / 1024).toFixed(0)} KiB`,
  );
  return 0;
}

async function measure(args: string[]): Promise<number> {
  const { values, positionals } = parseArgs({
    args,
    options: { json: { type: 'boolean' }, character: { type: 'string' }, force: { type: 'boolean' } },
    allowPositionals: true,
  });
  if (positionals.length !== 1 || !values.character)
    throw new UsageError('measure takes a shot and --character FILE.');
  const shot = await readShot(positionals[0]!);
  await checkSame(shot, values.character, values.force ?? false);
  const { container, decoders } = await open(values.character);
  const character = readContainer(container, decoders);
  const cache: TrackCache = {};
  const frames = simulateAll(character, shot, cache);
  const { track } = cache.entry!;
  const most = (list: ArrayLike<number>, chain: number) => {
    let x = 0;
    for (let f = 0; f < frames.count; f++) x = Math.max(x, list[f * frames.chains.length + chain]!);
    return x;
  };
  const parts = frames.chains.map(({ partId }, chain) => {
    const { lag, overshoot, settle } = partFeel(shot, track, chain);
    return {
      part: partId,
      name: shot.parts[partId]!.name,
      lag,
      overshoot,
      settle,
      strayDegrees: most(frames.stray, chain),
      tipMetres: most(frames.tipStray, chain),
      stretch: most(frames.stretch, chain),
      contacts: most(frames.contacts, chain),
      depthMetres: most(frames.depth, chain),
      slipMetresPerSecond: most(frames.slip, chain),
      peakAcceleration: peakAcceleration(frames, chain, shot.fps),
      roughness: roughness(frames, chain, shot.fps, shot.fps / 4),
      shot: measureShot(frames, track, chain, shot.fps),
    };
  });
  const report = {
    start: frames.start,
    loopGapRadians: loopGap(frames),
    parts,
    diagnoses: diagnose(shot, frames, track),
  };
  if (values.json) {
    process.stdout.write(JSON.stringify(report, null, 1) + '\n');
    return 0;
  }
  const lines = parts.map(
    (p) =>
      `${p.name}: lag ${p.lag.toFixed(1)} frames, overshoot ${p.overshoot.toFixed(0)} %, settle ${p.settle.toFixed(0)} frames; strays ${p.strayDegrees.toFixed(1)}°, tip ${p.tipMetres.toFixed(3)} m, ${p.contacts} contacts at most`,
  );
  for (const d of report.diagnoses) lines.push(`  ${d.sentence} Remedy: ${d.remedy.says}.`);
  process.stdout.write(lines.join('\n') + '\n');
  return 0;
}

async function readShot(path: string): Promise<Shot> {
  const text = await readFile(path, 'utf8');
  let data: unknown;
  try {
    data = JSON.parse(text);
  } catch {
    throw new OscillumError(
      'shot.invalid',
      `${basename(path)} is not valid JSON`,
      '',
      'Give a shot saved from the application.',
    );
  }
  return parseShot(data);
}

/** The shot names its character by hash; another file with the same joints may be meant, but only on demand. */
async function checkSame(shot: Shot, path: string, force: boolean): Promise<void> {
  if (force) return;
  const { createHash } = await import('node:crypto');
  const hash = createHash('sha256')
    .update(await readFile(path))
    .digest('hex');
  if (hash !== shot.character.hash) {
    throw new OscillumError(
      'shot.invalid',
      `${basename(path)} is not the file this shot was made on (${shot.character.fileName})`,
      '',
      'Give that file, or add --force to use another with the same joints.',
    );
  }
}

/** The same parts on another clip of the character, over that clip's whole length. */
function onClip(shot: Shot, character: Character, index: number): Shot {
  const clip = character.clips[index];
  if (!clip)
    throw new OscillumError(
      'shot.invalid',
      `There is no clip ${index}; this character has ${character.clips.length}`,
      '--clip',
      'List them with: npx oscillum inspect FILE',
    );
  return editShot(shot, 'command-line', 'Choose clip', (d) => {
    d.clip = { index, name: clip.name };
    d.range = { first: 0, last: Math.max(1, Math.floor(clip.duration * shot.fps + 1e-3)) };
  }).shot;
}
