import { bakeClip, bakeInto, defaultBake, recordingFor } from '@oscillum/core/bake';
import { applyMotion, handOff, weighFits, zipFiles } from '@oscillum/core/handoff';
import {
  findStrands,
  makePose,
  meshAtRest,
  rootMatrix,
  worldMatrices,
  type Character,
} from '@oscillum/core/character';
import {
  addJoints,
  loadMeshopt,
  openContainer,
  readContainer,
  readMotion,
  type BakedClip,
  type Container,
  type Decoders,
} from '@oscillum/core/gltf';
import {
  diagnose,
  fitPartFeel,
  measureShot,
  partFeel,
  type Feel,
  type FittedFeel,
  type ShotFeel,
} from '@oscillum/core/measure';
import { OscillumError, SETTING_GROUPS } from '@oscillum/core/model';
import { applyPreset, isChain, type ChainPart } from '@oscillum/core/chain';
import { nodesOf, type Shot } from '@oscillum/core/shot';
import { fitColliders } from '@oscillum/core/parts';
import { layoutOf, packRows, type Columns, type Frames } from '@oscillum/core/frames';
import {
  coarseShot,
  couldBeCoarse,
  shareColumns,
  simulate,
  trackOf,
  type Recording,
  type Share,
  type TrackCache,
} from '@oscillum/core/simulate';
import { dracoDecoder, dracoEncoder, loadDecoders } from './decoders';
import type { FromWorker, ToWorker } from './messages';
import { breathe, clock, inSlices, notOpen, SLICE_MS } from './slices';

/** While a hand is on a slider the next run matters more than what can be said of the last. */
const REST_MS = 120;
/**
 * When finished frames are sent on: soon for a first look, then ever less often, since every picture of them is drawn
 * beside the run that makes the next.
 */
const SEND_MS = 40;
const SEND_GROWTH = 10;
/**
 * A run that the last one says is over this soon gives a first look to the stage alone, once all is there that it
 * shows: drawing more would only hold the run up.
 */
const SOON_MS = 250;
const EARLY_MS = 5;
/** Before the page says that a run is under way. */
const LATE_MS = 100;
/** And one that is over this soon none. */
const AT_ONCE_MS = 40;
/** A long run still fills in before the eye. */
const SEND_MOST_MS = 400;

const post = (message: FromWorker, transfer: Transferable[] = []) => self.postMessage(message, { transfer });

let container: Container | null = null;
let character: Character | null = null;
let decoders: Decoders = {};
let cache: TrackCache = {};
let roughCache: TrackCache = { coarse: true };
/** The newest simulation asked for; older ones stop at their next look. */
let newest = 0;
/** The newest fit asked for. */
let newestFit = 0;
/** Time of the last run that came to its end. */
let lastMs = Infinity;
const cancelled = new Set<number>();

async function runSimulation({
  job,
  shot,
  share,
  look,
  rough,
}: Extract<ToWorker, { kind: 'simulate' }>): Promise<void> {
  newest = job;
  await breathe();
  if (newest !== job || !character) return;
  const start = performance.now();
  let slice = start;
  /** Time that the coarse answer took: no part of how long a run takes. */
  let aside = 0;
  let early = lastMs < SOON_MS && lastMs > AT_ONCE_MS;
  let sendAt = start + (early ? EARLY_MS : lastMs < SOON_MS ? SOON_MS : SEND_MS);
  let sent = 0;
  const began = clock();
  const run = simulate(character, shot, cache, share);
  let columns: Columns | null = null;
  for (;;) {
    const step = run.next();
    const frames = step.value;
    if (!columns) {
      columns = shareColumns(character, shot, cache, share);
      post({ kind: 'layout', job, layout: layoutOf(frames) });
      if (rough && !step.done && lastMs > SOON_MS && couldBeCoarse(cache)) {
        if (!(await answerRoughly(job, shot, share))) return;
        aside = performance.now() - start;
        slice = performance.now();
      }
    }
    const now = performance.now();
    const seen = !early || frames.first + frames.done > look || now > start + LATE_MS;
    if (step.done || (frames.done > sent && now > sendAt && seen)) {
      const rows = packRows(frames, columns, sent, frames.done);
      const buffers = Object.values(rows).flatMap((a: unknown) => (ArrayBuffer.isView(a) ? [a.buffer] : []));
      const finished = step.done === true;
      post(
        { kind: 'rows', job, rows, finished, early, start: frames.start, began, sent: clock() },
        buffers as Transferable[],
      );
      sent = frames.done;
      sendAt = early ? start + SOON_MS : now + Math.min(SEND_MOST_MS, SEND_GROWTH * (now - start));
      early = false;
    }
    if (step.done) {
      lastMs = now - start - aside;
      await advise(job, shot, share, frames, columns);
      return;
    }
    if (now - slice > SLICE_MS) {
      await breathe();
      if (newest !== job) return;
      slice = performance.now();
    }
  }
}

