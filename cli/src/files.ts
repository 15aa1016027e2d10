import { parseArgs } from 'node:util';
import { thinClip, type ThinClipOptions } from '@oscillum/core/bake';
import { guessFps, unitFrom } from '@oscillum/core/character';
import { containerOf, openContainer, readContainer, toGlb } from '@oscillum/core/gltf';
import {
  clipMotion,
  compareMotions,
  isSame,
  MOTION_FORMATS,
  unitOf,
  WITHIN,
  WITHIN_DEGREES,
  writeMotion,
} from '@oscillum/core/handoff';
import { amount, clipNumber, endingOf, oneOf, open, UsageError, writeWhole } from './common';

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
  await endingOf(values.out, ['glb'], positionals);
  const { container, decoders } = await open(positionals[0]!);
  const character = readContainer(container, decoders, { skeletonOnly: true });
  const options: ThinClipOptions = {
    kind: oneOf(values.kind, ['cubic', 'linear'], 'cubic', '--kind'),
    degrees: amount(values.degrees, 0.5, '--degrees'),
    share: amount(values.share, SHARE, '--share'),
  };
  const clips =
    values.clip === undefined ? [...character.clips.keys()] : [clipNumber(values.clip, character, '--clip')];
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
      from: { type: 'string' },
      up: { type: 'string' },
      json: { type: 'boolean' },
    },
    allowPositionals: true,
  });
  if (positionals.length !== 1 || !values.out) throw new UsageError('convert takes a file and --out FILE.');
  const format = await endingOf(values.out, ['glb', ...MOTION_FORMATS], positionals);
  const { container, decoders } = await open(positionals[0]!);
  const character = readContainer(container, decoders);
  const guessed = unitFrom(positionals[0]!, character);
  const metresPerUnit = amount(values.from, guessed.metres, '--from');
  const isBvh = /\.bvh$/i.test(positionals[0]!);
  let notes: readonly string[] =
    isBvh && !values.from
      ? [`${positionals[0]} is taken to be in ${guessed.why} (--from says otherwise)`]
      : [];
  const at = { metresPerUnit, upAxis: 'Y' as const };
  if (format === 'glb') {
    // A skeleton of a text file is written in metres; a GLB has them already.
    const motion = isBvh ? clipMotion(character, 0, { ...at, unit: 1, up: 'Y' }) : null;
    await writeWhole(values.out, toGlb(motion ? containerOf(motion, container.fileName) : container));
  } else {
    const clip = values.clip === undefined ? 0 : clipNumber(values.clip, character, '--clip');
    const own = character.clips[clip] ?? null;
    const file = writeMotion(character, clip, format, {
      fps: amount(values.fps, guessFps(own), '--fps'),
      ...at,
      unit: amount(values.unit, unitOf(format), '--unit'),
      up: oneOf(values.up, ['Y', 'Z'], 'Y', '--up'),
    });
    notes = [...notes, ...file.notes];
    await writeWhole(values.out, file.text);
  }
  if (values.json) process.stdout.write(`${JSON.stringify({ file: values.out, notes }, null, 1)}\n`);
  else for (const n of [`${values.out}: written`, ...notes]) console.error(n);
  return 0;
}

export async function check(args: string[]): Promise<number> {
  const { values, positionals } = parseArgs({
    args,
    options: {
      clip: { type: 'string' },
      'clip-b': { type: 'string' },
      fps: { type: 'string' },
      within: { type: 'string' },
      degrees: { type: 'string' },
      json: { type: 'boolean' },
    },
    allowPositionals: true,
  });
  if (positionals.length !== 2) throw new UsageError('check takes two files.');
  const load = async (path: string, clip: string | undefined, fps: number | undefined) => {
    const { container, decoders } = await open(path);
    const character = readContainer(container, decoders, { skeletonOnly: true });
    const unit = unitFrom(path, character);
    const index = clip === undefined ? 0 : clipNumber(clip, character, '--clip');
    const space = { metresPerUnit: unit.metres, upAxis: 'Y' as const, unit: 1, up: 'Y' as const };
    return { motion: clipMotion(character, index, { ...space, ...(fps ? { fps } : {}) }), unit };
  };
  const [first, second] = positionals as [string, string];
  const isBvh = (path: string) => /\.bvh$/i.test(path);
  const { motion: a, unit: unitA } = await load(
    first,
    values.clip,
    values.fps ? amount(values.fps, 30, '--fps') : undefined,
  );
  const sameSort = /\.(glb|gltf|zip)$/i.test(second);
  const { motion: b, unit: unitB } = await load(
    second,
    values['clip-b'] ?? (sameSort ? values.clip : undefined),
    a.fps,
  );
  const result = compareMotions(a, b);
  // BVH holds no scales.
  const scales = !isBvh(first) && !isBvh(second);
  const units = [unitA, unitB].flatMap((u, k) =>
    isBvh(positionals[k]!) ? [`${positionals[k]} is taken to be in ${u.why}`] : [],
  );
  const within = amount(values.within, WITHIN, '--within');
  const degrees = amount(values.degrees, WITHIN_DEGREES, '--degrees');
  const same = result.joints > 0 && isSame(result, scales, within, degrees) && a.count === b.count;
  if (values.json)
    process.stdout.write(
      `${JSON.stringify({ ...result, framesFirst: a.count, framesSecond: b.count, units, within, same }, null, 1)}\n`,
    );
  else {
    const lines = [
      [
        `${result.joints} joints over ${result.frames} frames: largest difference`,
        `${(1000 * result.distance).toPrecision(3)} mm (${result.share.toExponential(1)} of the rig)`,
        `at ${result.joint || 'no joint'}, frame ${result.frame}`,
      ].join(' '),
      `turns ${result.degrees.toPrecision(3)}° at ${result.turnJoint || 'no joint'}`,
      ...(scales
        ? [`scales ${(100 * result.scale).toPrecision(3)} % at ${result.scaleJoint || 'no joint'}`]
        : []),
      ...units,
      ...(a.count === b.count ? [] : [`${a.count} frames in the first, ${b.count} in the second`]),
      ...(result.onlyFirst.length > 0 ? [`only in the first: ${result.onlyFirst.join(', ')}`] : []),
      ...(result.onlySecond.length > 0 ? [`only in the second: ${result.onlySecond.join(', ')}`] : []),
      same ? 'the same' : 'not the same',
    ];
    process.stdout.write(`${lines.join('\n')}\n`);
  }
  return same ? 0 : 1;
}
