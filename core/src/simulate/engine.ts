import type { Character } from '../character/index';
import type { StartReport } from '../frames/index';
import { makeValueCurve } from '../model/index';
import {
  kindOf,
  type ColliderRun,
  type Env,
  type PartRun,
  type Hanging,
  type PartTrack,
  type SourceTrack,
} from '../parts/index';
import type { Part, Shot } from '../shot/index';
import { carryBody, collideBodies, restBody } from '../solver/index';
import { collidersOf, makeColliders, moveColliders } from './colliders';
import { forcesOn } from './forces';
import { concerns, touch, type Group } from './groups';

/** Everything that moves in a shot, from one substep to the next. */
export interface World {
  /** The parts, in the order of the track. */
  readonly runs: readonly PartRun[];
  readonly colliders: readonly ColliderRun[];
  /** How many groups it holds: each is saved and remembered by itself. */
  readonly groups: number;
  /** Puts everything on its source at a track row, moving with it or, when `still`, at rest. */
  begin(row: number, frame: number, still: boolean): void;
  /** One substep, to `share` of the way from track row `row` to the next, which is the time of `frame`. */
  advance(row: number, share: number, frame: number): void;
  /** What moves in a group, as numbers, for loops. */
  save(group: number): Float64Array;
  load(group: number, state: Float64Array): void;
  /** Whether nothing of a group moves any more. */
  still(group: number): boolean;
  /** Of those of a group that hung in their pose by themselves first: for how long, and how they were then. */
  waited(group: number): readonly NonNullable<StartReport['settled']>[];
  /** How fast the fastest point of a group moves, m/s. */
  speed(group: number): number;
  /** All a group remembers, to the bit: a world that takes it back goes on as this one does. */
  remember(group: number): Memory;
  recall(group: number, memory: Memory): void;
  /** Puts colliders that are not free where they stand at a track row, as they do after a step to it. */
  stand(row: number, frame: number): void;
  /** Carries the whole state by a rigid travel (place and turn, 7 numbers), to where track row `row` is, at `frame`. */
  travel(by: Float64Array, row: number, frame: number): void;
  /** Damps everything at least critically, to find its rest. */
  calm(on: boolean, frame: number): void;
}

/** All numbers a group remembers by, in one array, and what has let go for good, by id. */
export interface Memory {
  readonly numbers: Float64Array;
  readonly slipped: ReadonlySet<string>;
}

/** Runs for some parts of the track, numbered anew in its order; those that come later know those before. */
function makeRuns(shot: Shot, env: Env, indices: readonly number[]): PartRun[] {
  const tracks = indices.map((i): PartTrack => {
    const { hanging, bearers, ...t } = env.track.parts[i]!;
    const here = ({ part, link }: Hanging): Hanging => ({ part: indices.indexOf(part), link });
    return {
      ...{ ...t, hanging: here(hanging) },
      bearers: bearers.map((b) => ({ ...b, links: b.links.map(here) })),
    };
  });
  const parts = tracks.map((t): Part => shot.parts[t.layout.part.id]!);
  const pair = (i: number, j: number) => i !== j && touch(parts[i]!, parts[j]!);
  const runs: PartRun[] = [];
  parts.forEach((part, i) => {
    // The later of two parts carries the contact, with the bodies of the earlier.
    const shells = (run: PartRun) => (kindOf(part).fine ? [run.shell?.() ?? []].flat() : []);
    const touching = runs.flatMap((run, j) => (pair(i, j) ? [...run.bodies, ...shells(run)] : []));
    const touched = parts.some((_, j) => j > i && pair(i, j));
    const carries = tracks.some((t) =>
      [t.hanging, ...t.bearers.flatMap((b) => b.links)].some((h) => h.part === i),
    );
    const needs = { part, index: indices[i]!, track: tracks[i]!, runs, touching, touched, carries };
    runs.push(kindOf(part).run(needs, env));
  });
  return runs;
}

