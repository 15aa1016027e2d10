import type { Character } from '../character/index';
import { joinStarts, type Columns, type Frames } from '../frames/index';
import { kindOf, type MomentRow, type SourceTrack } from '../parts/index';
import { preRollFrames, type Part, type Shot } from '../shot/index';
import { copyGroup, keyOf, NO_START, resumable, spacing, type Kept, type LastRun } from './checkpoints';
import { closeFrame, closingFrames, takeClosing, type Closing } from './closing';
import { makeWorld, type Memory, type World } from './engine';
import { inverseTravel } from './findLoop';
import { columnsOf, groupsInShare, groupsOf, type Group, type Share } from './groups';
import { findPeriodic } from './loop';
import { layOut, makeTrack, trackKey } from './track';
import { makeFrames, placeColliders } from './rows';
import { sameRows } from './sameRows';
import { makeWriter } from './writer';

/**
 * Sampled sources, kept between runs of the same character, and what the last run left behind; one is enough for live
 * tuning. Runs that use one must not overlap, and be of the same share.
 */
export interface TrackCache {
  entry?: { character: Character; key: string; track: SourceTrack };
  last?: LastRun;
  /**
   * Whether the frames of a run may be written over by the run after the next: new ones for each keep the collector
   * busy.
   */
  readonly reuse?: boolean;
  /** Whether parts have less detail where their kind can: for an answer that comes much sooner. */
  readonly coarse?: boolean;
  /** Those that may be written over. */
  spare?: Frames;
  /**
   * What the last run moved with, kept for its functions only: with the last of them an engine drops their compiled
   * code.
   */
  machinery?: unknown;
}

/** The sampled source of a shot, from the cache when it is there and kept in it when not. */
export function trackOf(character: Character, shot: Shot, cache: TrackCache): SourceTrack {
  const key = trackKey(shot);
  if (cache.entry?.character === character && cache.entry.key === key) return cache.entry.track;
  const track = makeTrack(character, shot, layOut(character, shot, cache.coarse));
  cache.entry = { character, key, track };
  return track;
}

/** A settled start is given up after this long, s. */
const LONGEST_SETTLING = 30;

/** Asks a simulation that begins anew for more than the frames of its range, and takes it up. */
export interface Recording {
  /** The frames before the range. */
  readonly lead: boolean;
  /** Moments in a frame: 1 for none between; a divisor of the shot's substeps. */
  readonly between: number;
  readonly rows: MomentRow[];
}

/** All of a simulation. */
const WHOLE: Share = { index: 0, of: 1 };

/** Groups of a simulation: those whose frames are kept from the last run, and those that move. */
interface Plan {
  readonly kept: readonly Kept[];
  readonly running: readonly Kept[];
  readonly groups: readonly Group[];
  /** The frame that what moves goes on from; −1 when it begins anew. */
  readonly resumed: number;
}

/**
 * What an edit does not concern keeps its frames; the rest goes on from the last moment that is alike. Copies the
 * frames that are kept.
 */
function planRuns(
  asked: Shot,
  track: SourceTrack,
  share: Share,
  last: LastRun | undefined,
  frames: Frames,
): Plan {
  const same = last && sameRows(last, { asked, track });
  const runs = groupsInShare(groupsOf(asked, track), track, share).map((group) => {
    const key = keyOf(group, track);
    const there = group.parts.every((i) => same?.has(track.parts[i]!.layout.part.id));
    const kept = there ? last?.groups.find((k) => k.key === key) : undefined;
    const found = resumable(kept, group, track);
    // On another track it is taken up whole or not at all.
    if (last?.track !== track) found.states = [];
    return { key, group, ...found };
  });
  const fresh = runs.filter((r) => !r.whole);
  const alike = Math.min(...fresh.map((r) => r.states.at(-1)?.f ?? -1));
  const resumed = fresh.length > 0 && alike >= 0 ? alike : -1;
  const kept = runs.map(({ key, group, whole, states, start }): Kept => {
    const done = whole ? track.frames : resumed + 1;
    if (done > 0) copyGroup(frames, asked, group, last!, done);
    return {
      key,
      shot: group.shot,
      done,
      states: whole ? states : states.filter((s) => s.f <= resumed),
      start: done > 0 ? start : NO_START,
    };
  });
  const running = kept.filter((_, i) => !runs[i]!.whole);
  return { kept, running, groups: fresh.map((r) => r.group), resumed };
}

/**
 * Simulates a shot, or one worker's share of it. A generator: it yields after every frame (pre-roll frames too), so
 * that the caller decides when to stop, send on what is done, or let others run; the frames it fills are its return
 * value and, from the first yield on, the yielded value. Of a share only the columns of {@link shareColumns} are
 * filled. The result is a pure function of character and shot, bit for bit, however it is shared out.
 */
