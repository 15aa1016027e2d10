import type { BakeOptions } from '@oscillum/core/bake';
import type { Character } from '@oscillum/core/character';
import type { AskedFeel, FittedFeel } from '@oscillum/core/measure';
import type { Collider, Shot } from '@oscillum/core/model';
import { emptyFrames, rowWidths, type Frames } from '@oscillum/core/simulate';
import type { Advice, FromWorker, Rows, ToWorker, Trouble } from './messages';

/** An error from the worker, with its sentence. */
export class WorkError extends Error {
  override readonly name = 'WorkError';
  constructor(readonly trouble: Trouble) {
    super(trouble.sentence);
  }
}

/** What is known of the simulated shot: fresh up to `frames.done`, beyond it what the settings before had (`stale`). */
export interface Picture {
  readonly frames: Frames | null;
  readonly stale: Frames | null;
  readonly running: boolean;
  /** Number of the run whose rows came last. */
  readonly version: number;
  /** Time the worker took for the last whole run, ms. */
  readonly ms: number;
  readonly trouble: Trouble | null;
  /** What is known beyond the frames, of the last run that was looked at; null before the first. */
  readonly advice: Advice | null;
}

const NOTHING: Picture = {
  frames: null,
  stale: null,
  running: false,
  version: 0,
  ms: 0,
  trouble: null,
  advice: null,
};

/** After this long without a row it is said that a run is under way, ms. */
const SLOW_MS = 150;

/**
 * The worker's other end: opens a character, simulates the latest shot it was given (older ones are dropped), bakes.
 * Holds the frame buffers outside the store; components read `picture` and listen.
 */
export class Simulation {
  private readonly worker = new Worker(new URL('./simulation.worker.ts', import.meta.url), {
    type: 'module',
  });
  private readonly listeners = new Set<() => void>();
  private readonly jobs = new Map<
    number,
    { resolve: (m: FromWorker) => void; reject: (e: WorkError) => void; progress?: (share: number) => void }
  >();
  private lastJob = 0;
  private current = 0;
  private next: Frames | null = null;
  /** What listeners have been told of. */
  picture: Picture = NOTHING;
  private latest: Picture = NOTHING;
  private planned = 0;
  private slow: ReturnType<typeof setTimeout> | undefined;

  constructor() {
    this.worker.onmessage = ({ data }: MessageEvent<FromWorker>) => this.receive(data);
  }

  /** Reads a character file. Throws WorkError. */
  async open(bytes: ArrayBuffer, fileName: string): Promise<Character> {
    this.set(NOTHING);
    const answer = await this.ask((job) => ({ kind: 'open', job, fileName, bytes }));
    if (answer.kind !== 'opened') throw new Error('The worker answered something else');
    return answer.character;
  }

  /** Simulates this shot as soon as may be; the latest call wins. */
  simulate(shot: Shot): void {
    this.current = ++this.lastJob;
    // Shown with the first rows, which mostly come at once, rather than in a drawing of its own.
    this.latest = { ...this.latest, running: true, trouble: null };
    clearTimeout(this.slow);
    this.slow = setTimeout(() => this.set(this.latest), SLOW_MS);
    this.send({ kind: 'simulate', job: this.current, shot });
  }

  /** Bakes to a GLB; `stop` cancels it. Throws WorkError ('bake.cancelled' when stopped). */
  bake(
    shot: Shot,
    options: BakeOptions,
    progress: (share: number) => void,
  ): { done: Promise<Uint8Array<ArrayBuffer>>; stop: () => void } {
    let job = 0;
    const done = this.ask((n) => ((job = n), { kind: 'bake', job: n, shot, options }), progress).then((m) => {
      if (m.kind !== 'baked') throw new Error('The worker answered something else');
      return m.bytes;
    });
    return { done, stop: () => this.send({ kind: 'cancel', job }) };
  }

  subscribe = (listener: () => void): (() => void) => {
    this.listeners.add(listener);
    return () => this.listeners.delete(listener);
  };

  close(): void {
    clearTimeout(this.slow);
    cancelAnimationFrame(this.planned);
    this.worker.terminate();
    this.listeners.clear();
  }

  private send(message: ToWorker): void {
    this.worker.postMessage(message, message.kind === 'open' ? [message.bytes] : []);
  }

  /** Capsules for the character's body. Throws WorkError. */
  async fitColliders(shot: Shot): Promise<Collider[]> {
    const answer = await this.ask((job) => ({ kind: 'fit colliders', job, shot }));
    return answer.kind === 'fitted colliders' ? answer.colliders : [];
  }

  /** Settings of parts for an asked feel. Throws WorkError. */
  async fitFeel(shot: Shot, parts: readonly string[], asked: AskedFeel): Promise<Record<string, FittedFeel>> {
    const answer = await this.ask((job) => ({ kind: 'fit feel', job, shot, parts, asked }));
    return answer.kind === 'fitted feel' ? answer.fits : {};
  }

  private ask(make: (job: number) => ToWorker, progress?: (share: number) => void): Promise<FromWorker> {
    const job = ++this.lastJob;
    return new Promise((resolve, reject) => {
      this.jobs.set(job, { resolve, reject, progress });
      this.send(make(job));
    });
  }

  /** Tells listeners at most once a drawn frame: rows may come faster than they can be shown. */
  private set(picture: Picture): void {
    this.latest = picture;
    this.planned ||= requestAnimationFrame(() => {
      this.planned = 0;
      this.picture = this.latest;
      for (const listener of this.listeners) listener();
    });
  }

  private receive(m: FromWorker): void {
    const asked = this.jobs.get(m.job);
    if (asked) {
      if (m.kind === 'progress') asked.progress?.(m.share);
      else {
        this.jobs.delete(m.job);
        if (m.kind === 'failed') asked.reject(new WorkError(m.trouble));
        else asked.resolve(m);
      }
      return;
    }
    if (m.job !== this.current) return;
    // It has begun to answer: what comes is shown as it comes.
    if (m.kind !== 'layout') clearTimeout(this.slow);
    if (m.kind === 'advice') this.set({ ...this.latest, advice: m.advice });
    else if (m.kind === 'layout') this.next = emptyFrames(m.layout);
    else if (m.kind === 'failed') this.set({ ...this.latest, running: false, trouble: m.trouble });
    else if (m.kind === 'rows' && this.next) {
      fill(this.next, m.rows);
      this.next.start = m.start;
      const whole =
        this.latest.frames && this.latest.frames !== this.next ? this.latest.frames : this.latest.stale;
      const stale = !m.finished && whole && sameLayout(whole, this.next) ? whole : null;
      this.set({
        frames: this.next,
        stale,
        running: !m.finished,
        version: m.job,
        ms: m.finished ? m.ms : this.latest.ms,
        trouble: null,
        advice: this.latest.advice,
      });
    }
  }
}

function fill(frames: Frames, rows: Rows): void {
  const widths = rowWidths(frames);
  for (const key of Object.keys(widths) as (keyof typeof widths)[])
    frames[key].set(rows[key], widths[key] * rows.from);
  frames.done = rows.to;
}

function sameLayout(a: Frames, b: Frames): boolean {
  return (
    a.first === b.first &&
    a.count === b.count &&
    a.joints.length === b.joints.length &&
    a.joints.every((j, i) => j === b.joints[i])
  );
}

/** The frames that hold row f: fresh ones, else those of the settings before. */
export function framesAt(picture: Picture, f: number): Frames | null {
  const { frames, stale } = picture;
  if (frames && f < frames.done) return frames;
  return stale && f < stale.done ? stale : null;
}
