import { readFile, rename, rm, writeFile } from 'node:fs/promises';
import { basename } from 'node:path';
import { loadMeshopt, openContainer, type Container, type Decoders } from '@oscillum/core/gltf';
import { OscillumError } from '@oscillum/core/model';
import { parseShot, type Shot } from '@oscillum/core/shot';

/** A mistake in the command itself. */
export class UsageError extends Error {}

export async function open(path: string): Promise<{ container: Container; decoders: Decoders }> {
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
export async function checkSame(shot: Shot, path: string, force: boolean): Promise<void> {
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
