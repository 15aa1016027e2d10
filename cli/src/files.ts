import { createHash } from 'node:crypto';
import { readFile } from 'node:fs/promises';
import { basename } from 'node:path';
import { parseArgs } from 'node:util';
import { thinClip, type ThinClipOptions } from '@oscillum/core/bake';
import { guessFps, suggestChains, type Character } from '@oscillum/core/character';
import { openContainer, readContainer, readMotion, toGlb } from '@oscillum/core/gltf';
import {
  applyMotion,
  clipMotion,
  compareMotions,
  MOTION_FORMATS,
  unitOf,
  WITHIN,
  writeMotion,
} from '@oscillum/core/handoff';
import { OscillumError, SETTING_GROUPS } from '@oscillum/core/model';
import { applyPreset, makeChainPart, Preset } from '@oscillum/core/chain';
import { editShot, makeShot, parseShot, type Shot } from '@oscillum/core/shot';
import { carryTo } from '@oscillum/core/simulate';
import { amount, oneOf, open, UsageError, whole, writeWhole } from './common';

/** Tolerance of places and scales when none is given, as a share of the rig's size. */
const SHARE = 5e-4;

export async function thin(args: string[]): Promise<number> {
  const { values, positionals } = parseArgs({
    args,
    options: {
      out: { type: 'string' },
      clip: { type: 'string' },
      kind: { type: 'string' },
      degrees: { type: 'string' },
      share: { type: 'string' },
      json: { type: 'boolean' },
    },
    allowPositionals: true,
  });
  if (positionals.length !== 1 || !values.out) throw new UsageError('thin takes a file and --out FILE.');
  const { container, decoders } = await open(positionals[0]!);
  const character = readContainer(container, decoders, { skeletonOnly: true });
  const options: ThinClipOptions = {
    kind: oneOf(values.kind, ['cubic', 'linear'], 'cubic', '--kind'),
    degrees: amount(values.degrees, 0.5, '--degrees'),
    share: amount(values.share, SHARE, '--share'),
  };
  const clips = values.clip === undefined ? [...character.clips.keys()] : [whole(values.clip, '--clip')];
  let now = container;
  const reports = [];
  for (const clip of clips) {
    const { bytes, report } = thinClip(now, clip, options, decoders);
    reports.push({ clip: character.clips[clip]!.name, ...report });
    now = openContainer(bytes, container.fileName);
  }
  await writeWhole(values.out, toGlb(now));
  if (values.json) process.stdout.write(`${JSON.stringify({ file: values.out, clips: reports }, null, 1)}\n`);
  else
    for (const r of reports)
      console.error(
        `${r.clip}: ${r.before} keys became ${r.after}, at most ${r.degrees.toFixed(2)}° off (${r.joint})`,
      );
  return 0;
}

export async function convert(args: string[]): Promise<number> {
  const { values, positionals } = parseArgs({
    args,
    options: {
      out: { type: 'string' },
      clip: { type: 'string' },
      fps: { type: 'string' },
      unit: { type: 'string' },
      up: { type: 'string' },
      json: { type: 'boolean' },
    },
    allowPositionals: true,
  });
  if (positionals.length !== 1 || !values.out) throw new UsageError('convert takes a file and --out FILE.');
  const format = oneOf(
    /\.([^.]+)$/.exec(values.out)?.[1],
    ['glb', ...MOTION_FORMATS],
    'glb',
    'The ending of --out',
  );
  const { container, decoders } = await open(positionals[0]!);
  let notes: readonly string[] = [];
  if (format === 'glb') await writeWhole(values.out, toGlb(container));
  else {
    const character = readContainer(container, decoders);
    const clip = whole(values.clip ?? '0', '--clip');
    const own = character.clips[clip] ?? null;
    const file = writeMotion(character, clip, format, {
      fps: amount(values.fps, guessFps(own), '--fps'),
      ...spaceOf(positionals[0]!),
      unit: amount(values.unit, unitOf(format), '--unit'),
      up: oneOf(values.up, ['Y', 'Z'], 'Y', '--up'),
    });
    notes = file.notes;
    await writeWhole(values.out, file.text);
  }
  if (values.json) process.stdout.write(`${JSON.stringify({ file: values.out, notes }, null, 1)}\n`);
  else for (const n of [`${values.out}: written`, ...notes]) console.error(n);
  return 0;
}

/** BVH says nothing of its unit and is mostly in centimetres; the others are in metres. */
const spaceOf = (path: string) => ({
  metresPerUnit: /\.bvh$/i.test(path) ? 0.01 : 1,
  upAxis: 'Y' as const,
});

