import { makePose, rootMatrix, worldMatrices, type Character, type Pose } from '../character/index';
import { acos, matCompose, matMultiply, quatMultiply, quatRotate, quatSlerp } from '../math/index';
import type { AnchorPose } from '../model/index';
import type { Shot } from '../shot/index';
import { makeLinkTurns } from '../solver/index';
import type { Frames } from './frames';
import type { Group } from './groups';
import { makeSource, type Source } from './source';
import type { Posed, SourceTrack } from './track';
import type { World } from './world';

/** Writes the columns of a world's chains and free colliders in the frames of a simulation, from its state. */
export interface Writer {
  /** Takes note of the contacts of a substep. */
  gather(): void;
  /** Says that the simulation goes on from a checkpoint: what it began in is known already. */
  goOn(): void;
  /** Writes frame f of the range. */
  frame(f: number): void;
  /** The turns at any moment (a frame before the range, or between two): the world has to stand there. */
  between(frame: number): MomentRow;
  /** Makes frame f of a group the first one again, carried by a travel. */
  repeat(f: number, travel: Float64Array, group: Group): void;
}

/** The simulated joints at a moment that is no frame of the range: as a row of {@link Frames}. */
export interface MomentRow {
  readonly frame: number;
  readonly rotations: Float64Array;
  readonly translations: Float64Array;
}

/** A link deeper than this in something at the start stands in it, m. */
const INSIDE = 1e-3;

/** 0 to 1 with no kick in speed or acceleration at either end: 6t⁵ − 15t⁴ + 10t³. */
const ease = (t: number): number => (t >= 1 ? 1 : t * t * t * (10 + t * (6 * t - 15)));

/** How much of the simulation shows at a frame for its anchor poses: 0 on them, 1 away from them. */
function anchorShare(anchors: readonly AnchorPose[], frame: number): number {
  let share = 1;
  for (const a of anchors) {
    const d = frame - a.frame;
    const over = d < 0 ? a.easeIn : a.easeOut;
    if (d === 0) return 0;
    if (Math.abs(d) < over) share = Math.min(share, ease(Math.abs(d) / over));
  }
  return share;
}

