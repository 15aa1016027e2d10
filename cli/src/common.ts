import { readFileSync, statSync } from 'node:fs';
import { readFile, rename, rm, stat, writeFile } from 'node:fs/promises';
import { basename, dirname, relative, resolve } from 'node:path';
import type { Character } from '@oscillum/core/character';
import { LIMITS, loadMeshopt, openContainer, type Container, type Decoders } from '@oscillum/core/gltf';
import { OscillumError } from '@oscillum/core/model';
import { parseShot, type Shot } from '@oscillum/core/shot';

/** A mistake in the command itself. */
export class UsageError extends Error {}

const tooLarge = (path: string) =>
  new OscillumError(
    'file.too-large',
    `${basename(path)} is larger than ${LIMITS.fileBytes / 2 ** 20} MiB`,
    '',
    'Leave out what is not needed, or split the file.',
  );

/** A file's bytes. One that is too large is not read at all. */
export async function readWhole(path: string): Promise<Uint8Array<ArrayBuffer>> {
  const { size } = await stat(path);
  if (await isFolder(path))
    throw new OscillumError('file.invalid', `${path} is a folder`, '', 'Give a file in it.');
  if (size > LIMITS.fileBytes) throw tooLarge(path);
  return new Uint8Array(await readFile(path));
}

/** Files that stand in a folder or below it, by the address a .gltf has for them. */
function filesIn(folder: string): Container['resource'] {
  return (uri) => {
    const decoded = /%[0-9a-f]{2}/i.test(uri) ? decodeURIComponent(uri) : uri;
    const path = resolve(folder, decoded);
    if (/^[a-z][a-z0-9+.-]*:/i.test(uri) || relative(folder, path).startsWith('..')) return null;
    try {
      if (statSync(path).size > LIMITS.fileBytes) throw tooLarge(path);
      return new Uint8Array(readFileSync(path));
    } catch (e) {
      if (e instanceof OscillumError) throw e;
      return null;
    }
  };
}

/** Opens a character file, a .gltf with the files beside it. */
export async function open(path: string): Promise<{ container: Container; decoders: Decoders }> {
  const container = openContainer(await readWhole(path), basename(path), filesIn(resolve(dirname(path))));
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

export const whole = (text: string, what: string): number => {
  const n = Number(text);
  if (!Number.isInteger(n)) throw new UsageError(`${what} must be a whole number, not ${text}.`);
  return n;
};

/** A number above 0. */
export const amount = (text: string | undefined, otherwise: number, what: string): number => {
  if (text === undefined) return otherwise;
  const n = Number(text);
  if (!(n > 0) || !Number.isFinite(n)) throw new UsageError(`${what} must be a number above 0, not ${text}.`);
  return n;
};

/** One of some words. */
export function oneOf<T extends string>(
  text: string | undefined,
  words: readonly T[],
  otherwise: T,
  what: string,
): T {
  if (text === undefined) return otherwise;
  if (!(words as readonly string[]).includes(text))
    throw new UsageError(`${what} is ${words.join(' or ')}, not ${text}.`);
  return text as T;
}

/** A clip by its number or its name. */
export function clipNumber(text: string, { clips }: Pick<Character, 'clips'>, what: string): number {
  const named = clips.findIndex((c) => c.name === text);
  const n = named >= 0 ? named : Number(text);
  if (Number.isInteger(n) && clips[n]) return n;
  throw new OscillumError(
    'shot.invalid',
    `There is no clip ${text}; this character has ${clips.length}: ${clips.map((c, k) => `${k} ${c.name}`).join(', ')}`,
    what,
    'Give one of their numbers or names.',
  );
}

/** Frames A..B. */
export function framesOf(text: string | undefined): { first: number; last: number } | null {
  if (text === undefined) return null;
  const m = /^(-?\d+)\.\.(-?\d+)$/.exec(text);
  if (!m) throw new UsageError('--frames takes A..B, such as 0..48.');
  return { first: Number(m[1]), last: Number(m[2]) };
}

/** The ending of a file to be written: one that can be, in a folder that is there, and no file that is read. */
export async function endingOf<E extends string>(
  out: string,
  endings: readonly E[],
  inputs: readonly string[],
): Promise<E> {
  const ending = /\.([^./\\]+)$/.exec(out)?.[1]?.toLowerCase() as E | undefined;
  if (ending === undefined || !endings.includes(ending))
    throw new UsageError(`--out must end in ${endings.map((e) => `.${e}`).join(', ')}: ${out} does not.`);
  if (inputs.some((i) => resolve(i) === resolve(out)))
    throw new UsageError(
      `--out is ${out}, which is also read. Give another name, so that it stays as it is.`,
    );
  const folder = dirname(resolve(out));
  if (!(await isFolder(folder)))
    throw new OscillumError('bake.invalid', `There is no folder ${folder}`, '--out', 'Make it first.');
  if (await isFolder(out))
    throw new OscillumError('bake.invalid', `${out} is a folder`, '--out', 'Give the name of a file in it.');
  return ending;
}

export const isFolder = async (path: string): Promise<boolean> =>
  (await stat(path).catch(() => null))?.isDirectory() ?? false;

/** Whole or not at all: a half-written file never has the name asked for. */
export async function writeWhole(path: string, bytes: Uint8Array | string): Promise<void> {
  const part = `${path}.part`;
  try {
    await writeFile(part, bytes);
    await rename(part, path);
  } finally {
    await rm(part, { force: true });
  }
}

export async function readShot(path: string): Promise<Shot> {
  const text = new TextDecoder().decode(await readWhole(path));
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
export async function checkSame(shot: Shot, path: string, force: boolean): Promise<void> {
  if (force) return;
  const { createHash } = await import('node:crypto');
  const hash = createHash('sha256')
    .update(await readWhole(path))
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