export async function check(args: string[]): Promise<number> {
  const { values, positionals } = parseArgs({
    args,
    options: {
      clip: { type: 'string' },
      'clip-b': { type: 'string' },
      fps: { type: 'string' },
      within: { type: 'string' },
      json: { type: 'boolean' },
    },
    allowPositionals: true,
  });
  if (positionals.length !== 2) throw new UsageError('check takes two files.');
  const clipA = whole(values.clip ?? '0', '--clip');
  const load = async (path: string, clip: number, fps: number | undefined) => {
    const { container, decoders } = await open(path);
    const character = readContainer(container, decoders, { skeletonOnly: true });
    return clipMotion(character, clip, {
      ...spaceOf(path),
      unit: 1,
      up: 'Y',
      ...(fps ? { fps } : {}),
    });
  };
  const a = await load(positionals[0]!, clipA, values.fps ? amount(values.fps, 30, '--fps') : undefined);
  const sameSort = /\.(glb|gltf|zip)$/i.test(positionals[1]!);
  const b = await load(
    positionals[1]!,
    whole(values['clip-b'] ?? (sameSort ? String(clipA) : '0'), '--clip-b'),
    a.fps,
  );
  const result = compareMotions(a, b);
  const within = amount(values.within, WITHIN, '--within');
  const same = result.joints > 0 && result.share <= within && a.count === b.count;
  if (values.json)
    process.stdout.write(
      `${JSON.stringify({ ...result, framesFirst: a.count, framesSecond: b.count, within, same }, null, 1)}\n`,
    );
  else {
    const lines = [
      `${result.joints} joints over ${result.frames} frames: largest difference ${(1000 * result.distance).toPrecision(3)} mm (${result.share.toExponential(1)} of the rig) at ${result.joint || 'no joint'}, frame ${result.frame}; turns ${result.degrees.toPrecision(3)}°`,
      ...(a.count === b.count ? [] : [`${a.count} frames in the first, ${b.count} in the second`]),
      ...(result.onlyFirst.length > 0 ? [`only in the first: ${result.onlyFirst.join(', ')}`] : []),
      ...(result.onlySecond.length > 0 ? [`only in the second: ${result.onlySecond.join(', ')}`] : []),
      same ? 'the same' : 'not the same',
    ];
    process.stdout.write(`${lines.join('\n')}\n`);
  }
  return same ? 0 : 1;
}

export async function apply(args: string[]): Promise<number> {
  const { values, positionals } = parseArgs({
    args,
    options: {
      character: { type: 'string' },
      out: { type: 'string' },
      clip: { type: 'string' },
      fps: { type: 'string' },
      json: { type: 'boolean' },
    },
    allowPositionals: true,
  });
  if (positionals.length !== 1 || !values.character || !values.out)
    throw new UsageError('apply takes a preset, a shot or a motion, --character FILE and --out FILE.');
  const { container, decoders } = await open(values.character);
  const character = readContainer(container, decoders, { skeletonOnly: true });
  const bytes = new Uint8Array(await readFile(positionals[0]!));
  const motion = readMotion(bytes, basename(positionals[0]!));
  const say = (result: object, lines: readonly string[]) => {
    if (values.json) process.stdout.write(`${JSON.stringify({ file: values.out, ...result }, null, 1)}\n`);
    else for (const line of lines) console.error(line);
    return 0;
  };
  if (motion) {
    const { bytes: applied, matched, missed } = applyMotion(container, character, motion, motion.name);
    await writeWhole(values.out, applied);
    return say({ clip: motion.name, matched, missed }, [
      `${values.out}: “${motion.name}” moves ${matched} joints`,
      ...missed.map((m) => `no joint like ${m}`),
    ]);
  }
  const data = parsed(new TextDecoder().decode(bytes), basename(positionals[0]!));
  const hash = createHash('sha256')
    .update(await readFile(values.character))
    .digest('hex');
  const file = { hash, fileName: basename(values.character) };
  const index = whole(values.clip ?? '0', '--clip');
  if (values.clip !== undefined && !character.clips[index])
    throw new OscillumError(
      'shot.invalid',
      `There is no clip ${index}; this character has ${character.clips.length}`,
      '--clip',
      'List them with: npx oscillum inspect FILE',
    );
  const preset = Preset.safeParse(data);
  const fps = amount(values.fps, guessFps(character.clips[index] ?? null), '--fps');
  const made = preset.success
    ? { shot: shotOfPreset(preset.data, character, file, index, fps), missed: [] }
    : carryTo(parseShot(data), character, file, index);
  await writeWhole(values.out, `${JSON.stringify(made.shot, null, 1)}\n`);
  const parts = Object.values(made.shot.parts).map((p) => p.name);
  return say({ parts, missed: made.missed }, [
    `${values.out}: ${parts.join(', ') || 'no parts'}`,
    ...made.missed,
  ]);
}

/** A shot of a character whose rows that only ride along are chains with a preset's settings. */
function shotOfPreset(
  preset: Preset,
  character: Character,
  file: { readonly hash: string; readonly fileName: string },
  index: number,
  fps: number,
): Shot {
  const clip = character.clips[index] ?? null;
  const base = makeShot({
    name: `${preset.name}, ${clip?.name ?? file.fileName}`,
    ...file,
    fps,
    clip: clip && { index, name: clip.name, duration: clip.duration },
  });
  const rows = suggestChains(character, clip, new Set());
  if (rows.length === 0)
    throw new OscillumError(
      'shot.invalid',
      `${file.fileName} has no row of three joints or more that only rides along`,
      '',
      'Make chains in the application, and apply the shot.',
    );
  const { shot } = editShot(base, 'command-line', 'Apply preset', (d) => {
    rows.forEach(({ row }, order) => {
      const part = makeChainPart({
        id: `part${order + 1}`,
        name: character.nodes[row[0]!]!.name,
        order,
        joints: row.map((node) => ({ node, name: character.nodes[node]!.name })),
      });
      applyPreset(part, preset, SETTING_GROUPS);
      d.parts[part.id] = part;
    });
  });
  return shot;
}

function parsed(text: string, name: string): unknown {
  try {
    return JSON.parse(text);
  } catch {
    throw new OscillumError(
      'shot.invalid',
      `${name} is not valid JSON`,
      '',
      'Give a shot or a preset saved from the application.',
    );
  }
}