/** How groups are saved and remembered; `free` gives the colliders of a group. */
function memoriesOf(
  members: readonly (readonly PartRun[])[],
  free: (g: number) => readonly ColliderRun[],
): Pick<World, 'save' | 'load' | 'still' | 'speed' | 'waited' | 'remember' | 'recall'> {
  const freeStates = (g: number) =>
    free(g).flatMap(({ body }) => (body.free ? [body.now, body.free.velocity, body.free.spin] : []));
  const moving = (g: number) => [...members[g]!.flatMap((r) => r.moving), ...freeStates(g)];
  const asides = (g: number) => members[g]!.flatMap((r) => r.asides());
  return {
    save: (g) => joined(moving(g)),
    load: (g, state) => {
      parted(state, moving(g));
      for (const r of members[g]!) r.loaded();
    },
    still: (g) => members[g]!.every((r) => r.still()),
    speed: (g) => Math.max(0, ...members[g]!.map((r) => r.speed())),
    waited: (g) => members[g]!.flatMap((r) => r.waited ?? []),
    remember: (g) => {
      const slips = members[g]!.flatMap((r) => r.slips);
      const slipped = new Set(slips.filter((s) => s.memory[0]).map((s) => s.id));
      return { numbers: joined([...moving(g), ...asides(g)]), slipped };
    },
    recall: (g, { numbers, slipped }) => {
      parted(numbers, [...moving(g), ...asides(g)]);
      for (const r of members[g]!) {
        for (const s of r.slips) s.memory[0] = slipped.has(s.id) ? 1 : 0;
        r.recalled();
      }
    },
  };
}

/** The groups of `shot` in motion. */
export function makeWorld(
  character: Character,
  shot: Shot,
  track: SourceTrack,
  groups: readonly Group[],
): World {
  const h = 1 / (shot.fps * shot.substeps);
  track.arena.release(track.size);
  const indices = groups.flatMap((g) => g.parts).sort((a, b) => a - b);
  const parts = indices.map((i) => shot.parts[track.parts[i]!.layout.part.id]!);
  const free = groups.findIndex((g) => g.free);
  const colliders = makeColliders(
    character,
    collidersOf(shot).filter((c) => free >= 0 || (!c.free && parts.some((p) => concerns(c, p)))),
    track,
    shot.character.metresPerUnit,
  );
  const env: Env = {
    ...{ character, fps: shot.fps, substeps: shot.substeps, h, looping: shot.loop },
    ...{ gravity: shot.gravity, gravityKeys: shot.gravityKeys, airDensity: shot.airDensity },
    ...{ metresPerUnit: shot.character.metresPerUnit, upAxis: shot.character.upAxis, track, colliders },
    forcesOn: (id) => forcesOn(shot, id),
  };
  const runs = makeRuns(shot, env, indices);
  /** Runs that others may push: they have bodies. */
  const pushable = runs.filter((r) => r.bodies.length > 0);
  const members = groups.map((g) => g.parts.map((i) => runs[indices.indexOf(i)]!));
  const gravity = new Float64Array(3);
  const gravityCurve = shot.gravityKeys.length > 0 ? makeValueCurve(shot.gravityKeys) : () => 1;
  const bodies = colliders.map((c) => c.body);
  const anyFree = bodies.some((b) => b.free);

  return {
    runs,
    colliders,
    groups: groups.length,
    begin: (row, frame, still) => {
      for (const c of colliders) {
        c.place(row, 0, frame);
        restBody(c.body);
      }
      for (const r of runs) r.begin(row, frame, still);
    },
    advance: (row, share, frame) => {
      const pull = gravityCurve(frame);
      for (let a = 0; a < 3; a++) gravity[a] = shot.gravity[a]! * pull;
      moveColliders(colliders, row, share, frame, h, gravity, shot.airDensity);
      if (anyFree) collideBodies(bodies, h);
      for (let i = 0; i < runs.length; i++) {
        runs[i]!.advance(row, share, frame);
        for (let j = 0; j < pushable.length; j++) pushable[j]!.gather();
      }
    },
    ...memoriesOf(members, (g) => (g === free ? colliders : [])),
    stand: (row, frame) => {
      for (const c of colliders) if (!c.body.free) c.place(row, 0, frame);
    },
    travel: (by, row, frame) => {
      for (const c of colliders) {
        const { body } = c;
        if (body.free) carryBody(body, by);
        else {
          // What rides is carried by the clip itself; what stands still stays.
          c.place(row, 0, frame);
          restBody(body);
        }
      }
      for (const r of runs) r.travel(by);
    },
    calm: (on, frame) => {
      for (const r of runs) r.calm(on, frame);
    },
  };
}

/** Copies of arrays in one: an array has a cost of its own, however short. */
function joined(all: readonly (Float64Array | Uint8Array)[]): Float64Array {
  const out = new Float64Array(all.reduce((sum, a) => sum + a.length, 0));
  let at = 0;
  for (const a of all) {
    out.set(a, at);
    at += a.length;
  }
  return out;
}

/** Puts what was joined back into its arrays. */
function parted(numbers: Float64Array, all: readonly (Float64Array | Uint8Array)[]): void {
  let at = 0;
  for (const a of all) a.set(numbers.subarray(at, (at += a.length)));
}
