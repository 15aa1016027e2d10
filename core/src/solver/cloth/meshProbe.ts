import { toWorld } from '../bodies';
import type { Surface } from '../surface';
import { distanceToBox, fitTree, plantTree, type Tree } from '../tree';
import { beyond, type Found, type Probe, type StepBody } from './probe';
import { Walk } from './walk';

/** How far a point that is near nothing looks for the mesh, as a share of the mesh's size. */
const REACH = 0.05;
/** How much farther vertices are that cannot come so near within a step of the shot, as a share of the same. */
const MARGIN = 0.03;
/** m: a point nearer than this has the normal of the face it is on. */
const ON = 1e-6;
/** Points that are not near look all round in one of so many steps. */
const SELDOM = 3;
/** A little beyond its reach, so that a point is asked again. */
const AWAKE = 1 + 1e-9;

/**
 * A mesh that changes its shape. Each point keeps the triangle it is nearest to and walks on from it. Once a frame it
 * looks whether another part of the mesh has come nearer.
 */
export class MeshProbe implements Probe {
  readonly found: Found = { normal: new Float64Array(3), carried: new Float64Array(3) };
  readonly memory: readonly Float64Array[];
  private readonly walk: Walk;
  private readonly tree: Tree;
  private readonly stack = new Int32Array(128);
  /** Its vertices in the world at both ends of the shot's step, and at both ends of this one, m. */
  private readonly first: Float64Array;
  private readonly last: Float64Array;
  private start: Float64Array;
  private end: Float64Array;
  /** The triangle of each point (−1 when it has none), and where the point was last. */
  private readonly at: Float64Array;
  private readonly seen: Float64Array;
  /**
   * How the vertices near the points go in the shot's step on the whole, farthest one goes beside that, and farthest
   * any goes, m. Those that are far from all points do not come near them in a step.
   */
  private readonly travel = new Float64Array(3);
  private bending = 0;
  private farthest = 0;
  /** Farthest a vertex near the points may be from where the boxes were fitted, m. */
  private drift = 0;
  /** Whether the step is the first of a frame. */
  private fresh = true;
  /** Steps since the last in which points look all round. */
  private since = 0;
  /** Lowest and highest corner about the points. */
  private readonly box = new Float64Array(6);
  private readonly own = new Float64Array(3);
  private readonly side = new Float64Array(3);

  constructor(
    readonly body: StepBody,
    private readonly surface: Surface,
    points: number,
  ) {
    const size = surface.vertices.length;
    this.walk = new Walk(surface.corners, size / 3);
    this.tree = plantTree(surface.vertices, surface.corners);
    [this.first, this.last, this.start, this.end] = [size, size, size, size].map(
      (n) => new Float64Array(n),
    ) as [Float64Array, Float64Array, Float64Array, Float64Array];
    this.at = new Float64Array(points).fill(-1);
    this.seen = new Float64Array(3 * points);
    this.memory = [this.at, this.seen];
  }

  ready(fresh: boolean, x: Float64Array): void {
    const { first, last, tree, surface, walk } = this;
    const { from, to } = this.body;
    this.fresh = fresh;
    this.since = fresh ? 0 : (this.since + 1) % SELDOM;
    if (from === 0) {
      this.pose(x);
      this.start.set(first);
      if (fresh) {
        fitTree(tree, first, surface.corners, last);
        walk.sumNormals(first);
        this.drift = 0;
      } else this.drift += this.bending + Math.sqrt(this.travel.reduce((s, t) => s + t * t, 0));
    } else [this.start, this.end] = [this.end, this.start];
    const { end } = this;
    if (to === 1) end.set(last);
    else for (let k = 0; k < end.length; k++) end[k] = first[k]! + to * (last[k]! - first[k]!);
  }

  /** Its vertices in the world at both ends of the shot's step, and how they go there. */
  private pose(x: Float64Array): void {
    const { first, last, own, box, travel } = this;
    const { vertices, earlier } = this.surface;
    const { before, now } = this.body.whole;
    boxRound(box, x, (REACH + MARGIN) * this.body.bound);
    travel.fill(0);
    let [farthest, count] = [0, 0];
    for (let o = 0; o < first.length; o += 3) {
      let moved = 0;
      for (let a = 0; a < 3; a++) own[a] = earlier[o + a]!;
      toWorld(own, before, own);
      for (let a = 0; a < 3; a++) {
        first[o + a] = own[a]!;
        own[a] = vertices[o + a]!;
      }
      toWorld(own, now, own);
      for (let a = 0; a < 3; a++) {
        last[o + a] = own[a]!;
        moved += (own[a]! - first[o + a]!) ** 2;
      }
      if (moved > farthest) farthest = moved;
      if (!inBox(box, first, o) && !inBox(box, last, o)) continue;
      count++;
      for (let a = 0; a < 3; a++) travel[a]! += own[a]! - first[o + a]!;
    }
    for (let a = 0; a < 3; a++) travel[a]! /= Math.max(1, count);
    this.farthest = Math.sqrt(farthest);
    this.bending = this.beside();
  }

