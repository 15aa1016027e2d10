import { createHash } from 'node:crypto';
import { createReadStream, createWriteStream } from 'node:fs';
import { mkdtemp, rm } from 'node:fs/promises';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { pipeline } from 'node:stream/promises';
import type { CharacterSummary } from '@oscillum/core/contract';
import { LIMITS } from '@oscillum/core/gltf';
import { CharacterHash } from '@oscillum/core/shot';
import type { Database } from '../db/database';
import { AppError, notFound } from '../errors';
import * as repo from '../repos/characters';
import { readCharacter } from './readCharacter';

/** Bytes of a file in one row. */
const CHUNK = 1 << 20;

/**
 * Takes a character file as it arrives. It is kept in a file of its own until it is whole and understood, so that a
 * slow sender holds no connection of the database and a big file no memory; then it is stored in one go. One that is
 * refused or broken off leaves nothing. `versionOf` names the character that it is with clips baked into it.
 */
export async function storeCharacter(
  db: Database,
  fileName: string,
  source: AsyncIterable<Buffer>,
  versionOf: string | null = null,
): Promise<CharacterSummary> {
  const folder = await mkdtemp(join(tmpdir(), 'oscillum-upload-'));
  try {
    const path = join(folder, 'file');
    const { hash, bytes } = await receive(source, path, fileName);
    const found = await readCharacter(path, fileName);
    return await db.transaction(async (tx) => {
      if (await repo.insertCharacter(tx, { hash, fileName, bytes, versionOf, ...found })) {
        let position = 0;
        for await (const chunk of createReadStream(path, { highWaterMark: CHUNK }))
          await repo.insertChunk(tx, hash, position++, chunk as Buffer);
      }
      return summary((await repo.findCharacter(tx, hash))!);
    });
  } finally {
    await rm(folder, { recursive: true, force: true });
  }
}

/** Writes what arrives to a file. Throws AppError when it is too large. */
async function receive(
  source: AsyncIterable<Buffer>,
  path: string,
  fileName: string,
): Promise<{ hash: string; bytes: number }> {
  const hash = createHash('sha256');
  let bytes = 0;
  await pipeline(
    source,
    async function* (pieces: AsyncIterable<Buffer>) {
      for await (const piece of pieces) {
        bytes += piece.length;
        if (bytes > LIMITS.fileBytes)
          throw new AppError(
            413,
            'file.too-large',
            `${fileName} is larger than ${LIMITS.fileBytes / 2 ** 20} MiB.`,
            'Leave out what is not needed, or split the file.',
          );
        hash.update(piece);
        yield piece;
      }
    },
    createWriteStream(path),
  );
  return { hash: hash.digest('hex'), bytes };
}

export async function listCharacters(db: Database): Promise<CharacterSummary[]> {
  return (await repo.listCharacters(db)).map(summary);
}

export async function getCharacter(db: Database, hash: string): Promise<CharacterSummary> {
  const row = await repo.findCharacter(db, hash);
  if (!row) throw notFound('character');
  return summary(row);
}

/** The file's bytes, a row at a time. */
export async function* readCharacterFile(db: Database, hash: string): AsyncGenerator<Buffer> {
  for (let position = 0; ; position++) {
    const chunk = await repo.readChunk(db, hash, position);
    if (!chunk) return;
    yield chunk;
  }
}

export async function deleteCharacter(db: Database, hash: string): Promise<void> {
  await db.transaction(async (tx) => {
    if (!(await repo.findCharacter(tx, hash))) throw notFound('character');
    const uses = await repo.countUses(tx, hash);
    if (uses > 0)
      throw new AppError(
        409,
        'character.in-use',
        `This character is used by ${uses} ${uses === 1 ? 'shot' : 'shots'}.`,
        'Delete those shots first.',
      );
    await repo.deleteCharacter(tx, hash);
  });
}

/** Days for which a baked version that no shot uses any more is kept: undo may still lead back to it. */
const VERSION_DAYS = 30;

export async function sweepVersions(db: Database): Promise<void> {
  await db.transaction(async (tx) => {
    for (const hash of await repo.unusedVersions(tx, VERSION_DAYS)) await repo.deleteCharacter(tx, hash);
  });
}

function summary(row: repo.CharacterRow): CharacterSummary {
  return {
    hash: CharacterHash.parse(row.hash),
    fileName: row.fileName,
    bytes: row.bytes,
    joints: row.joints,
    clips: row.clips,
    unit: row.unit,
    shots: row.shots,
    createdAt: row.createdAt.toISOString(),
  };
}