/** Simulates all with less detail and sends it at once. Returns false when a newer edit has come meanwhile. */
async function answerRoughly(job: number, shot: Shot, share: Share): Promise<boolean> {
  const asked = coarseShot(character!, shot);
  const frames = await inSlices(simulate(character!, asked, roughCache, share), () => newest === job);
  if (!frames) return false;
  const columns = shareColumns(character!, asked, roughCache, share);
  post({ kind: 'rough', job, rows: packRows(frames, columns, 0, frames.done) });
  return true;
}

/** What can be said of a finished share, unless a newer edit comes meanwhile. */
async function advise(
  job: number,
  shot: Shot,
  share: Share,
  frames: Frames,
  { parts }: Columns,
): Promise<void> {
  await new Promise((resolve) => setTimeout(resolve, REST_MS));
  const track = cache.entry?.track;
  if (!track || newest !== job) return;
  const mine = new Set(parts.map((c) => frames.parts[c]!.partId));
  // What is muted is in no share.
  const diagnoses = diagnose(character!, shot, frames, track).filter(
    (d) => mine.has(d.partId) || (share.index === 0 && shot.parts[d.partId]!.muted),
  );
  const feels: Record<string, Feel> = {};
  const shots: Record<string, ShotFeel> = {};
  for (const index of parts) {
    await breathe();
    if (newest !== job) return;
    const { partId } = frames.parts[index]!;
    feels[partId] = partFeel(shot, track, index);
    shots[partId] = measureShot(shot, frames, track, index);
  }
  post({ kind: 'advice', job, advice: { diagnoses, feels, shots } });
}

function fitBody({ job, shot }: Extract<ToWorker, { kind: 'fit colliders' }>): void {
  if (!character) throw notOpen();
  const moved = new Set(Object.values(shot.parts).flatMap((p) => nodesOf(p, true)));
  const { metresPerUnit, upAxis } = shot.character;
  post({ kind: 'fitted colliders', job, colliders: fitColliders(character, metresPerUnit, upAxis, moved) });
}

async function tryPresets({
  job,
  shot,
  part,
  presets,
}: Extract<ToWorker, { kind: 'try presets' }>): Promise<void> {
  if (!character) throw notOpen();
  const track = trackOf(character, shot, { ...cache });
  const chain = track.parts.findIndex((c) => c.layout.part.id === part);
  const own = shot.parts[part];
  const curves: Float64Array[] = [];
  for (const preset of chain >= 0 && isChain(own) ? presets : []) {
    await breathe();
    const tried = structuredClone(own) as ChainPart;
    applyPreset(tried, preset, SETTING_GROUPS);
    curves.push(partFeel({ ...shot, parts: { ...shot.parts, [part]: tried } }, track, chain).curve);
  }
  post({ kind: 'tried presets', job, curves });
}