  /** Farthest a vertex near the points goes beside the way they go on the whole, m. */
  private beside(): number {
    const { first, last, box, travel } = this;
    let most = 0;
    for (let o = 0; o < first.length; o += 3) {
      if (!inBox(box, first, o) && !inBox(box, last, o)) continue;
      let bent = 0;
      for (let a = 0; a < 3; a++) bent += (last[o + a]! - first[o + a]! - travel[a]!) ** 2;
      if (bent > most) most = bent;
    }
    return Math.sqrt(most);
  }

  shrinks(i: number, x: Float64Array): number {
    const { seen, travel } = this;
    const share = this.body.to - this.body.from;
    const o = 3 * i;
    const dx = x[o]! - seen[o]! - share * travel[0]!;
    const dy = x[o + 1]! - seen[o + 1]! - share * travel[1]!;
    const dz = x[o + 2]! - seen[o + 2]! - share * travel[2]!;
    seen[o] = x[o]!;
    seen[o + 1] = x[o + 1]!;
    seen[o + 2] = x[o + 2]!;
    return Math.sqrt(dx * dx + dy * dy + dz * dz) + share * this.bending;
  }

  knows(i: number): boolean {
    return this.at[i]! >= 0;
  }

  far(i: number, x: Float64Array, reach: number, pressed: boolean): number {
    const o = 3 * i;
    const away = beyond(this.body.whole, x, o) - this.farthest;
    if (away > reach) return away;
    const { walk, end } = this;
    const known = this.at[i]!;
    if (known >= 0) this.at[i] = walk.go(end, x[o]!, x[o + 1]!, x[o + 2]!, known);
    // A point that presses stays with its triangle: it never leaps to another part of the mesh. Others look all round
    // once a frame, and whenever they would be left alone for a while.
    const lone = known < 0 || walk.squared > reach * reach;
    const most = Math.max(reach * AWAKE, REACH * this.body.bound);
    if (lone && known >= 0 && this.since > 0) return reach * AWAKE;
    if (lone || (this.fresh && !pressed)) {
      const other = this.look(x, o, most, this.at[i]!);
      if (other < 0) return most;
      this.at[i] = other;
    }
    return Math.min(most, walk.signed(end, this.at[i]!, x[o]!, x[o + 1]!, x[o + 2]!));
  }

  /** The triangle nearest to a point and within so many m, or the known one when none is nearer. */
  private look(x: Float64Array, o: number, within: number, known: number): number {
    const { stack, walk, end, drift } = this;
    const { order, firsts, counts, box } = this.tree;
    const px = x[o]!;
    const py = x[o + 1]!;
    const pz = x[o + 2]!;
    let best = known;
    if (known < 0) walk.squared = within * within;
    let bound = (Math.sqrt(walk.squared) + drift) ** 2;
    let top = 0;
    if (firsts.length > 0) stack[top++] = 0;
    while (top > 0) {
      const n = stack[--top]!;
      if (distanceToBox(box, n, px, py, pz) >= bound) continue;
      if (counts[n]! > 0) {
        for (let k = firsts[n]!; k < firsts[n]! + counts[n]!; k++)
          if (walk.nearer(end, px, py, pz, order[k]!)) best = order[k]!;
        bound = (Math.sqrt(walk.squared) + drift) ** 2;
        continue;
      }
      // The nearer child last, so that it is looked at first.
      const [p, q] = [n + 1, firsts[n]!];
      const near = distanceToBox(box, p, px, py, pz) <= distanceToBox(box, q, px, py, pz);
      stack[top++] = near ? q : p;
      stack[top++] = near ? p : q;
    }
    return best;
  }

