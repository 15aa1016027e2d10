import { deserialize, serialize } from 'node:v8';
import type { BakeJob, JobRequest, JobResult } from '@oscillum/core/contract';
import { readForBake, type BakedPiece } from '@oscillum/core/bake';
import { loadMeshopt, openContainer, type Container, type Decoders } from '@oscillum/core/gltf';
import { clipPlans, handOff } from '@oscillum/core/handoff';
import { OscillumError } from '@oscillum/core/model';
import { judgeFile, packFiles } from '@oscillum/player';
import { createDecoderModule, createEncoderModule } from 'draco3dgltf';
import type { Database, Tx } from '../db/database';
import * as repo from '../repos/jobs';
import { isDatabaseLost } from '../errors';
import { readCharacterFile } from '../usecases/characters';
import type { Claim } from '../db/engine';
import type { Queue } from '../queue/queue';
import { keyOf, kindOf } from '../usecases/jobs';
import { readResult, storeResult } from '../usecases/results';
import { filmFiles } from './film';

/** How often it says how far it is. */
const TELL_MS = 400;
/** Work between looks at the clock. */
const SLICE_MS = 15;
/** Share of a job after which the files are played by others. */
const PLAYING = 0.85;

/** The job is not ours any more: cancelled, or another's. */
class LetGo extends Error {}

/** What a job has made, before it is stored. */
type Made = Awaited<ReturnType<typeof makeFiles | typeof filmFiles>>;

const breathe = () => new Promise<void>((resolve) => setImmediate(resolve));

/** Where a worker works: the database, and its own session in it, which holds the lock of its job. */
export interface Place {
  readonly db: Database;
  readonly session: Database;
  readonly queue: Queue;
  /** The address of the application, for films. */
  readonly page: string | null;
  /** Looked at while it works. */
  stopping(): boolean;
}

/**
 * Does a claimed job. What fails by its own fault ends it with its reason; anything else is the engine's to try again.
 * Throws when the database is gone: the lock is gone then too, and the engine hears of it by that.
 */
export async function runJob(place: Place, claim: Claim): Promise<void> {
  const { db, session, queue, page } = place;
  const row = await repo.findJob(session, claim.id);
  const ending = async (tx: Tx, end: Parameters<typeof repo.endJob>[2]) => {
    const mine = await queue.complete(tx, claim);
    if (mine) await repo.endJob(tx, claim.id, end, claim.queued);
    return mine;
  };
  // Over meanwhile, or put in again under another name.
  if (!row || row.ended !== null || row.queued !== claim.queued)
    return void (await session.transaction((tx) => queue.complete(tx, claim)));
  try {
    const { request } = row;
    const tell = teller(place, claim);
    const result =
      'film' in request ? await filmFiles(claim.id, request, page, tell) : await makeFiles(db, request, tell);
    await session.transaction(async (tx) => {
      const done = await storeFiles(tx, result);
      // Not ours any more: what was stored is taken back.
      if (!(await ending(tx, { ended: 'done', result: done }))) throw new LetGo();
    });
  } catch (e) {
    if (e instanceof LetGo) {
      if (place.stopping()) await session.transaction((tx) => handBack(tx, queue, claim, row.request));
    } else if (e instanceof OscillumError)
      await session.transaction((tx) => ending(tx, { ended: 'failed', error: e.sentence }));
    // Then nothing can be written of what went wrong either.
    else if (isDatabaseLost(e)) throw e;
    else {
      const message = `Something went wrong in this job: ${e instanceof Error ? e.message : String(e)}`;
      await session.transaction(async (tx) => {
        if (await queue.fail(tx, claim, message)) await repo.touchJobs(tx, [claim.queued]);
      });
    }
  }
}

async function handBack(tx: Tx, queue: Queue, claim: Claim, request: JobRequest): Promise<void> {
  const queued = await queue.handBack(tx, claim, kindOf(request));
  if (queued) await repo.setQueued(tx, claim.id, queued);
}

/** Says now and then how far a job is, and throws LetGo when it is to be let go. */
function teller({ session, stopping }: Place, claim: Claim): (progress: number) => Promise<void> {
  let told = Date.now();
  let slice = performance.now();
  return async (progress) => {
    if (performance.now() - slice < SLICE_MS) return;
    await breathe();
    slice = performance.now();
    if (stopping()) throw new LetGo();
    if (Date.now() - told < TELL_MS) return;
    if (!(await repo.tellProgress(session, claim, progress))) throw new LetGo();
    told = Date.now();
  };
}

async function storeFiles(tx: Tx, made: Made): Promise<JobResult> {
  const files: JobResult['files'] = [];
  for (const { bytes, ...file } of made.files)
    files.push({
      ...file,
      clips: [...file.clips],
      bytes: bytes.length,
      hash: await storeResult(tx, bytes),
    });
  const { clips, notes, checks, faults } = made;
  return {
    ...{ files, checks: [...checks], faults: [...faults], notes: [...notes] },
    clips: clips.map((c) => ({ ...c, missed: [...c.missed], fits: [...c.fits] })),
  };
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
  const character = readForBake(container, shot, decoders);
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
