import { deserialize, serialize } from 'node:v8';
import type { BakeJob, JobResult } from '@oscillum/core/contract';
import type { BakedPiece } from '@oscillum/core/bake';
import {
  loadMeshopt,
  openContainer,
  readContainer,
  type Container,
  type Decoders,
} from '@oscillum/core/gltf';
import { clipPlans, handOff } from '@oscillum/core/handoff';
import { OscillumError } from '@oscillum/core/model';
import { judgeFile, packFiles } from '@oscillum/player';
import { createDecoderModule, createEncoderModule } from 'draco3dgltf';
import type { Database } from '../db/database';
import * as repo from '../repos/jobs';
import { isDatabaseLost } from '../errors';
import { readCharacterFile } from '../usecases/characters';
import { keyOf } from '../usecases/jobs';
import { readResult, storeResult } from '../usecases/results';
import { filmFiles } from './film';

/** How long a worker may be silent before its job is another's. */
export const LEASE_MS = 15_000;
/** How often it says how far it is. */
const TELL_MS = 400;
/** Work between looks at the clock. */
const SLICE_MS = 15;
/** Share of a job after which the files are played by others. */
const PLAYING = 0.85;

/** The job is not ours any more: cancelled, or another's. */
class LetGo extends Error {}

const breathe = () => new Promise<void>((resolve) => setImmediate(resolve));

/**
 * Does a job if it waits for somebody. What fails by its own fault ends it with its reason; a database that is gone is
 * thrown, and the job waits for its lease to end. `page` is the address of the application,
 * for films; `stopping` is looked at while it works.
 */
export async function runJob(
  db: Database,
  id: string,
  worker: string,
  leaseMs: number,
  page: string | null,
  stopping: () => boolean,
): Promise<void> {
  const row = await repo.claimJob(db, id, worker, leaseMs);
  if (!row) return;
  let told = Date.now();
  let slice = performance.now();
  const tell = async (progress: number) => {
    if (performance.now() - slice < SLICE_MS) return;
    await breathe();
    slice = performance.now();
    if (stopping()) throw new LetGo();
    if (Date.now() - told < Math.min(TELL_MS, leaseMs / 4)) return;
    if (!(await repo.keepJob(db, id, worker, progress, leaseMs))) throw new LetGo();
    told = Date.now();
  };
  try {
    const { request } = row;
    const result =
      'film' in request ? await filmFiles(id, request, page, tell) : await makeFiles(db, request, tell);
    await db.transaction(async (tx) => {
      const files: JobResult['files'] = [];
      for (const { bytes, ...file } of result.files)
        files.push({
          ...file,
          clips: [...file.clips],
          bytes: bytes.length,
          hash: await storeResult(tx, bytes),
        });
      const { clips, notes, checks, faults } = result;
      const done: JobResult = {
        ...{ files, checks: [...checks], faults, notes: [...notes] },
        clips: clips.map((c) => ({ ...c, missed: [...c.missed] })),
      };
      // Not ours any more: what was stored is taken back.
      if (!(await repo.endJob(tx, id, worker, { state: 'done', result: done }))) throw new LetGo();
    });
  } catch (e) {
    if (e instanceof LetGo) {
      if (stopping()) await repo.endJob(db, id, worker, { state: 'waiting' });
    } else if (e instanceof OscillumError)
      await repo.endJob(db, id, worker, { state: 'failed', error: e.sentence });
    // Then nothing can be written of what went wrong either.
    else if (isDatabaseLost(e)) throw e;
    else
      await repo.endJob(db, id, worker, {
        state: 'failed',
        error: `Something went wrong in this job: ${e instanceof Error ? e.message : String(e)}. The others go on.`,
      });
  }
}

async function makeFiles(db: Database, { shot, plan }: BakeJob, tell: (progress: number) => Promise<void>) {
  const rows: Buffer[] = [];
  for await (const chunk of readCharacterFile(db, shot.character.hash)) rows.push(chunk);
  if (rows.length === 0)
    throw new OscillumError(
      'file.invalid',
      `The character ${shot.character.fileName} is not in the library any more`,
      '',
      'Drop its file again, then ask for the job again.',
    );
  const container = openContainer(new Uint8Array(Buffer.concat(rows)), shot.character.fileName);
  const decoders = await decodersFor(container);
  const character = readContainer(container, decoders, { skeletonOnly: true });
  const keys = clipPlans(character, shot, plan).map((p) => keyOf(p.shot, p.options));
  const known = new Map<number, BakedPiece>();
  for (const [k, key] of keys.entries()) {
    const hash = await repo.findPiece(db, key);
    const bytes = hash && (await readResult(db, hash));
    if (bytes && bytes.length > 0) known.set(k, deserialize(bytes) as BakedPiece);
    await tell(0);
  }
  // Each clip is kept as soon as it is baked, so that whoever goes on with the job need not bake it again.
  const made: [number, BakedPiece][] = [];
  const keep = async () => {
    for (let next = made.shift(); next; next = made.shift()) {
      const [k, piece] = next;
      await db.transaction(async (tx) =>
        repo.insertPiece(tx, keys[k]!, await storeResult(tx, new Uint8Array(serialize(piece)))),
      );
    }
  };
  const pieces = { known, made: (k: number, piece: BakedPiece) => void made.push([k, piece]) };
  const run = handOff(container, shot, plan, decoders, pieces);
  for (;;) {
    const step = run.next();
    await keep();
    if (step.done) {
      const done = await packFiles(step.value, plan, {
        encoder: createEncoderModule,
        decoder: createDecoderModule,
      });
      const checks = [...done.checks];
      const faults: string[] = [];
      const readers = { ...decoders, meshopt: await loadMeshopt() };
      for (const [k, file] of done.files.entries()) {
        await tell(PLAYING + ((1 - PLAYING) * k) / done.files.length);
        const judged = await judgeFile(file, shot.fps, readers);
        checks.push(...judged.checks);
        faults.push(...judged.faults);
      }
      return { ...done, checks, faults };
    }
    await tell(PLAYING * step.value);
  }
}

async function decodersFor({ json }: Container): Promise<Decoders> {
  const used = json.extensionsUsed ?? [];
  return {
    ...(used.some((e) => e.includes('meshopt')) && { meshopt: await loadMeshopt() }),
    ...(used.includes('KHR_draco_mesh_compression') && {
      draco: (await createDecoderModule()) as NonNullable<Decoders['draco']>,
    }),
  };
}
