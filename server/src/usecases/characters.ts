import { createHash, randomUUID } from 'node:crypto';
import type { CharacterSummary } from '@oscillum/core/contract';
import { LIMITS, loadMeshopt, readGltf } from '@oscillum/core/gltf';
import { CharacterHash } from '@oscillum/core/shot';
import type { Database } from '../db/database';
import { AppError, notFound } from '../errors';
import * as repo from '../repos/characters';

const CHUNK = 1 << 20;

/**
 * Takes a character file as it arrives: rows are written while it streams, and only when the whole file has been read
 * and understood are they given to a character; otherwise the transaction takes them all back.
 */
export async function storeCharacter(
  db: Database,
  fileName: string,
  source: AsyncIterable<Buffer>,
): Promise<CharacterSummary> {
  const upload = `upload-${randomUUID()}`;
  return db.transaction(async (tx) => {
    const hash = createHash('sha256');
    const chunks: Buffer[] = [];
    let total = 0;
    let pending: Buffer[] = [];
    let size = 0;
    const flush = async () => {
      const chunk = Buffer.concat(pending, size);
      pending = [];
      size = 0;
      for (let at = 0; at < chunk.length; at += CHUNK) {
        const piece = chunk.subarray(at, at + CHUNK);
        await repo.insertChunk(tx, upload, chunks.length, piece);
        chunks.push(piece);
      }
    };
    for await (const piece of source) {
      total += piece.length;
      if (total > LIMITS.fileBytes)
        throw new AppError(
          413,
          'file.too-large',
          `${fileName} is larger than ${LIMITS.fileBytes / 2 ** 20} MiB.`,
          'Leave out what is not needed, or split the file.',
        );
      hash.update(piece);
      pending.push(piece);
      size += piece.length;
      // Whole chunks only, so that every row but the last is full.
      if (size >= CHUNK) {
        const all = Buffer.concat(pending, size);
        const whole = size - (size % CHUNK);
        pending = [all.subarray(0, whole)];
        size = whole;
        await flush();
        pending = [all.subarray(whole)];
        size = all.length - whole;
      }
    }
    if (size > 0) await flush();
    const bytes = Buffer.concat(chunks, total);
    const character = readGltf(
      new Uint8Array(bytes.buffer, bytes.byteOffset, bytes.length),
      fileName,
      { meshopt: await loadMeshopt() },
      { skeletonOnly: true },
    );
    const digest = hash.digest('hex');
    const fresh = await repo.insertCharacter(tx, {
      hash: digest,
      fileName,
      bytes: total,
      joints: character.joints.length,
      clips: character.clips.map((c) => ({ name: c.name, duration: c.duration })),
    });
    if (fresh) await repo.nameChunks(tx, upload, digest);
    else await repo.deleteChunks(tx, upload);
    return summary((await repo.findCharacter(tx, digest))!);
  });
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

function summary(row: repo.CharacterRow): CharacterSummary {
  return {
    hash: CharacterHash.parse(row.hash),
    fileName: row.fileName,
    bytes: row.bytes,
    joints: row.joints,
    clips: row.clips,
    shots: row.shots,
    createdAt: row.createdAt.toISOString(),
  };
}
