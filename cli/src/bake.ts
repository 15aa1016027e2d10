import { spawn } from 'node:child_process';
import { mkdir } from 'node:fs/promises';
import { basename, dirname, join } from 'node:path';
import { fileURLToPath } from 'node:url';
import { parseArgs } from 'node:util';
import { createDecoderModule, createEncoderModule } from 'draco3dgltf';
import { glob } from 'tinyglobby';
import { packFiles } from '@oscillum/player';
import {
  DEFAULT_FIT,
  DEFAULT_JOINTS,
  DEFAULT_THINNING,
  defaultBake,
  MANY_NAMES,
  readForBake,
  type BakeOptions,
  type ClipReport,
  type Thinning,
  type VertexFit,
} from '@oscillum/core/bake';
import type { Character } from '@oscillum/core/character';
import { HAND_OFF_FORMATS, handOff, troubleIn } from '@oscillum/core/handoff';
import { OscillumError } from '@oscillum/core/model';
import type { Shot } from '@oscillum/core/shot';
import { misnamed } from '@oscillum/core/simulate';
import {
  amount,
  checkSame,
  clipNumber,
  endingOf,
  framesOf,
  isFolder,
  oneOf,
  open,
  readShot,
  UsageError,
  whole,
  writeWhole,
} from './common';

const OPTIONS = {
  character: { type: 'string' },
  out: { type: 'string' },
  clips: { type: 'string' },
  frames: { type: 'string' },
  step: { type: 'string' },
  lead: { type: 'boolean' },
  into: { type: 'string' },
  name: { type: 'string' },
  thin: { type: 'string' },
  degrees: { type: 'string' },
  millimetres: { type: 'string' },
  format: { type: 'string' },
  pack: { type: 'string' },
  vertices: { type: 'string' },
  shapes: { type: 'string' },
  within: { type: 'string' },
  largest: { type: 'boolean' },
  sparse: { type: 'boolean' },
  helpers: { type: 'string' },
  under: { type: 'string' },
  jobs: { type: 'string' },
  json: { type: 'boolean' },
  force: { type: 'boolean' },
} as const;

/** What was written of one shot. */
interface Written {
  shot: string;
  files: string[];
  clips: readonly ClipReport[];
  notes: readonly string[];
  /** What the shot names otherwise than the character does. */
  warnings: readonly string[];
}

export async function bake(args: string[]): Promise<number> {
  const { values, positionals } = parseArgs({ args, options: OPTIONS, allowPositionals: true });
  if (positionals.length === 0 || !values.character || !values.out)
    throw new UsageError('bake takes a shot, --character FILE and --out FILE.');
  const jobs = whole(values.jobs ?? '1', '--jobs');
  if (jobs < 1) throw new UsageError('--jobs must be 1 or more.');
  const shots = await shotsOf(positionals);
  const intoFolder = shots.length > 1 || (await isFolder(values.out));
  if (!intoFolder) await endingOf(values.out, HAND_OFF_FORMATS, [...shots, values.character]);
  if (intoFolder) await mkdir(values.out, { recursive: true });
  const ending = values.format?.split(',')[0]!.trim() ?? 'glb';
  const outOf = (shot: string) =>
    intoFolder
      ? join(values.out!, `${basename(shot).replace(/\.(shot\.)?json$/, '')}.${ending}`)
      : values.out!;
  const twice = shots.map(outOf).find((out, i, all) => all.indexOf(out) !== i);
  if (twice)
    throw new UsageError(
      `Two of the shots would both be written to ${twice}. Bake them into folders of their own.`,
    );
  let failed = 0;
  const written: Written[] = [];
  if (shots.length === 1) written.push(await bakeOne(shots[0]!, outOf(shots[0]!), values));
  else {
    // A process a shot, so that one that fails fails alone.
    const queue = [...shots];
    const work = async () => {
      for (let shot = queue.shift(); shot !== undefined; shot = queue.shift()) {
        const result = await apart(shot, outOf(shot), values);
        if (result) written.push(result);
        else failed++;
      }
    };
    await Promise.all(Array.from({ length: Math.min(jobs, shots.length) }, work));
    written.sort((a, b) => shots.indexOf(a.shot) - shots.indexOf(b.shot));
  }
  if (values.json)
    process.stdout.write(`${JSON.stringify(shots.length === 1 ? written[0] : written, null, 1)}\n`);
  else
    for (const { files, clips, notes, warnings } of written) {
      for (const w of warnings) console.error(`warning: ${w}`);
      for (const c of clips) console.error(`${files[0]}: ${clipText(c)}`);
      for (const f of files.slice(1)) console.error(`${f}: written`);
      for (const n of new Set(notes)) console.error(`  ${n}`);
    }
  if (failed > 0) console.error(`${failed} of ${shots.length} shots could not be baked.`);
  return failed > 0 ? 1 : 0;
}

/** As asked for; what is not said is as the shot has it. */
function thinningOf(values: Values, shot: Shot): Thinning | null {
  const own = shot.keys.thin;
  const kind = oneOf(values.thin, ['cubic', 'linear', 'no'], own?.kind ?? 'no', '--thin');
  if (kind === 'no') return null;
  const { degrees, millimetres } = own ?? DEFAULT_THINNING;
  return {
    kind,
    degrees: amount(values.degrees, degrees, '--degrees'),
    millimetres: amount(values.millimetres, millimetres, '--millimetres'),
  };
}