export function* simulate(
  character: Character,
  asked: Shot,
  cache: TrackCache = {},
  share: Share = WHOLE,
  record: Recording | null = null,
): Generator<Frames, Frames> {
  const track = trackOf(character, asked, cache);
  const frames = makeFrames(track, asked, cache.spare);
  if (share.index === 0) placeColliders(character, asked, track, frames);
  const plan = planRuns(asked, track, share, cache.last, frames);
  const { kept, resumed } = plan;
  if (cache.reuse) cache.spare = cache.last?.frames;
  cache.last = { track, asked, frames, groups: kept };
  const begun = () => void (frames.start = joinStarts(kept.map((k) => k.start)));
  begun();
  if (plan.groups.length === 0) {
    frames.done = track.frames;
    return frames;
  }
  const motion = new Motion(character, asked, track, frames, plan, record);
  cache.machinery = motion;
  if (resumed >= 0) motion.goOn();
  else if (track.loop) yield* motion.findLoop(track.loop);
  else yield* motion.begin();
  begun();
  yield* motion.run();
  return frames;
}

/** The groups of a plan on their way through the frames. */
class Motion {
  private readonly world: World;
  private readonly write: ReturnType<typeof makeWriter>;
  private readonly shot: Shot;
  /** Row of the track that is the first frame of the range; rows before it lead up to it. */
  private readonly row: number;
  /** Laps of a loop that is still looked for are not taken up. */
  private taping = false;
  /** By group: how a loop that folds is closed. */
  private readonly closings = new Map<number, Closing>();

  constructor(
    character: Character,
    private readonly asked: Shot,
    private readonly track: SourceTrack,
    private readonly frames: Frames,
    private readonly plan: Plan,
    private readonly record: Recording | null,
  ) {
    this.row = track.first - track.from + 1;
    const { groups } = plan;
    this.shot = { ...asked, substeps: groups[0]!.shot.substeps };
    this.world = makeWorld(character, this.shot, track, groups);
    this.write = makeWriter(character, this.shot, this.world, frames);
  }

  /** Runs on to the frame whose row is `to`. */
  private frameTo(to: number): void {
    const { world, write, track, record } = this;
    const { substeps } = this.shot;
    for (let k = 1; k <= substeps; k++) {
      const part = k / substeps;
      const whole = k === substeps;
      world.advance(whole ? to : to - 1, whole ? 0 : part, track.from - 2 + to + part);
      write.gather();
      const at = track.from - 2 + to + part;
      // What is between the frames of a closed loop is not blended as they are.
      const between = this.taping && !whole && this.closings.size === 0;
      const wanted = at < track.first ? record?.lead : record && between;
      if (wanted && (k * record!.between) % substeps === 0) record!.rows.push(write.between(at));
    }
  }

  /** One frame on the spot. */
  private wait(): void {
    for (let k = 0; k < this.shot.substeps; k++) {
      this.world.advance(this.row, 0, this.track.first);
      this.write.gather();
    }
  }

  /** Takes up what was kept of the last run. */
  goOn(): void {
    const { world, track, plan } = this;
    world.begin(1, track.from, true);
    world.stand(this.row + plan.resumed, track.first + plan.resumed);
    plan.running.forEach((k, g) => world.recall(g, k.states.at(-1)!.memory));
    this.write.goOn();
  }

  /** Laps until the state at the end of one is that at its beginning. */
  *findLoop({ period, travel }: NonNullable<SourceTrack['loop']>): Generator<Frames, void> {
    const { world, row, plan } = this;
    const { first } = this.track;
    const home = inverseTravel(travel);
    world.begin(row, first, false);
    const frameTo = (to: number) => this.frameTo(to);
    const lap = function* () {
      for (let f = 1; f <= period; f++) {
        frameTo(row + f);
        yield;
      }
    };
    const back = () => world.travel(home, row, first);
    const folds = plan.groups.map((g) => g.parts.some((i) => kindOf(this.partAt(i)).folds));
    const run = findPeriodic(world, lap, back, folds);
    for (;;) {
      const step = run.next();
      if (step.done) {
        step.value.forEach((loop, g) => (plan.running[g]!.start = { settled: null, loop }));
        break;
      }
      yield this.frames;
    }
    const open = folds.flatMap((f, g) => (f && !plan.running[g]!.start.loop!.found ? [g] : []));
    if (open.length > 0) yield* this.lapBefore(open, period, back);
  }

  private partAt(i: number): Part {
    return this.asked.parts[this.track.parts[i]!.layout.part.id]!;
  }