export function makeWriter(
  character: Character,
  shot: Shot,
  track: SourceTrack,
  world: World,
  frames: Frames,
): Writer {
  const matrices = new Float64Array(16 * character.nodes.length);
  const local = new Float64Array(16);
  const root = rootMatrix(shot.character.metresPerUnit, shot.character.upAxis);
  const columns = frames.joints.length;
  const all = frames.chains.length;
  const chains = world.chains.length;
  const free = world.colliders.flatMap(({ body, collider }) =>
    body.free ? [{ body, column: frames.colliders.indexOf(collider.id) }] : [],
  );
  const place = new Float64Array(3);
  const pressing = new Uint16Array(chains);
  const hardest = new Float64Array(chains);
  const pressedAt = new Float32Array(chains);
  const deep = new Float32Array(chains);
  const deepest = new Float64Array(chains);
  const deepestIn = new Uint16Array(chains);
  const columnsOfMinds = world.chains.map((c) => c.minds.map((id) => 1 + frames.colliders.indexOf(id)));
  const sliding = new Float32Array(chains);
  const turns = world.chains.map((c) => makeLinkTurns(c.solver.x, c.track.layout.tip, track.arena));
  /** Whether others hang from it, so that its joints' matrices are asked for. */
  const carries = world.chains.map((_, i) => world.chains.some((c) => c.track.hanging.chain === i));
  const stretches = world.chains.map(({ index }) => frames.chains[index]!.stretches);
  let begun = false;
  let source: Source | null = null;
  const posed: Posed = { pose: makePose(character), world: new Float64Array(16 * character.nodes.length) };

  /** Writes the turns of chain i at a frame, from the source's pose there; returns how much of the simulation shows. */
  function writeRow(
    i: number,
    frame: number,
    { pose, world: source }: Posed,
    rotations: Float64Array,
    translations: Float64Array,
    row: number,
  ): number {
    const { track: c, tuning, part, index } = world.chains[i]!;
    const { layout, hanging } = c;
    const { above } = layout;
    // What the chain hangs from: as the source has it, or carried by the chain above.
    if (hanging.chain < 0) {
      const node = above.length > 0 ? above[above.length - 1]! : -1;
      if (node >= 0) for (let k = 16 * node; k < 16 * node + 16; k++) matrices[k] = source[k]!;
    } else {
      const from = world.chains[hanging.chain]!.track.layout.joints[hanging.link]!;
      for (let k = above.indexOf(from) + 1; k < above.length; k++) {
        const node = above[k]!;
        matCompose(local, 0, pose.t, 3 * node, pose.r, 4 * node, pose.s, 3 * node);
        matMultiply(matrices, 16 * node, matrices, 16 * above[k - 1]!, local, 0);
      }
    }
    const mix = (tuning.value('mix', frame) / 100) * anchorShare(part.anchors, frame);
    const at = row + frames.chains[index]!.from;
    writeTurns(i, pose, mix, rotations, 4 * at, translations, 3 * at);
    return mix;
  }

  /** Turns and places of chain i, mixed with its source's pose, and the world matrices of its joints as they are shown. */
  function writeTurns(
    i: number,
    pose: Pose,
    mix: number,
    rotations: Float64Array,
    ro: number,
    translations: Float64Array,
    to: number,
  ): void {
    const { joints } = world.chains[i]!.track.layout;
    const found = turns[i]!;
    const parent = character.nodes[joints[0]!]!.parent;
    for (let k = 0; k < 16; k++) found.world[k] = parent < 0 ? root[k]! : matrices[16 * parent + k]!;
    for (let j = 0; j < joints.length; j++) {
      const p = 3 * joints[j]!;
      const q = 4 * joints[j]!;
      for (let k = 0; k < 3; k++) {
        found.place[3 * j + k] = pose.t[p + k]!;
        found.scale[3 * j + k] = pose.s[p + k]!;
      }
      for (let k = 0; k < 4; k++) found.turn[4 * j + k] = pose.r[q + k]!;
    }
    found.find(stretches[i]!);
    rotations.set(found.turned, ro);
    translations.set(found.placed, to);
    if (mix !== 1) {
      // What is shown is the mix: so are the places of what hangs below.
      joints.forEach((node, j) => {
        const [q, t] = [ro + 4 * j, to + 3 * j];
        quatSlerp(rotations, q, found.turn, 4 * j, found.turned, 4 * j, mix);
        for (let k = 0; k < 3; k++) {
          const from = found.place[3 * j + k]!;
          translations[t + k] = from + (found.placed[3 * j + k]! - from) * mix;
        }
        matCompose(local, 0, translations, t, rotations, q, pose.s, 3 * node);
        matMultiply(found.world, 16 * j + 16, found.world, 16 * j, local, 0);
      });
    }
    if (carries[i])
      joints.forEach((node, j) => matrices.set(found.world.subarray(16 * j + 16, 16 * j + 32), 16 * node));
  }

  function writeChain(i: number, f: number): void {
    const { track: c, solver, index } = world.chains[i]!;
    const { joints, tip } = c.layout;
    const frame = track.first + f;
    const mix = writeRow(i, frame, track.poseAt(f), frames.rotations, frames.translations, f * columns);
    const cell = f * all + index;
    const shown = turns[i]!.world;
    const last = 16 * joints.length;
    for (let a = 0; a < 3; a++)
      place[a] =
        shown[last + a]! * tip[0]! +
        shown[last + 4 + a]! * tip[1]! +
        shown[last + 8 + a]! * tip[2]! +
        shown[last + 12 + a]!;
    let worst = 1;
    let off = 0;
    let longest = 0;
    const { x, links } = solver;
    const rows = c.points;
    const o0 = (frame - track.from + 1) * 3 * (links + 1);
    for (let k = 0; k < 3 * links; k += 3) {
      const ax = x[k + 3]! - x[k]!,
        ay = x[k + 4]! - x[k + 1]!,
        az = x[k + 5]! - x[k + 2]!;
      const bx = rows[o0 + k + 3]! - rows[o0 + k]!,
        by = rows[o0 + k + 4]! - rows[o0 + k + 1]!,
        bz = rows[o0 + k + 5]! - rows[o0 + k + 2]!;
      const norm = Math.sqrt((ax * ax + ay * ay + az * az) * (bx * bx + by * by + bz * bz));
      if (norm > 0) {
        worst = Math.min(worst, (ax * bx + ay * by + az * bz) / norm);
        const ratio = (ax * ax + ay * ay + az * az) / norm;
        longest = Math.max(longest, Math.abs(ratio - 1));
      }
    }
    for (let a = 0; a < 3; a++) {
      off += (place[a]! - rows[o0 + 3 * links + a]!) ** 2;
      frames.tips[3 * cell + a] = place[a]!;
    }
    frames.stray[cell] = (acos(worst) * 180 * mix) / Math.PI;
    frames.tipStray[cell] = Math.sqrt(off);
    frames.stretch[cell] = longest;
    frames.energy[cell] = solver.kinetic();
    frames.contacts[cell] = pressing[i]!;
    frames.contactAt[cell] = pressedAt[i]!;
    frames.depth[cell] = deep[i]!;
    frames.deepIn[cell] = deepestIn[i]!;
    frames.slip[cell] = sliding[i]!;
    pressing[i] = 0;
    hardest[i] = 0;
    pressedAt[i] = 0;
    deep[i] = 0;
    deepest[i] = 0;
    deepestIn[i] = 0;
    sliding[i] = 0;
  }

  return {
    gather: () => {
      for (let i = 0; i < chains; i++) {
        const report = world.chains[i]!.contacts?.report;
        if (!report) continue;
        const { index, minds } = world.chains[i]!;
        pressing[i] = Math.max(pressing[i]!, report.touching);
        if (report.load > hardest[i]!) {
          hardest[i] = report.load;
          pressedAt[i] = report.at;
        }
        deep[i] = Math.max(deep[i]!, report.depth);
        for (let b = 0; b < minds.length; b++)
          if (report.depths[b]! > deepest[i]!) {
            deepest[i] = report.depths[b]!;
            deepestIn[i] = columnsOfMinds[i]![b]!;
          }
        if (!begun) frames.startsIn[index] = minds.filter((_, b) => report.depths[b]! > INSIDE);
        sliding[i] = Math.max(sliding[i]!, report.slip);
      }
      begun = true;
    },
    goOn: () => void (begun = true),
    between: (frame) => {
      source ??= makeSource(character, shot);
      source.at(frame, posed.pose);
      worldMatrices(character, posed.pose, root, posed.world);
      const row = {
        frame,
        rotations: new Float64Array(4 * columns),
        translations: new Float64Array(3 * columns),
      };
      for (let i = 0; i < chains; i++) writeRow(i, frame, posed, row.rotations, row.translations, 0);
      return row;
    },
    frame: (f) => {
      for (let i = 0; i < chains; i++) writeChain(i, f);
      for (const { body, column } of free)
        frames.placements.set(body.now, 7 * (f * frames.colliders.length + column));
    },
    repeat: (f, travel, group) => {
      const {
        rotations,
        translations,
        stray,
        tipStray,
        contacts,
        contactAt,
        depth,
        deepIn,
        slip,
        stretch,
        energy,
      } = frames;
      for (const index of group.chains) {
        const { from, length } = frames.chains[index]!;
        rotations.copyWithin(4 * (f * columns + from), 4 * from, 4 * (from + length));
        translations.copyWithin(3 * (f * columns + from), 3 * from, 3 * (from + length));
        for (const list of [stray, tipStray, contacts, contactAt, depth, deepIn, slip, stretch, energy])
          list[f * all + index] = list[index]!;
        for (let a = 0; a < 3; a++) place[a] = frames.tips[3 * index + a]!;
        quatRotate(place, 0, travel, 3, place, 0);
        for (let a = 0; a < 3; a++) frames.tips[3 * (f * all + index) + a] = place[a]! + travel[a]!;
      }
      for (const { column } of group.free ? free : []) {
        const stood = frames.placements.slice(7 * column, 7 * column + 7);
        const at = 7 * (f * frames.colliders.length + column);
        frames.placements.set(stood, at);
        quatRotate(place, 0, travel, 3, stood, 0);
        for (let a = 0; a < 3; a++) frames.placements[at + a] = place[a]! + travel[a]!;
        quatMultiply(frames.placements, at + 3, travel, 3, stood, 3);
      }
    },
  };
}
