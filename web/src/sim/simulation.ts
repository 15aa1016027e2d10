import type { Character } from '@oscillum/core/character';
import {
  emptyFrames,
  joinStarts,
  packRows,
  unpackRows,
  type Columns,
  type Frames,
  layoutOf,
  type FramesLayout,
  type Rows,
  type StartReport,
} from '@oscillum/core/frames';
import type { HandOffPlan } from '@oscillum/core/handoff';
import { partsInOrder, type Shot } from '@oscillum/core/shot';
import { Asks } from './asks';
import type { Advice, FromWorker, HandOffResult, ToWorker, Trouble } from './messages';
import { answered, farther, joinAdvice, letGo, NOTHING, sameLayout, type Picture } from './picture';

/** Workers that share a simulation, at most: chains that do not feel one another are simulated side by side. */
const MOST_WORKERS = 4;
/** Where there is a core to spare the page keeps it: it draws while they work. */
const workersFor = (cores: number): number => Math.max(Math.min(2, cores), Math.min(MOST_WORKERS, cores - 1));

/** What has come of one worker's share of a run. */
interface ShareState {
  done: number;
  finished: boolean;
  /** Whether what has come of it was for the stage alone. */
  early: boolean;
  /** Its coarse answer, until all shares have an answer. */
  rough: Rows | null;
  start: StartReport | null;
  advice: Advice | null;
  began: number;
  sent: number;
}

/**
 * So many frames there are before the oldest is written over: a long shot of many chains has a hundred megabytes of
 * each.
 */
const MOST_FRAMES = 3;

/** After this long without a row it is said that a run is under way, ms. */
const SLOW_MS = 150;

/**
 * The workers' other end: opens a character, simulates the latest shot it was given (older ones are dropped), bakes.
 * Holds the frame buffers outside the store; components read `picture` and listen.
 */
export class Simulation extends Asks {
  /** The first does what is not shared out. */
  private readonly workers: readonly Worker[];
  private shares: ShareState[] = [];
  /** Parts of the latest shot. */
  private order: readonly string[] = [];
  private readonly listeners = new Set<() => void>();
  private current = 0;
  private next: Frames | null = null;
  /** The coarse answer of the run under way. */
  private rough: Frames | null = null;
  /** All frames there are, those taken up last at the end. */
  private kept: Frames[] = [];
  private readonly watchers = new Set<() => void>();
  /** What listeners have been told of, and what watchers have: they see first rows too. */
  picture: Picture = NOTHING;
  newest: Picture = NOTHING;
  private latest: Picture = NOTHING;
  /** Whether listeners are to be told. */
  private toTell = false;
  private planned = 0;
  private slow: ReturnType<typeof setTimeout> | undefined;

  constructor(workers = workersFor(navigator.hardwareConcurrency)) {
    super();
    this.workers = Array.from({ length: workers }, (_, k) => {
      const worker = new Worker(new URL('./simulation.worker.ts', import.meta.url), { type: 'module' });
      worker.onmessage = ({ data }: MessageEvent<FromWorker>) => this.receive(data, k);
      worker.onerror = (e) => this.died(k, e.message);
      return worker;
    });
  }

  /** Reads a character file. Throws WorkError. */
  async open(bytes: ArrayBuffer, fileName: string): Promise<Character> {
    this.set(NOTHING);
    const opened = this.workers.map((_, k) => {
      // Each has a copy of its own, the first the original, sent last.
      const worker = this.workers.length - 1 - k;
      const own = worker === 0 ? bytes : bytes.slice(0);
      return this.ask('opened', (job) => ({ kind: 'open', job, fileName, bytes: own }), worker);
    });
    const answer = (await Promise.all(opened)).at(-1)!;
    return answer.character;
  }

  /**
   * Simulates this shot as soon as may be; the latest call wins. First rows come when they reach as far as frame
   * `look`; before them, where it takes long and is wanted, a coarse answer.
   */
  simulate(shot: Shot, look = -Infinity, rough = false): void {
    this.current = ++this.lastJob;
    // Shown with the first rows, which mostly come at once, rather than in a drawing of its own.
    this.latest = { ...this.latest, running: true, trouble: null };
    clearTimeout(this.slow);
    this.slow = setTimeout(() => {
      // Nothing has come yet: all that is known is of the settings before.
      const { frames, stale } = this.latest;
      const old = farther(frames, stale);
      this.set({ ...this.latest, frames: frames && { ...frames, done: 0 }, stale: old, rough: false });
    }, SLOW_MS);
    this.next = null;
    this.rough = null;
    this.order = partsInOrder(shot).map((p) => p.id);
    const of = this.workers.length;
    this.shares = this.workers.map(() => ({
      ...{
        done: 0,
        finished: false,
        early: false,
        rough: null,
        start: null,
        advice: null,
        began: 0,
        sent: 0,
      },
    }));
    this.workers.forEach((_, index) =>
      this.send({ kind: 'simulate', job: this.current, shot, share: { index, of }, look, rough }, index),
    );
  }

  /** Bakes, writes files and checks them; `stop` cancels it. Throws WorkError ('bake.cancelled' when stopped). */
  handOff(
    shot: Shot,
    plan: HandOffPlan,
    progress: (share: number) => void,
  ): { done: Promise<HandOffResult>; stop: () => void } {
    let job = 0;
    const make = (n: number): ToWorker => ((job = n), { kind: 'hand off', job: n, shot, plan });
    const done = this.ask('handed off', make, 0, progress).then((m) => m.result);
    return { done, stop: () => this.send({ kind: 'cancel', job }) };
  }

  /** Whether what is shown is not the answer to the last edit. */
  get waits(): boolean {
    const { picture, latest } = this;
    const known = answered(latest);
    return !known || known !== answered(picture) || picture.version !== latest.version;
  }