/** All of a shot, beside whatever else is asked. */
async function simulateApart(
  job: number,
  of: Character,
  shot: Shot,
  recording: Recording | null = null,
): Promise<Frames> {
  const run = simulate(of, shot, {}, undefined, recording);
  return (await inSlices(run, () => goesOn(job)))!;
}

/** Throws OscillumError('bake.cancelled') for a job that nobody waits for any more. */
function goesOn(job: number): true {
  if (cancelled.delete(job))
    throw new OscillumError('bake.cancelled', 'The bake was cancelled', '', 'Nothing was written.');
  return true;
}

async function runApart({ job, shot }: Extract<ToWorker, { kind: 'simulate apart' }>): Promise<void> {
  if (!character) throw notOpen();
  post({ kind: 'simulated apart', job, frames: await simulateApart(job, character, shot) });
}

async function bakeCurves({ job, shot }: Extract<ToWorker, { kind: 'bake curves' }>): Promise<void> {
  if (!character) throw notOpen();
  const options = { ...defaultBake(shot), into: shot.clip ? ('replace' as const) : ('new' as const) };
  const recording = recordingFor(options);
  await breathe();
  goesOn(job);
  const frames = await simulateApart(job, character, shot, recording);
  const moves = Object.values(shot.parts).some((p) => !p.muted);
  const clip: BakedClip = moves
    ? bakeClip(character, shot, frames, options, recording?.rows).clip
    : {
        ...{ name: shot.clip?.name ?? '', channels: [], source: shot.clip?.index ?? -1 },
        ...{ replace: true, shift: 0, extras: {} },
      };
  const every =
    moves && options.thin
      ? bakeClip(character, shot, frames, { ...options, thin: null }, recording?.rows).clip
      : null;
  post({ kind: 'baked curves', job, clip, every });
}

function findRows(m: Extract<ToWorker, { kind: 'find strands' }>): void {
  if (!character) throw notOpen();
  const world = new Float64Array(16 * character.nodes.length);
  worldMatrices(character, makePose(character), rootMatrix(m.metresPerUnit, m.upAxis), world);
  const mesh = meshAtRest(character, m.mesh, m.metresPerUnit, m.upAxis);
  const hold = world.subarray(16 * m.parent + 12, 16 * m.parent + 15);
  post({ kind: 'found strands', job: m.job, paths: findStrands(mesh, hold, m.rows) });
}

function jointMesh(m: Extract<ToWorker, { kind: 'add joints' }>): void {
  if (!character || !container) throw notOpen();
  const { bytes, rows } = addJoints(container, character, m.plan, m.metresPerUnit, m.upAxis);
  post({ kind: 'jointed', job: m.job, bytes, rows }, [bytes.buffer]);
}

function bringMotion({ job, fileName, bytes }: Extract<ToWorker, { kind: 'apply motion' }>): void {
  if (!character || !container) throw notOpen();
  const motion = readMotion(new Uint8Array(bytes), fileName);
  if (!motion)
    throw new OscillumError(
      'file.invalid',
      `${fileName.slice(0, 120)} is neither BVH nor USD as text`,
      '',
      'Export the motion as .bvh or .usda.',
    );
  const applied = applyMotion(container, character, motion, motion.name);
  const duration = (motion.count - 1) / motion.fps;
  post({ kind: 'applied motion', job, ...applied, name: motion.name, duration }, [applied.bytes.buffer]);
}

async function bakeOn({ job, shot, parts }: Extract<ToWorker, { kind: 'bake into' }>): Promise<void> {
  if (!character || !container) throw notOpen();
  const baked = await toEnd(job, bakeInto(container, character, shot, parts));
  post({ kind: 'baked into', job, baked }, [baked.bytes.buffer]);
}

async function tellCosts({ job, shot, bake, choices }: Extract<ToWorker, { kind: 'weigh fits' }>) {
  if (!character) throw notOpen();
  const weighed = await toEnd(job, weighFits(character, shot, bake, choices));
  post({ kind: 'weighed fits', job, weighed });
}

