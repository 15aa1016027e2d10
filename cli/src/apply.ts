import { createHash } from 'node:crypto';
import { stat } from 'node:fs/promises';
import { basename } from 'node:path';
import { parseArgs } from 'node:util';
import { guessFps, limbIn, rowToTip, suggestChains, type Character } from '@oscillum/core/character';
import { applyPreset, makeChainPart, Preset, PRESETS } from '@oscillum/core/chain';
import { readContainer, readMotion } from '@oscillum/core/gltf';
import { applyMotion } from '@oscillum/core/handoff';
import { OscillumError, SETTING_GROUPS } from '@oscillum/core/model';
import { editShot, makeShot, parseShot, type Shot } from '@oscillum/core/shot';
import { carryTo } from '@oscillum/core/simulate';
import { amount, clipNumber, endingOf, framesOf, open, readWhole, UsageError, writeWhole } from './common';

const OPTIONS = {
  character: { type: 'string' },
  out: { type: 'string' },
  clip: { type: 'string' },
  frames: { type: 'string' },
  fps: { type: 'string' },
  unit: { type: 'string' },
  loop: { type: 'boolean' },
  joints: { type: 'string' },
  json: { type: 'boolean' },
} as const;

type Values = ReturnType<typeof parseArgs<{ options: typeof OPTIONS }>>['values'];

/** oscillum apply: a preset, a shot or a motion on a character. */
export async function apply(args: string[]): Promise<number> {
  const { values, positionals } = parseArgs({ args, options: OPTIONS, allowPositionals: true });
  const [what] = positionals;
  if (positionals.length !== 1 || !values.character || !values.out)
    throw new UsageError('apply takes a preset, a shot or a motion, --character FILE and --out FILE.');
  const named = PRESETS.find((p) => p.name.toLowerCase() === what!.toLowerCase());
  const isFile = (await stat(what!).catch(() => null)) !== null;
  const bytes = named && !isFile ? null : await readWhole(what!);
  const motion = bytes && readMotion(bytes, basename(what!));
  await endingOf(
    values.out,
    [motion ? 'glb' : 'json'],
    isFile ? [what!, values.character] : [values.character],
  );
  const { container, decoders } = await open(values.character);
  const character = readContainer(container, decoders, { skeletonOnly: true });
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
  const data: unknown = bytes ? parsed(new TextDecoder().decode(bytes), basename(what!)) : named;
  const hash = createHash('sha256')
    .update(await readWhole(values.character))
    .digest('hex');
  const file = { hash, fileName: basename(values.character) };
  const { shot, missed, warnings } = onCharacter(data, character, file, values);
  await writeWhole(values.out, `${JSON.stringify(shot, null, 1)}\n`);
  const parts = Object.values(shot.parts).map((p) => p.name);
  return say({ parts, missed, warnings }, [
    `${values.out}: ${parts.join(', ')}`,
    ...missed,
    ...warnings.map((w) => `warning: ${w}`),
  ]);
}

interface Applied {
  shot: Shot;
  missed: readonly string[];
  warnings: readonly string[];
}

/** A preset or a shot on a character, with the clip, time and unit that are asked for. Throws without any part. */
function onCharacter(
  data: unknown,
  character: Character,
  file: { readonly hash: string; readonly fileName: string },
  values: Values,
): Applied {
  const index = values.clip === undefined ? 0 : clipNumber(values.clip, character, '--clip');
  const fps = amount(values.fps, guessFps(character.clips[index] ?? null), '--fps');
  const preset = Preset.safeParse(data);
  if (!preset.success && values.joints)
    throw new UsageError('--joints is for presets: a shot says its joints itself.');
  const rows = preset.success ? rowsFor(character, index, file.fileName, values.joints) : [];
  const { shot: made, missed } = preset.success
    ? { shot: shotOfPreset(preset.data, character, file, index, fps, rows), missed: [] }
    : carryTo(parseShot(data), character, file, index);
  if (Object.keys(made.parts).length === 0)
    throw new OscillumError(
      'shot.invalid',
      `Nothing of the shot is on ${file.fileName}: ${missed.slice(0, 4).join('; ') || 'it has no parts'}`,
      '',
      'Give a character with joints of the same names.',
    );
  const frames = framesOf(values.frames);
  const { shot } = editShot(made, 'command-line', 'Apply', (d) => {
    if (frames) Object.assign(d, { range: frames, settleFrames: 0 });
    if (values.loop) d.loop = true;
    d.character.metresPerUnit = amount(values.unit, d.character.metresPerUnit, '--unit');
  });
  return { shot, missed, warnings: rows.flatMap((row) => limbWarning(character, row)) };
}

/** Rows for a preset: those that begin at joints of some names, or all that only ride along. */
function rowsFor(
  character: Character,
  index: number,
  fileName: string,
  joints: string | undefined,
): number[][] {
  if (joints !== undefined)
    return joints.split(',').map((text) => {
      const name = text.trim();
      const node = character.joints.find((n) => character.nodes[n]!.name === name);
      if (node !== undefined) return rowToTip(character, node);
      throw new OscillumError(
        'shot.invalid',
        `${fileName} has no joint named ${name}`,
        '--joints',
        'List them with: npx oscillum inspect FILE',
      );
    });
  const rows = suggestChains(character, character.clips[index] ?? null, new Set()).map(({ row }) => [...row]);
  if (rows.length > 0) return rows;
  throw new OscillumError(
    'shot.invalid',
    `${fileName} has no row of three joints or more that only rides along`,
    '',
    'Name the first joints of rows with --joints.',
  );
}

/** A row that was asked for though its names say that it should be animated. */
function limbWarning(character: Character, row: readonly number[]): string[] {
  const limb = limbIn(character, row);
  return limb
    ? [
        `“${character.nodes[row[0]!]!.name}” looks like a limb (${limb}). Choose rows with --joints to leave it out.`,
      ]
    : [];
}

/** A shot of a character whose rows are chains with a preset's settings. */
function shotOfPreset(
  preset: Preset,
  character: Character,
  file: { readonly hash: string; readonly fileName: string },
  index: number,
  fps: number,
  rows: readonly (readonly number[])[],
): Shot {
  const clip = character.clips[index] ?? null;
  const base = makeShot({
    name: `${preset.name}, ${clip?.name ?? file.fileName}`,
    ...file,
    fps,
    clip: clip && { index, name: clip.name, duration: clip.duration },
  });
  return editShot(base, 'command-line', 'Apply preset', (d) => {
    rows.forEach((row, order) => {
      const part = makeChainPart({
        id: `part${order + 1}`,
        name: character.nodes[row[0]!]!.name,
        order,
        joints: row.map((node) => ({ node, name: character.nodes[node]!.name })),
      });
      applyPreset(part, preset, SETTING_GROUPS);
      d.parts[part.id] = part;
    });
  }).shot;
}

/** oscillum presets: their names, and when to use them. */
export function presets(args: string[]): number {
  const { values } = parseArgs({ args, options: { json: { type: 'boolean' } } });
  const list = PRESETS.map(({ name, use }) => ({ name, use }));
  if (values.json) process.stdout.write(`${JSON.stringify(list, null, 1)}\n`);
  else process.stdout.write(list.map((p) => `${p.name}\n    ${p.use}\n`).join(''));
  return 0;
}

function parsed(text: string, name: string): unknown {
  try {
    return JSON.parse(text);
  } catch {
    throw new OscillumError(
      'shot.invalid',
      `${name} is not valid JSON`,
      '',
      'Give a shot or a preset saved from the application, or the name of a preset (npx oscillum presets).',
    );
  }
}
