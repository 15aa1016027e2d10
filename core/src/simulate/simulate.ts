import type { Character, Clip } from '../character/index';
import { OscillumError, partsInOrder, type Shot } from '../model/index';
import { layOutChain } from '../parts/index';
import { alikeUntil, spacing, type Checkpoints } from './checkpoints';
import { copyRows, emptyFrames, type ChainColumns, type Frames } from './frames';
import { findPeriodic } from './loop';
import { stepsAFrame } from './steps';
import { inverseTravel, makeTrack, trackKey, type SourceTrack } from './track';
import { makeWorld, type World } from './world';
import { makeWriter } from './write';

/**
 * Sampled sources, kept between runs of the same character, and what the last run left behind; one is enough for live
 * tuning. Runs that share one must not overlap.
 */
export interface TrackCache {
  entry?: { character: Character; key: string; track: SourceTrack };
  checkpoints?: Checkpoints;
}

/** The clip a shot names, or null. Throws OscillumError('shot.invalid') when the character does not have it. */
export function clipOf(character: Character, shot: Shot): Clip | null {
  if (!shot.clip) return null;
  const clip = character.clips[shot.clip.index];
  if (!clip) {
    throw new OscillumError(
      'shot.invalid',
      `This character has no clip ${shot.clip.index} (${shot.clip.name})`,
      '/clip',
      'Choose one of its clips in Prepare.',
    );
  }
  return clip;
}

/** The sampled source of a shot, from the cache when it is there and kept in it when not. */
export function trackOf(character: Character, shot: Shot, cache: TrackCache): SourceTrack {
  const key = trackKey(shot);
  if (cache.entry?.character === character && cache.entry.key === key) return cache.entry.track;
  const layouts = partsInOrder(shot)
    .filter((p) => !p.muted)
    .map((p) => layOutChain(character, p));
  const track = makeTrack(character, clipOf(character, shot), shot, layouts);
  cache.entry = { character, key, track };
  return track;
}

/** A settled start is given up after this long, s. */
const LONGEST_SETTLING = 30;
/** It is still when no point moves faster than this share of its chain's length a second. */
const STILL = 1e-5;

/**
 * Simulates a shot. A generator: it yields after every frame (pre-roll frames too), so that the caller decides when to
 * stop, send on what is done, or let others run; the frames it fills are its return value and, from the first yield on,
 * the yielded value. The result is a pure function of character and shot, bit for bit.
 */
export function* simulate(
  character: Character,
  asked: Shot,
  cache: TrackCache = {},
): Generator<Frames, Frames> {
  const track = trackOf(character, asked, cache);
  const free = Object.values(asked.colliders).some((c) => c.free && !c.muted);
  const shot = { ...asked, substeps: stepsAFrame(asked.fps, asked.substeps, free) };
  const world = makeWorld(character, shot, track);
  const frames = makeFrames(track, shot, world);
  const write = makeWriter(character, shot, track, world, frames);
  const lead = track.first - track.from;
  const row = lead + 1;

  /** Runs on to the frame whose row is `to`. */
  const frameTo = (to: number) => {
    for (let k = 1; k <= shot.substeps; k++) {
      const share = k / shot.substeps;
      const whole = k === shot.substeps;
      world.advance(whole ? to : to - 1, whole ? 0 : share, track.from - 2 + to + share);
      write.gather();
    }
  };
  const wait = () => {
    for (let k = 0; k < shot.substeps; k++) {
      world.advance(row, 0, track.first);
      write.gather();
    }
  };

  const kept = resumable(cache.checkpoints, shot, track);
  cache.checkpoints = { shot, track, frames, states: kept.states };
  const last = kept.states.at(-1);
  if (last) {
    world.begin(1, track.from, true);
    world.recall(last.memory);
    write.goOn();
    copyRows(frames, kept.frames!, last.f + 1);
  } else if (track.loop) {
    const { period, travel } = track.loop;
    const home = inverseTravel(travel);
    const { first } = track;
    world.begin(row, track.first, false);
    const lap = function* () {
      for (let f = 1; f <= period; f++) {
        frameTo(row + f);
        yield;
      }
    };
    const run = findPeriodic(world, lap, () => world.travel(home, row, first));
    for (;;) {
      const step = run.next();
      if (step.done) {
        frames.start.loop = step.value;
        break;
      }
      yield frames;
    }
  } else {
    if (shot.loop && track.chains.length > 0)
      frames.start.loop = { found: false, laps: 0, gap: Infinity, why: 'clip' };
    const still = shot.start === 'settled' || (shot.start === 'wait' && shot.preRoll > 0);
    world.begin(1, track.from, still);
    if (shot.start === 'settled') {
      world.calm(true, track.first);
      let seconds = 0;
      do {
        wait();
        seconds += 1 / shot.fps;
        yield frames;
      } while (!isStill(world) && seconds < LONGEST_SETTLING);
      frames.start.settled = { seconds, still: isStill(world) };
      world.calm(false, track.first);
    } else if (shot.start === 'wait') {
      for (let f = 0; f < shot.preRoll; f++) {
        wait();
        yield frames;
      }
    }
    for (let f = 0; f < lead; f++) {
      frameTo(f + 2);
      yield frames;
    }
  }
  if (!last) write.frame(0);
  frames.done = last ? last.f + 1 : 1;
  yield frames;
  const every = spacing(track.frames);
  for (let f = frames.done; f < track.frames; f++) {
    // The last frame of a loop that counts its first twice is that frame, to the bit.
    if (frames.start.loop?.found && f === track.loop!.period) write.repeat(f, track.loop!.travel);
    else {
      frameTo(row + f);
      write.frame(f);
    }
    frames.done = f + 1;
    if (f % every === 0 && !track.loop) kept.states.push({ f, memory: world.remember() });
    yield frames;
  }
  return frames;
}

/** The states of an earlier run that hold for this shot too, and the frames that lead to them. */
function resumable(
  old: Checkpoints | undefined,
  shot: Shot,
  track: SourceTrack,
): Pick<Checkpoints, 'states'> & { frames?: Frames } {
  if (!old || old.track !== track || track.loop) return { states: [] };
  // A delayed row looks ahead by the two rows its cubic needs.
  const until = alikeUntil(old.shot, shot) - 2 - track.first;
  return { states: old.states.filter((s) => s.f <= until), frames: old.frames };
}

/** Whether no point of a chain moves any more. */
function isStill(world: World): boolean {
  return world.chains.every(({ solver, track }) => {
    const most = STILL * track.lengths.reduce((a, b) => a + b, 0);
    return solver.v.every((x) => Math.abs(x) < most);
  });
}

/** Runs a simulation to its end. */
export function simulateAll(character: Character, shot: Shot, cache?: TrackCache): Frames {
  const run = simulate(character, shot, cache);
  for (;;) {
    const step = run.next();
    if (step.done) return step.value;
  }
}

function makeFrames(track: SourceTrack, shot: Shot, world: World): Frames {
  const joints: number[] = [];
  const chains = track.chains.map(({ layout }): ChainColumns => {
    const from = joints.length;
    joints.push(...layout.joints);
    const part = shot.parts[layout.part.id]!;
    const used = (key: 'stretch' | 'shift') => part.settings[key] > 0 || (part.keys[key]?.length ?? 0) > 0;
    return {
      partId: layout.part.id,
      from,
      length: layout.joints.length,
      stretches: used('stretch') || used('shift'),
    };
  });
  return emptyFrames({
    first: track.first,
    count: track.frames,
    joints: Int32Array.from(joints),
    chains,
    colliders: world.colliders.map((c) => c.collider.id),
  });
}
