import { rootMatrix } from '../../character/index';
import type { Frames } from '../../frames/index';
import { matCompose, matInvert, matMultiply, quatSlerp } from '../../math/index';
import { makeLinkTurns, type LinkTurns } from '../../solver/index';
import type { SheetSource } from './source';
import { SheetRun } from './sheetRun';
import { carriersOfRows, carryMatrix, carryPlace } from '../borne';
import type { Anchor, Env, MomentRow, PartRun, Posed, RunNeeds } from '../kind';
import type { PanelPart } from './panelDocument';
import type { PanelLayout } from './panelLayout';

/** Numbers that the turns of a joint take of an arena at most. */
const TURN_NUMBERS = 80;

/** Arrays that joint columns are written to. */
type JointRows = Pick<MomentRow, 'rotations' | 'translations'>;

const local = new Float64Array(16);

/** Puts the joints of a row at their points, as places in their parents' spaces; each keeps its turn. */
function placeLinks({ place, turn, scale, world, turned, placed }: LinkTurns, points: Float64Array): void {
  turned.set(turn);
  for (let j = 0; j < turn.length / 4; j++) {
    const [x, y, z] = [points[3 * j]!, points[3 * j + 1]!, points[3 * j + 2]!];
    const there = matInvert(local, 0, world, 16 * j);
    for (let a = 0; a < 3; a++)
      placed[3 * j + a] = there
        ? local[a]! * x + local[4 + a]! * y + local[8 + a]! * z + local[12 + a]!
        : place[3 * j + a]!;
    matCompose(local, 0, placed, 3 * j, turned, 4 * j, scale, 3 * j);
    matMultiply(world, 16 * j + 16, world, 16 * j, local, 0);
  }
}

/** A sheet of joints: each turns to the next of its row, goes to its own point, or both. */
class PanelRun extends SheetRun {
  private readonly panel: PanelLayout;
  private readonly moves: PanelPart['moves'];
  private readonly turns: readonly LinkTurns[];
  private readonly root: Float64Array;
  /** Where its points are in the world, m. */
  private readonly places: Float64Array;

  /** What carries each row along, where other parts move what it hangs from. */
  private readonly carriers: readonly (readonly Anchor[])[];

  constructor(needs: RunNeeds<PanelPart, PanelLayout, SheetSource>, env: Env) {
    const { part, track, runs } = needs;
    const { rows, sheet } = track.layout;
    const above = rows.map((r) => env.character.nodes[r.joints[0]!]!.parent);
    const carriers = carriersOfRows(above, track, runs);
    const bear = (places: Float64Array) =>
      rows.forEach(({ first, joints }, r) => {
        for (let p = first; p <= first + joints.length; p++)
          carryPlace(places.subarray(3 * p, 3 * p + 3), carriers[r]!);
      });
    super(
      {
        ...{ ...needs, part: { ...part, release: null }, spare: TURN_NUMBERS * sheet.points },
        bear: carriers.some((c) => c.length > 0) ? bear : null,
      },
      env,
    );
    this.carriers = carriers;
    this.panel = track.layout;
    this.moves = part.moves;
    this.root = rootMatrix(env.metresPerUnit, env.upAxis);
    this.places = this.arena!.alloc(this.cloth.x.length);
    this.turns = track.layout.rows.map(({ tip }, r) => makeLinkTurns(this.pointsOf(r), tip, this.arena));
  }

  private pointsOf(row: number): Float64Array {
    const { first, joints } = this.panel.rows[row]!;
    return this.places.subarray(3 * first, 3 * (first + joints.length + 1));
  }

  protected put(frames: Frames, f: number, _: Float64Array, shown: Float64Array): void {
    const at = f * frames.joints.length + frames.parts[this.index]!.joints.from;
    this.turnAll(this.env.track.first + f, this.env.track.poseAt(f), frames, at, shown);
  }

  writeAt(row: MomentRow, frames: Frames, frame: number, posed: Posed, shown: Float64Array): void {
    this.turnAll(frame, posed, row, frames.parts[this.index]!.joints.from, shown);
  }

  private turnAll(frame: number, posed: Posed, rows: JointRows, from: number, shown: Float64Array): void {
    const amount = this.amountAt(frame);
    if (this.riding.apart) this.riding.out(this.places, this.cloth.x);
    else this.places.set(this.cloth.x);
    let at = from;
    this.panel.rows.forEach(({ joints }, r) => {
      this.turnRow(r, joints, posed, rows, at, amount);
      const { world } = this.turns[r]!;
      joints.forEach((node, j) => shown.set(world.subarray(16 * j + 16, 16 * j + 32), 16 * node));
      at += joints.length;
    });
  }

  private turnRow(
    row: number,
    joints: Int32Array,
    { pose, world }: Posed,
    { rotations, translations }: JointRows,
    at: number,
    amount: number,
  ): void {
    const above = this.env.character.nodes[joints[0]!]!.parent;
    const found = this.turns[row]!;
    for (let k = 0; k < 16; k++) found.world[k] = above < 0 ? this.root[k]! : world[16 * above + k]!;
    carryMatrix(found.world, 0, this.carriers[row]!);
    joints.forEach((node, j) => {
      found.place.set(pose.t.subarray(3 * node, 3 * node + 3), 3 * j);
      found.scale.set(pose.s.subarray(3 * node, 3 * node + 3), 3 * j);
      found.turn.set(pose.r.subarray(4 * node, 4 * node + 4), 4 * j);
    });
    if (this.moves === 'points') placeLinks(found, this.pointsOf(row));
    else found.find(this.moves === 'places');
    joints.forEach((node, j) => {
      const [q, t] = [4 * (at + j), 3 * (at + j)];
      quatSlerp(rotations, q, found.turn, 4 * j, found.turned, 4 * j, amount);
      for (let a = 0; a < 3; a++) {
        const is = found.place[3 * j + a]!;
        translations[t + a] = is + amount * (found.placed[3 * j + a]! - is);
      }
      matCompose(local, 0, translations, t, rotations, q, pose.s, 3 * node);
      matMultiply(found.world, 16 * j + 16, found.world, 16 * j, local, 0);
    });
  }
}

export const makePanelRun = (needs: RunNeeds<PanelPart, PanelLayout, SheetSource>, env: Env): PartRun =>
  new PanelRun(needs, env);