/** What points become: morph targets or helper joints. */
function verticesOf(values: Values, character: Character): VertexFit {
  const to = oneOf(values.vertices, ['morphs', 'joints'], 'morphs', '--vertices');
  if (to === 'morphs')
    return {
      to,
      most: values.shapes === undefined ? DEFAULT_FIT.most : whole(values.shapes, '--shapes'),
      millimetres: amount(values.within, DEFAULT_FIT.millimetres, '--within'),
      ...(values.largest && { largest: true }),
      ...(values.sparse && { sparse: true }),
    };
  const { under } = values;
  const node = under === undefined ? -1 : character.nodes.findIndex((n) => n.name === under);
  if (under !== undefined && node < 0)
    throw new UsageError(`--under ${under}: the character has no joint of that name.`);
  const count = values.helpers === undefined ? DEFAULT_JOINTS.count : whole(values.helpers, '--helpers');
  return { to, count, under: node < 0 ? null : node };
}

type Values = ReturnType<typeof parseArgs<{ options: typeof OPTIONS }>>['values'];

async function bakeOne(path: string, out: string, values: Values): Promise<Written> {
  const shot = await readShot(path);
  const { container, decoders } = await open(values.character!);
  await checkSame(shot, values.character!, values.force ?? false);
  // What is not said is said by the ending.
  const main = await endingOf(out, HAND_OFF_FORMATS, [path, values.character!]);
  const formats = (values.format ?? main)
    .split(',')
    .map((f) => oneOf(f.trim(), HAND_OFF_FORMATS, 'glb', '--format'));
  if (!formats.includes(main))
    throw new UsageError(`${out} ends in .${main}, which --format ${values.format} leaves out.`);
  const options: BakeOptions = {
    ...defaultBake(shot),
    ...framesOf(values.frames),
    step: amount(values.step, shot.keys.step, '--step'),
    lead: values.lead ?? false,
    into: oneOf(values.into, ['new', 'replace', 'offset'], 'new', '--into'),
    thin: thinningOf(values, shot),
  };
  const character = readForBake(container, shot, decoders);
  const vertices = verticesOf(values, character);
  const clips = values.clips === undefined ? null : clipsOf(values.clips, character);
  const warnings = misnamed(character, shot);
  if (clips && values.frames !== undefined)
    throw new UsageError('--frames is for one clip: the one the shot is on.');
  const pack = oneOf(values.pack, ['none', 'meshopt', 'draco'], 'none', '--pack');
  const run = handOff(
    container,
    shot,
    {
      bake: { ...options, vertices, name: values.name ?? (clips ? MANY_NAMES : options.name) },
      ...{ clips, formats, stem: basename(out).replace(/\.[^.]*$/, ''), unit: null, up: 'Y', pack },
    },
    decoders,
  );
  let step = run.next();
  while (!step.done) step = run.next();
  const done = step.value;
  const bad = done.checks.find((c) => !c.fine);
  if (bad)
    throw new OscillumError(
      'bake.invalid',
      `${bad.file} does not hold what was baked: ${troubleIn(bad, true)}`,
      '',
      'Nothing was written. Please report this.',
    );
  const draco = { encoder: createEncoderModule, decoder: createDecoderModule };
  const packed = await packFiles(done, { pack }, draco);
  const files: string[] = [];
  for (const f of packed.files) {
    // The one of that kind has the name that was asked for.
    const only = packed.files.filter((x) => x.format === main).length === 1;
    const path = f.format === main && only ? out : join(dirname(out), f.name);
    await writeWhole(path, f.bytes);
    files.push(path);
  }
  return { shot: path, files, clips: done.clips, notes: done.notes, warnings };
}

function clipsOf(text: string, character: Character): number[] {
  if (text === 'all') return character.clips.flatMap((c, i) => (c.over ? [] : [i]));
  return text.split(',').map((n) => clipNumber(n.trim(), character, '--clips'));
}

/** Bakes a shot in a process of its own; null when it could not be (it has said why). */
function apart(shot: string, out: string, values: Values): Promise<Written | null> {
  const bin = fileURLToPath(new URL('../bin/oscillum.mjs', import.meta.url));
  const own = Object.entries({ ...values, out, json: true, jobs: undefined }).flatMap(([name, value]) =>
    value === undefined ? [] : value === true ? [`--${name}`] : [`--${name}=${String(value)}`],
  );
  const child = spawn(process.execPath, [bin, 'bake', shot, ...own], {
    stdio: ['ignore', 'pipe', 'inherit'],
  });
  let text = '';
  child.stdout.on('data', (d) => (text += String(d)));
  return new Promise((resolve, reject) => {
    child.once('error', reject);
    child.once('close', (code) => resolve(code === 0 ? (JSON.parse(text) as Written) : null));
  });
}

/** Shots named by files, folders and patterns. */
async function shotsOf(given: readonly string[]): Promise<string[]> {
  const out: string[] = [];
  for (const g of given) {
    const folder = await isFolder(g);
    const pattern = /[*?[\]{}]/.test(g);
    if (!folder && !pattern) {
      out.push(g);
      continue;
    }
    const found = folder ? await glob('*.json', { cwd: g, absolute: true }) : await glob(g);
    if (found.length === 0)
      throw new OscillumError(
        'shot.invalid',
        `${g} holds no shots (.json)`,
        '',
        'Check the path and try again.',
      );
    out.push(...found.sort());
  }
  return [...new Set(out)];
}

/** What became of one clip: its frames, its keys, and what was left out. */
function clipText(c: ClipReport): string {
  const error = `at most ${c.degrees.toFixed(2)}° and ${c.millimetres.toFixed(1)} mm off`;
  const keys = c.before === c.after ? `${c.after} keys` : `${c.before} keys became ${c.after}, ${error}`;
  const missed = c.missed.length > 0 ? `; left out: ${c.missed.join('; ')}` : '';
  return `“${c.clip}”, ${c.frames} frames, ${keys}${missed}`;
}
