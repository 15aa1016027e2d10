import type { BakedInto, BakeOptions, VertexFit } from '@oscillum/core/bake';
import type { Preset } from '@oscillum/core/chain';
import type { StrandPath } from '@oscillum/core/character';
import type { Frames } from '@oscillum/core/frames';
import type { BakedClip, JointPlan } from '@oscillum/core/gltf';
import type { Weighed } from '@oscillum/core/handoff';
import type { AskedFeel, FittedFeel } from '@oscillum/core/measure';
import type { Collider, JointRef } from '@oscillum/core/model';
import type { Shot } from '@oscillum/core/shot';
import type { AppliedMotion, FromWorker, ToWorker, Trouble } from './messages';

/** An error from the worker, with its sentence. */
export class WorkError extends Error {
  override readonly name = 'WorkError';
  constructor(readonly trouble: Trouble) {
    super(trouble.sentence);
  }
}

type Answer<K extends FromWorker['kind']> = Extract<FromWorker, { kind: K }>;

interface Asked {
  worker: number;
  resolve: (m: FromWorker) => void;
  reject: (e: WorkError) => void;
  progress?: ((share: number) => void) | undefined;
}

/** What is asked of the workers beside the shot's own simulation: each question has one answer, or throws WorkError. */
export abstract class Asks {
  private readonly jobs = new Map<number, Asked>();
  protected lastJob = 0;

  /** The worker that has least else to do: the first answers what the stage asks. */
  protected abstract readonly last: number;
  protected abstract send(message: ToWorker, worker?: number): void;

  protected ask<K extends FromWorker['kind']>(
    kind: K,
    make: (job: number) => ToWorker,
    worker = 0,
    progress?: (share: number) => void,
  ): Promise<Answer<K>> {
    const job = ++this.lastJob;
    const answer = new Promise<FromWorker>((resolve, reject) => {
      this.jobs.set(job, { worker, resolve, reject, progress });
      this.send(make(job), worker);
    });
    return answer.then((m) => {
      if (m.kind !== kind) throw new Error('The worker answered something else');
      return m as Answer<K>;
    });
  }

  /** Whether a message answers what was asked, or tells how far it is. */
  protected answered(m: FromWorker): boolean {
    const asked = this.jobs.get(m.job);
    if (!asked) return false;
    if (m.kind === 'progress') asked.progress?.(m.share);
    else {
      this.jobs.delete(m.job);
      if (m.kind === 'failed') asked.reject(new WorkError(m.trouble));
      else asked.resolve(m);
    }
    return true;
  }

  /** What was asked of a worker that has stopped ends with a sentence. */
  protected lost(worker: number, trouble: Trouble): void {
    for (const [job, asked] of this.jobs)
      if (asked.worker === worker) {
        this.jobs.delete(job);
        asked.reject(new WorkError(trouble));
      }
  }

  /** Capsules for the character's body. */
  async fitColliders(shot: Shot): Promise<Collider[]> {
    const answer = await this.ask('fitted colliders', (job) => ({ kind: 'fit colliders', job, shot }));
    return answer.colliders;
  }

  /** Rows from root to tip along a mesh. */
  async findStrands(
    mesh: number,
    parent: number,
    rows: number,
    metresPerUnit: number,
    upAxis: 'Y' | 'Z',
  ): Promise<StrandPath[]> {
    const question = { kind: 'find strands', mesh, parent, rows, metresPerUnit, upAxis } as const;
    return (await this.ask('found strands', (job) => ({ ...question, job }))).paths;
  }

  /** A copy of the character's file with joints added to a mesh. */
  addJoints(
    plan: JointPlan,
    metresPerUnit: number,
    upAxis: 'Y' | 'Z',
  ): Promise<{ bytes: Uint8Array<ArrayBuffer>; rows: JointRef[][] }> {
    return this.ask('jointed', (job) => ({ kind: 'add joints', job, plan, metresPerUnit, upAxis }));
  }

  /** A copy of the character's file with the motion of a BVH or USD text file as one clip more. */
  applyMotion(bytes: ArrayBuffer, fileName: string): Promise<AppliedMotion> {
    return this.ask('applied motion', (job) => ({ kind: 'apply motion', job, fileName, bytes }));
  }

  /** A copy of the character with parts baked into the shot's clip. */
  async bakeInto(shot: Shot, parts: readonly string[]): Promise<BakedInto> {
    const question = { kind: 'bake into', shot, parts } as const;
    return (await this.ask('baked into', (job) => ({ ...question, job }), this.last)).baked;
  }

  /** How a part would answer the standard quick turn with each of some presets, by frame. */
  async tryPresets(shot: Shot, part: string, presets: readonly Preset[]): Promise<Float64Array[]> {
    const question = { kind: 'try presets', shot, part, presets } as const;
    return (await this.ask('tried presets', (job) => ({ ...question, job }))).curves;
  }

  /** Simulates another shot of this character; `gone` stops it. */
  async simulateApart(shot: Shot, gone?: AbortSignal): Promise<Frames> {
    const question = { kind: 'simulate apart', shot } as const;
    const make = (job: number) => this.until(gone, { ...question, job });
    return (await this.ask('simulated apart', make, this.last)).frames;
  }

  /** A question that is taken back when nobody waits for its answer any more. */
  private until(gone: AbortSignal | undefined, question: ToWorker): ToWorker {
    const stop = () => this.send({ kind: 'cancel', job: question.job }, this.last);
    gone?.addEventListener('abort', stop, { once: true });
    return question;
  }

  /** What fitting the vertices of a bake costs in several ways. */
  async weighFits(
    shot: Shot,
    bake: BakeOptions,
    choices: readonly VertexFit[],
    progress: (share: number) => void,
  ): Promise<Weighed> {
    const question = { kind: 'weigh fits', shot, bake, choices } as const;
    return (await this.ask('weighed fits', (job) => ({ ...question, job }), this.last, progress)).weighed;
  }

  /** The curves a bake of the whole range would write, before they are refined; `gone` stops it. */
  bakeCurves(shot: Shot, gone?: AbortSignal): Promise<{ clip: BakedClip; every: BakedClip | null }> {
    const make = (job: number) => this.until(gone, { kind: 'bake curves', job, shot });
    return this.ask('baked curves', make, this.last);
  }

  /** Settings of parts for an asked feel. */
  async fitFeel(shot: Shot, parts: readonly string[], asked: AskedFeel): Promise<Record<string, FittedFeel>> {
    return (await this.ask('fitted feel', (job) => ({ kind: 'fit feel', job, shot, parts, asked }))).fits;
  }
}
