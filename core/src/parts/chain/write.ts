import { rootMatrix, type Pose } from '../../character/index';
import { MOVES, type Frames } from '../../frames/index';
import { acos, matCompose, matMultiply, quatSlerp } from '../../math/index';
import { makeLinkTurns, type ChainContacts, type ChainSolver, type LinkTurns } from '../../solver/index';
import { anchorShare, type Env, type PartTrack, type Posed } from '../kind';
import type { ChainLayout } from './layout';
import type { ChainPart } from './document';
import { handPoses, poseJoint, type HandPose } from './poses';
import type { ChainSource } from './source';
import type { ChainTuning } from './tuning';

/** Arrays that joint columns are written to. */
interface JointRows {
  readonly rotations: Float64Array;
  readonly translations: Float64Array;
}

/** Writes the columns of one chain from its run's state. */
export interface ChainWriter {
  /** Takes note of the contacts of a substep. */
  note(frames: Frames, begins: boolean): void;
  /** Writes frame f of the range. */
  write(frames: Frames, f: number, shown: Float64Array): void;
  /** Writes the turns at a frame into joint columns from `at` on; returns how much of the simulation shows. */
  turns(frame: number, posed: Posed, rows: JointRows, at: number, shown: Float64Array): number;
}

/** The run whose columns are written. */
export interface Written {
  readonly index: number;
  readonly part: ChainPart;
  readonly track: PartTrack<ChainLayout, ChainSource>;
  readonly tuning: ChainTuning;
  readonly solver: ChainSolver;
  readonly contacts: ChainContacts | null;
  /** Ids of the colliders it minds, in the order of its contacts' bodies. */
  readonly minds: readonly string[];
  /** Whether others hang from it. */
  readonly carries: boolean;
}

/** A link deeper than this in something at the start stands in it, m. */
const INSIDE = 1e-3;

const local = new Float64Array(16);
const place = new Float64Array(3);

/** What pressed since the frame before: the most, the deepest, the fastest. */
interface Noted {
  pressing: number;
  hardest: number;
  pressedAt: number;
  deep: number;
  deepest: number;
  deepestIn: number;
  sliding: number;
}
const nothing = (): Noted => ({
  pressing: 0,
  hardest: 0,
  pressedAt: 0,
  deep: 0,
  deepest: 0,
  deepestIn: 0,
  sliding: 0,
});

class Writer implements ChainWriter {
  private readonly found: LinkTurns;
  private readonly root: Float64Array;
  private readonly poses: readonly HandPose[];
  private noted = nothing();

  constructor(
    private readonly run: Written,
    private readonly env: Env,
    private readonly parent: ChainLayout | null,
  ) {
    this.poses = handPoses(run.part.anchors);
    this.root = rootMatrix(env.metresPerUnit, env.upAxis);
    this.found = makeLinkTurns(run.solver.x, run.track.layout.tip, env.track.arena);
  }

  /** World matrix of what the chain hangs from: as the source has it, or carried by the chain above. */
  private placeAbove({ pose, world }: Posed, shown: Float64Array): void {
    const { parent } = this;
    const { layout, hanging } = this.run.track;
    const { above } = layout;
    if (!parent) {
      const node = above.length > 0 ? above[above.length - 1]! : -1;
      if (node >= 0) for (let k = 16 * node; k < 16 * node + 16; k++) shown[k] = world[k]!;
      return;
    }
    const from = parent.joints[hanging.link]!;
    for (let k = above.indexOf(from) + 1; k < above.length; k++) {
      const node = above[k]!;
      matCompose(local, 0, pose.t, 3 * node, pose.r, 4 * node, pose.s, 3 * node);
      matMultiply(shown, 16 * node, shown, 16 * above[k - 1]!, local, 0);
    }
  }

  /** The shown turns are a mix of source and simulation: so are the places of what hangs below. */
  private mixIn(pose: Pose, mixes: (joint: number) => number, rows: JointRows, at: number): void {
    const { found } = this;
    const { rotations, translations } = rows;
    this.run.track.layout.joints.forEach((node, j) => {
      const [q, t] = [4 * at + 4 * j, 3 * at + 3 * j];
      const amount = mixes(j);
      quatSlerp(rotations, q, found.turn, 4 * j, found.turned, 4 * j, amount);
      for (let k = 0; k < 3; k++) {
        const from = found.place[3 * j + k]!;
        translations[t + k] = from + (found.placed[3 * j + k]! - from) * amount;
      }
      matCompose(local, 0, translations, t, rotations, q, pose.s, 3 * node);
      matMultiply(found.world, 16 * j + 16, found.world, 16 * j, local, 0);
    });
  }

  /** Joints that a hand has posed turn to their poses; the others keep their turns, and go along. */
  private poseIn(pose: Pose, frame: number, { rotations, translations }: JointRows, at: number): void {
    const { found } = this;
    this.run.track.layout.joints.forEach((node, j) => {
      const [q, t] = [4 * at + 4 * j, 3 * at + 3 * j];
      poseJoint(this.poses, j, frame, rotations, q);
      matCompose(local, 0, translations, t, rotations, q, pose.s, 3 * node);
      matMultiply(found.world, 16 * j + 16, found.world, 16 * j, local, 0);
    });
  }