  subscribe = (listener: () => void): (() => void) => {
    this.listeners.add(listener);
    return () => this.listeners.delete(listener);
  };

  /** Calls back when first rows of a run are there that listeners are not told of, since all will be soon. */
  watch = (watcher: () => void): (() => void) => {
    this.watchers.add(watcher);
    return () => this.watchers.delete(watcher);
  };

  close(): void {
    clearTimeout(this.slow);
    cancelAnimationFrame(this.planned);
    for (const worker of this.workers) worker.terminate();
    this.listeners.clear();
    this.watchers.clear();
  }

  protected get last(): number {
    return this.workers.length - 1;
  }

  protected send(message: ToWorker, worker = 0): void {
    this.workers[worker]!.postMessage(message, message.kind === 'open' ? [message.bytes] : []);
  }

  /** A worker that stopped answers nothing any more: what was asked of it ends with a sentence. */
  private died(worker: number, why: string): void {
    const trouble: Trouble = {
      code: 'worker.lost',
      sentence: `A part of the page that simulates has stopped${why ? ` (${why})` : ''}. Reload the page; your work is saved.`,
    };
    this.lost(worker, trouble);
    clearTimeout(this.slow);
    this.set({ ...this.latest, running: false, trouble });
  }

  /** Tells listeners at most once a drawn frame: rows may come faster than they can be shown. */
  private set(picture: Picture): void {
    this.latest = picture;
    this.toTell = true;
    this.planned ||= requestAnimationFrame(this.tell);
  }

  /** What a run gives once only is drawn now, to be ready for the browser's next picture. */
  private setNow(picture: Picture, all: boolean): void {
    this.latest = picture;
    this.toTell ||= all;
    cancelAnimationFrame(this.planned);
    this.tell();
  }

  private readonly tell = (): void => {
    this.planned = 0;
    this.newest = this.latest;
    if (this.toTell) this.picture = this.latest;
    const told = this.toTell ? this.listeners : this.watchers;
    this.toTell = false;
    for (const listener of told) listener();
  };

  private receive(m: FromWorker, worker: number): void {
    if (this.answered(m)) return;
    if (m.job !== this.current) return;
    // It has begun to answer: what comes is shown as it comes.
    if (m.kind !== 'layout') clearTimeout(this.slow);
    const share = this.shares[worker]!;
    if (m.kind === 'advice') {
      share.advice = m.advice;
      const all = this.shares.flatMap((s) => s.advice ?? []);
      if (all.length === this.shares.length)
        this.set({ ...this.latest, advice: joinAdvice(all, this.order) });
    } else if (m.kind === 'rough') {
      share.rough = m.rows;
      this.showRough();
    } else if (m.kind === 'layout') this.next ??= this.makeFrames(m.layout);
    else if (m.kind === 'failed') this.set({ ...this.latest, running: false, trouble: m.trouble });
    else if (m.kind === 'rows' && this.next && !this.latest.trouble) {
      unpackRows(this.next, m.rows);
      letGo(m.rows);
      Object.assign(share, { done: m.rows.to, finished: m.finished, early: m.early, start: m.start });
      Object.assign(share, { began: m.began, sent: m.sent });
      this.showRough();
      this.show(this.next);
    }
  }

  /** Shows the coarse answer when every share has one, or is whole. */
  private showRough(): void {
    const { shares, next, latest } = this;
    if (!next || this.rough || latest.trouble || shares.every((s) => !s.rough)) return;
    if (!shares.every((s) => s.finished || s.rough)) return;
    const rough = this.makeFrames(layoutOf(next));
    this.rough = rough;
    unpackRows(rough, packRows(next, allOf(next), 0, next.count));
    for (const s of shares) {
      if (s.rough) unpackRows(rough, s.rough);
      s.rough = null;
    }
    rough.done = rough.count;
    this.set({ ...latest, frames: next, stale: rough, rough: true, running: true });
  }

  /**
   * Frames for a run, over those that have not been shown for longest: new ones for each would keep the page's
   * collector busy, which also drops compiled code. So those of a picture hold until some runs later.
   */
  private makeFrames(layout: FramesLayout): Frames {
    const shown = [this.latest, this.newest, this.picture].flatMap((p) => [p.frames, p.stale]);
    const old = this.kept.length < MOST_FRAMES ? undefined : this.kept.find((f) => !shown.includes(f));
    const made = emptyFrames(layout, old);
    this.kept = [...this.kept.filter((f) => f !== old && sameLayout(f, made)), made];
    return made;
  }

  /** Shows what has come of all shares: to watchers only while one of them will soon be whole. */
  private show(next: Frames): void {
    const { shares, latest } = this;
    const finished = shares.every((s) => s.finished);
    const done = Math.min(...shares.map((s) => s.done));
    // Rows are shown when every share has them.
    if (done === next.done && !finished) return;
    next.done = done;
    next.start = joinStarts(shares.flatMap((s) => s.start ?? []));
    const before = latest.frames === next ? null : latest.frames;
    const whole = this.rough ?? farther(before, latest.stale);
    const took = Math.max(...shares.map((s) => s.sent)) - Math.min(...shares.map((s) => s.began));
    const picture: Picture = {
      frames: next,
      stale: !finished && whole && sameLayout(whole, next) ? whole : null,
      rough: this.rough !== null && !finished,
      running: !finished,
      version: this.current,
      ms: finished ? took : latest.ms,
      trouble: null,
      advice: latest.advice,
    };
    const early = shares.some((s) => s.early && !s.finished);
    if (finished || early) this.setNow(picture, finished);
    else this.set(picture);
  }
}

const allOf = ({ parts, colliders }: FramesLayout): Columns => ({
  parts: [...parts.keys()],
  colliders: [...colliders.keys()],
});