/** Runs a generator to its end, telling how far it is: `of` is its share of the job. */
async function toEnd<T>(job: number, run: Generator<number, T>, of = 1): Promise<T> {
  return (await inSlices(run, (share) => look(job, of * share)))!;
}

/** Tells how far a job is, and stops where it was cancelled. */
function look(job: number, share: number): true {
  post({ kind: 'progress', job, share });
  return goesOn(job);
}

/** Part by part, so that other work is not held up and a newer asking ends an older one. */
async function fitAsked({ job, shot, parts, asked }: Extract<ToWorker, { kind: 'fit feel' }>): Promise<void> {
  if (!character) throw notOpen();
  newestFit = job;
  // A copy of the cache: a run under way may be using what is in it.
  const track = trackOf(character, shot, { ...cache });
  const fits: Record<string, FittedFeel> = {};
  for (const [index, { layout }] of track.parts.entries()) {
    const { id } = layout.part;
    if (!parts.includes(id)) continue;
    await breathe();
    if (newestFit !== job) break;
    fits[id] = fitPartFeel(shot, track, index, asked);
  }
  post({ kind: 'fitted feel', job, fits: newestFit === job ? fits : {} });
}

async function runHandOff({ job, shot, plan }: Extract<ToWorker, { kind: 'hand off' }>): Promise<void> {
  if (!container) throw notOpen();
  const written = await toEnd(job, handOff(container, shot, plan, decoders), PLAYING);
  // Other software is only loaded when there is something for it to do.
  const { judgeFile, packFiles } = await import('@oscillum/player');
  const done = await packFiles(written, plan, { encoder: dracoEncoder, decoder: dracoDecoder });
  const { files } = done;
  const checks = [...done.checks];
  const faults: string[] = [];
  const readers = { ...decoders, meshopt: await loadMeshopt() };
  for (const [k, file] of files.entries()) {
    await breathe();
    look(job, PLAYING + ((1 - PLAYING) * k) / files.length);
    const judged = await judgeFile(file, shot.fps, readers);
    checks.push(...judged.checks);
    faults.push(...judged.faults);
  }
  const zip = files.length > 1 ? zipFiles(done, shot) : null;
  post({ kind: 'handed off', job, result: { ...done, checks, faults, zip } });
}

/** Share of handing off after which the files are played by another player. */
const PLAYING = 0.85;

async function open({ job, fileName, bytes }: Extract<ToWorker, { kind: 'open' }>): Promise<void> {
  container = openContainer(new Uint8Array(bytes), fileName);
  decoders = await loadDecoders(container.json);
  character = readContainer(container, decoders);
  cache = { reuse: true };
  roughCache = { reuse: true, coarse: true };
  post({ kind: 'opened', job, character });
}

self.onmessage = ({ data }: MessageEvent<ToWorker>) => {
  if (data.kind === 'cancel') {
    cancelled.add(data.job);
    return;
  }
  const run = async () => {
    if (data.kind === 'open') await open(data);
    else if (data.kind === 'simulate') await runSimulation(data);
    else if (data.kind === 'hand off') await runHandOff(data);
    else if (data.kind === 'fit colliders') fitBody(data);
    else if (data.kind === 'try presets') await tryPresets(data);
    else if (data.kind === 'simulate apart') await runApart(data);
    else if (data.kind === 'bake curves') await bakeCurves(data);
    else if (data.kind === 'find strands') findRows(data);
    else if (data.kind === 'add joints') jointMesh(data);
    else if (data.kind === 'apply motion') bringMotion(data);
    else if (data.kind === 'bake into') await bakeOn(data);
    else if (data.kind === 'weigh fits') await tellCosts(data);
    else await fitAsked(data);
  };
  run().catch((e: unknown) => {
    const trouble =
      e instanceof OscillumError
        ? { code: e.code, sentence: e.sentence }
        : { code: 'fault', sentence: `Something went wrong: ${e instanceof Error ? e.message : String(e)}` };
    post({ kind: 'failed', job: data.job, trouble });
  });
};