  depth(i: number, x: Float64Array, anew: boolean): number {
    const { walk, end } = this;
    const o = 3 * i;
    if (anew) for (let a = 0; a < 3; a++) this.seen[o + a] = x[o + a]!;
    const known = this.at[i]!;
    this.at[i] =
      anew || known < 0 ? this.look(x, o, Infinity, -1) : walk.go(end, x[o]!, x[o + 1]!, x[o + 2]!, known);
    const t = this.at[i]!;
    if (t < 0) return Infinity;
    const d = walk.signed(end, t, x[o]!, x[o + 1]!, x[o + 2]!);
    this.aim(end, t, x, o, d);
    return d;
  }

  gap(i: number, x: Float64Array, old: Float64Array, thickness: number): number {
    const { start, end, walk } = this;
    const { carried } = this.found;
    const o = 3 * i;
    const t = walk.go(end, x[o]!, x[o + 1]!, x[o + 2]!, this.at[i]!);
    this.carry(t);
    const d = walk.signed(end, t, x[o]!, x[o + 1]!, x[o + 2]!);
    this.aim(end, t, x, o, d);
    const before = this.at[i]!;
    this.at[i] = t;
    let run = 0;
    for (let a = 0; a < 3; a++) run += (x[o + a]! - old[o + a]! - carried[a]!) ** 2;
    if (run <= 0.25 * thickness * thickness) return d - thickness;
    return this.fastGap(i, x, old, thickness, before, start) ?? d - thickness;
  }

  /**
   * The gap of a fast point that was outside and ends behind the plane it was before, as the triangle carries it: it is
   * measured from that side. Undefined when that did not happen.
   */
  private fastGap(
    i: number,
    x: Float64Array,
    old: Float64Array,
    thickness: number,
    before: number,
    start: Float64Array,
  ): number | undefined {
    const { end, walk, side, own } = this;
    const { normal } = this.found;
    const o = 3 * i;
    own.set(normal);
    const t = walk.go(start, old[o]!, old[o + 1]!, old[o + 2]!, before);
    const d = walk.signed(start, t, old[o]!, old[o + 1]!, old[o + 2]!);
    this.aim(start, t, old, o, d);
    walk.face(side, start, t);
    if (side[0]! * normal[0]! + side[1]! * normal[1]! + side[2]! * normal[2]! < 0.2) normal.set(side);
    let behind = 0;
    for (let a = 0; a < 3; a++) behind += (x[o + a]! - walk.placeOn(end, t, a)) * normal[a]!;
    if (d < 0 || behind >= 0) {
      normal.set(own);
      return undefined;
    }
    const by = 0.25 * thickness - behind;
    for (let a = 0; a < 3; a++) own[a] = x[o + a]! + by * normal[a]!;
    const to = walk.go(end, own[0]!, own[1]!, own[2]!, t);
    this.at[i] = to;
    walk.face(normal, end, to);
    let gap = -thickness;
    for (let a = 0; a < 3; a++) gap += (x[o + a]! - walk.placeOn(end, to, a)) * normal[a]!;
    this.carry(to);
    return gap;
  }

  private carry(t: number): void {
    const { walk, start, end } = this;
    for (let a = 0; a < 3; a++) this.found.carried[a] = walk.placeOn(end, t, a) - walk.placeOn(start, t, a);
  }

  /** The normal towards the point, or the face's own where the point is on it. */
  private aim(v: Float64Array, t: number, x: Float64Array, o: number, d: number): void {
    const { walk } = this;
    const { normal } = this.found;
    if (Math.abs(d) < ON) return walk.face(normal, v, t);
    for (let a = 0; a < 3; a++) normal[a] = (x[o + a]! - walk.placeOn(v, t, a)) / d;
  }
}

/** The box round places, 3 numbers each, larger by so much on all sides. */
function boxRound(box: Float64Array, x: Float64Array, by: number): void {
  box.fill(Infinity, 0, 3);
  box.fill(-Infinity, 3);
  for (let o = 0; o < x.length; o += 3)
    for (let a = 0; a < 3; a++) {
      if (x[o + a]! - by < box[a]!) box[a] = x[o + a]! - by;
      if (x[o + a]! + by > box[3 + a]!) box[3 + a] = x[o + a]! + by;
    }
}

const inBox = (box: Float64Array, v: Float64Array, o: number): boolean =>
  v[o]! >= box[0]! &&
  v[o]! <= box[3]! &&
  v[o + 1]! >= box[1]! &&
  v[o + 1]! <= box[4]! &&
  v[o + 2]! >= box[2]! &&
  v[o + 2]! <= box[5]!;