  turns(frame: number, posed: Posed, rows: JointRows, at: number, shown: Float64Array): number {
    const { run, found, root, env } = this;
    const { part, tuning } = run;
    const { joints } = run.track.layout;
    this.placeAbove(posed, shown);
    const { pose } = posed;
    const anchored = anchorShare(part.anchors, frame);
    const amount = (tuning.value('amount', frame) / 100) * anchored;
    const above = env.character.nodes[joints[0]!]!.parent;
    for (let k = 0; k < 16; k++) found.world[k] = above < 0 ? root[k]! : shown[16 * above + k]!;
    for (let j = 0; j < joints.length; j++) {
      const p = 3 * joints[j]!;
      const q = 4 * joints[j]!;
      for (let k = 0; k < 3; k++) {
        found.place[3 * j + k] = pose.t[p + k]!;
        found.scale[3 * j + k] = pose.s[p + k]!;
      }
      for (let k = 0; k < 4; k++) found.turn[4 * j + k] = pose.r[q + k]!;
    }
    found.find(stretches(part));
    rows.rotations.set(found.turned, 4 * at);
    rows.translations.set(found.placed, 3 * at);
    if (tuning.varies('amount')) {
      const amounts = tuning.links('amount', frame);
      this.mixIn(pose, (j) => (amounts[j]! / 100) * anchored, rows, at);
    } else if (amount !== 1) this.mixIn(pose, () => amount, rows, at);
    if (this.poses.some((p) => p.away(frame) < 1)) this.poseIn(pose, frame, rows, at);
    if (run.carries)
      joints.forEach((node, j) => shown.set(found.world.subarray(16 * j + 16, 16 * j + 32), 16 * node));
    return amount;
  }

  /** Angle to the source, stretch and way of the tip, at row f of the frames. */
  private measure(frames: Frames, f: number, cell: number, amount: number): void {
    const { env, run } = this;
    const { solver, track } = run;
    const { joints, tip } = track.layout;
    const shown = this.found.world;
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
    const rows = track.source.points;
    const o0 = (env.track.first + f - env.track.from + 1) * 3 * (links + 1);
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
    frames.offSource[cell] = (acos(worst) * 180 * amount) / Math.PI;
    frames.tipOffSource[cell] = Math.sqrt(off);
    frames.stretch[cell] = longest;
    frames.energy[cell] = solver.kinetic();
  }

  write(frames: Frames, f: number, shown: Float64Array): void {
    const { env, noted } = this;
    const { index } = this.run;
    const at = f * frames.joints.length + frames.parts[index]!.joints.from;
    const amount = this.turns(env.track.first + f, env.track.poseAt(f), frames, at, shown);
    const cell = f * frames.parts.length + index;
    this.measure(frames, f, cell, amount);
    frames.contacts[cell] = noted.pressing;
    frames.contactAt[cell] = noted.pressedAt;
    frames.depth[cell] = noted.deep;
    frames.deepIn[cell] = noted.deepestIn;
    frames.slip[cell] = noted.sliding;
    this.noted = nothing();
  }

  note(frames: Frames, begins: boolean): void {
    const { run, noted } = this;
    const report = run.contacts?.report;
    if (!report) return;
    noted.pressing = Math.max(noted.pressing, report.touching);
    if (report.load > noted.hardest) {
      noted.hardest = report.load;
      noted.pressedAt = report.at;
    }
    noted.deep = Math.max(noted.deep, report.depth);
    for (let b = 0; b < run.minds.length; b++)
      if (report.depths[b]! > noted.deepest) {
        noted.deepest = report.depths[b]!;
        noted.deepestIn = 1 + frames.colliders.indexOf(run.minds[b]!);
      }
    if (begins) frames.startsIn[run.index] = run.minds.filter((_, b) => report.depths[b]! > INSIDE);
    noted.sliding = Math.max(noted.sliding, report.slip);
  }
}

/** `parent`: the layout of the chain it hangs from, or null. */
export const makeChainWriter = (run: Written, env: Env, parent: ChainLayout | null): ChainWriter =>
  new Writer(run, env, parent);

const used = (part: ChainPart, key: 'stretch' | 'rootSlide'): boolean =>
  part.settings[key] > 0 || (part.keys[key]?.length ?? 0) > 0;
const stretches = (part: ChainPart): boolean => used(part, 'stretch') || used(part, 'rootSlide');

/**
 * Which paths of a chain's joints are moved: all rotations, and places where links stretch; the root's where it shifts.
 */
export const pathsOf = (part: ChainPart): Uint8Array =>
  Uint8Array.from(part.joints, (_, i) =>
    stretches(part) && (i > 0 || used(part, 'rootSlide')) ? 1 | MOVES : 1,
  );