  /** One lap more, of which the last frames are kept for groups that stay open; the others stand still meanwhile. */
  private *lapBefore(open: readonly number[], period: number, back: () => void): Generator<Frames, void> {
    const { world, row, plan, frames, write, asked } = this;
    const count = closingFrames(asked.fps, period);
    const others = plan.running.map((_, g) => (open.includes(g) ? null : world.remember(g)));
    for (let f = 1; f <= period; f++) {
      this.frameTo(row + f);
      if (f >= period - count) write.frame(f);
      yield frames;
    }
    for (const g of open) {
      this.closings.set(g, takeClosing(frames, columnsOf(asked, [plan.groups[g]!], false), period, count));
      const k = plan.running[g]!;
      k.start = { ...k.start, loop: { ...k.start.loop!, found: true, why: '', blended: count } };
    }
    back();
    others.forEach((memory, g) => memory && world.recall(g, memory));
  }

  /** Begins as the shot asks: moving, waiting, settled, with its run-up. */
  *begin(): Generator<Frames, void> {
    const { world, write, track, record, shot, frames } = this;
    const { running } = this.plan;
    const lead = track.first - track.from;
    const preRoll = preRollFrames(shot);
    const still = shot.start === 'settled' || (shot.start === 'wait' && preRoll > 0);
    world.begin(1, track.from, still);
    running.forEach((k, g) => {
      for (const settled of world.waited(g)) k.start = joinStarts([k.start, { settled, loop: null }]);
    });
    if (shot.start === 'settled')
      yield* settle(world, running, shot.fps, track.first, () => this.wait(), frames);
    else if (shot.start === 'wait') {
      for (let f = 0; f < preRoll; f++) {
        // It begins waiting on the frame that is so many before the first.
        if (record?.lead)
          record.rows.push({ ...write.between(track.first), frame: track.first - preRoll + f });
        this.wait();
        yield frames;
      }
    }
    if (record?.lead && lead > 0) record.rows.push(write.between(track.from));
    for (let f = 0; f < lead; f++) {
      this.frameTo(f + 2);
      yield frames;
    }
    if (shot.loop)
      for (const k of running)
        k.start = { ...k.start, loop: { found: false, laps: 0, gap: Infinity, why: 'clip', blended: 0 } };
  }

  /** Writes the frames of the range, from where it stands. */
  *run(): Generator<Frames, void> {
    const { world, write, track, frames, row } = this;
    const { running, resumed } = this.plan;
    const wrote = (f: number) => {
      frames.done = f + 1;
      for (const k of running) k.done = f + 1;
    };
    if (resumed < 0) write.frame(0);
    wrote(Math.max(0, resumed));
    yield frames;
    this.taping = true;
    const every = spacing(track.frames);
    for (let f = frames.done; f < track.frames; f++) {
      this.frameTo(row + f);
      write.frame(f);
      for (const closing of this.closings.values()) closeFrame(frames, closing, f);
      if (track.loop && f >= track.loop.period) this.repeatLap(f, track.loop);
      wrote(f);
      if (f % every === 0 && !track.loop)
        running.forEach((k, g) => k.states.push({ f, memory: world.remember(g) }));
      yield frames;
    }
  }

  /** What follows the first lap of a loop is that lap, to the bit: its last frame, or all times it is repeated. */
  private repeatLap(f: number, { period, travel }: NonNullable<SourceTrack['loop']>): void {
    const { running, groups } = this.plan;
    running.forEach((k, g) => {
      if (k.start.loop?.found)
        this.write.repeat(f - period, f, travel, columnsOf(this.asked, [groups[g]!], false));
    });
  }
}

/** Waits at the start until every group is still, each kept as it was when it came to rest. */
function* settle(
  world: World,
  running: readonly Kept[],
  fps: number,
  frame: number,
  wait: () => void,
  frames: Frames,
): Generator<Frames, void> {
  world.calm(true, frame);
  const rests = running.map((): Memory | null => null);
  for (let waited = 1; rests.includes(null) && waited <= LONGEST_SETTLING * fps; waited++) {
    wait();
    running.forEach((k, g) => {
      if (rests[g]) return;
      const still = world.still(g);
      k.start = { settled: { seconds: waited / fps, still, speed: world.speed(g) }, loop: null };
      if (still) rests[g] = world.remember(g);
    });
    yield frames;
  }
  world.calm(false, frame);
  rests.forEach((memory, g) => memory && world.recall(g, memory));
}

/** The columns of frames that a share of a simulation fills. */
export function shareColumns(character: Character, shot: Shot, cache: TrackCache, share: Share): Columns {
  const track = trackOf(character, shot, cache);
  return columnsOf(shot, groupsInShare(groupsOf(shot, track), track, share), share.index === 0);
}

/** Runs a simulation to its end. */
export function simulateAll(character: Character, shot: Shot, cache?: TrackCache, share?: Share): Frames {
  const run = simulate(character, shot, cache, share);
  for (;;) {
    const step = run.next();
    if (step.done) return step.value;
  }
}
