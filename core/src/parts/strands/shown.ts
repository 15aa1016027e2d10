import { quatRotate } from '../../math/index';
import type { StrandShape, Strands } from '../../solver/strands/index';
import { anchorAway } from '../kind';
import type { StrandPose } from './document';
import { readGroom } from './groom';
import type { StrandsLayout } from './layout';

const G = 9.81;
/** A link gets at most so many times as long as it is, more. */
const LONGEST = 1;

const lengthOf = (lengths: Float64Array): number => lengths.reduce((s, l) => s + l, 0);
const [way, link] = [new Float64Array(3), new Float64Array(3)];

/** Where strands are shown, and what is read of them on a frame. */
export class Shown {
  /** How far each point is from its groom, m. */
  private readonly off: Float64Array;
  private readonly tensions: Float64Array;
  /** Poses by hand, and how far each point is in them from its groom, in the frame of its root, m. */
  private readonly poses: readonly { readonly pose: StrandPose; readonly away: Float64Array }[];
  /** Whether a step was taken since it began. */
  private fresh = true;

  constructor(
    private readonly strands: Strands,
    private readonly shapes: readonly StrandShape[],
    private readonly layout: StrandsLayout,
    /** Roots of all guides. */
    private readonly roots: Float64Array,
    poses: readonly StrandPose[],
  ) {
    this.poses = poses.flatMap((pose) => {
      const away = fromGroom(pose, layout);
      return away ? [{ pose, away }] : [];
    });
    this.off = new Float64Array(3 * strands.links);
    this.tensions = new Float64Array(strands.links);
  }

  begin(): void {
    this.fresh = true;
  }

  /** A step was taken. */
  stepped(): void {
    this.fresh = false;
  }

  /**
   * Finds how far each point is from its groom, the one that is farthest, the energy of all, and how hard they are
   * pulled. `stretch` is by how much a strand gets longer by its own weight, as a share; `h` is s a step.
   */
  measure(h: number, stretch: number) {
    const { strands, off, shapes, tensions } = this;
    const { first, x, roots, went, fields, restTension } = strands;
    const { turn, span, dx } = fields;
    if (this.fresh) tensions.set(restTension);
    else strands.tensions(tensions);
    const combed = new Float64Array(3);
    const lain = new Float64Array(3);
    const far = { off: 0, groom: [...roots.slice(0, 3)], way: [0, 0, 0] };
    let kinetic = 0,
      fastest = 0,
      tension = 0,
      longest = 0;
    for (let k = 0; k + 1 < first.length; k++) {
      combed.fill(0);
      lain.fill(0);
      const m = 9 * k;
      const s = shapes[k]!.directions;
      const softness = this.softness(k, stretch);
      for (let i = first[k]!; i < first[k + 1]!; i++) {
        const o = 3 * i;
        const e = o - 3 * first[k]!;
        const pull = tensions[i]!;
        const l = span[i]!;
        if (pull > tension) tension = pull;
        const longer = Math.min(LONGEST, Math.max(0, softness * (pull - restTension[i]!)));
        if (longer > longest) longest = longer;
        let sum = 0,
          speed = 0,
          gone = 0;
        for (let a = 0; a < 3; a++) {
          const t = m + 3 * a;
          combed[a]! += l * (turn[t]! * s[e]! + turn[t + 1]! * s[e + 1]! + turn[t + 2]! * s[e + 2]!);
          lain[a]! += longer * (x[o + a]! - (e > 0 ? x[o + a - 3]! : 0));
          const d = x[o + a]! + lain[a]! - combed[a]!;
          off[o + a] = d;
          sum += d * d;
          const way = dx[o + a]!;
          speed += way * way;
          const whole = way + went[3 * k + a]!;
          gone += whole * whole;
        }
        if (gone > fastest) fastest = gone;
        kinetic += (strands.masses[i]! / 2) * (speed / h / h);
        if (sum <= far.off * far.off) continue;
        far.off = Math.sqrt(sum);
        for (let a = 0; a < 3; a++) {
          far.groom[a] = roots[7 * k + a]! + combed[a]!;
          far.way[a] = off[o + a]!;
        }
      }
    }
    return { far, kinetic, speed: Math.sqrt(fastest) / h, tension, longer: longest };
  }

  /** 1/N: how much longer a strand gets by a pull, when its own weight makes it longer by a share. */
  private softness(k: number, stretch: number): number {
    const { first, masses } = this.strands;
    let mass = 0;
    for (let i = first[k]!; i < first[k + 1]!; i++) mass += masses[i]!;
    // What hangs is pulled by half of its weight on the mean.
    return mass > 0 ? (2 * stretch) / (mass * G) : 0;
  }

  /** Writes the places of all guides: those that are not simulated are off their groom as what stands for them is. */
  write(points: Float32Array | Float64Array, from: number, amount: number, frame: number): void {
    const { strands, off, roots, layout } = this;
    const { standIns, moved, shapes } = layout;
    const { first } = strands;
    let at = from;
    shapes.forEach(({ lengths, directions }, g) => {
      const k = standIns[g]!;
      const [lo, count] = [first[k]!, first[k + 1]! - first[k]!];
      const own = moved[k] === g;
      const by = own
        ? amount
        : amount * Math.min(1, lengthOf(lengths) / lengthOf(shapes[moved[k]!]!.lengths));
      for (let a = 0; a < 3; a++) points[at + a] = link[a] = roots[7 * g + a]!;
      at += 3;
      for (let i = 0; i < lengths.length; i++, at += 3) {
        quatRotate(way, 0, roots, 7 * g + 3, directions, 3 * i);
        const o =
          3 * (lo + (own ? i : Math.min(count - 1, Math.floor(((i + 1) / lengths.length) * count) - 1)));
        for (let a = 0; a < 3; a++) {
          link[a]! += lengths[i]! * way[a]!;
          points[at + a] = link[a]! + by * (o < 0 ? 0 : off[o + a]!);
        }
        for (const { pose, away } of this.poses) {
          const share = 1 - anchorAway(pose, frame);
          if (share === 0) continue;
          quatRotate(way, 0, roots, 7 * g + 3, away, at - from);
          for (let a = 0; a < 3; a++) points[at + a]! += share * (link[a]! + way[a]! - points[at + a]!);
        }
      }
    });
  }
}

/** How far each point is in a pose from its groom, m; null for a pose that was combed with other guides. */
function fromGroom(
  { groom }: StrandPose,
  { part, guides, points, picked }: StrandsLayout,
): Float64Array | null {
  if (groom.points.join() !== part.groom.points.join()) return null;
  const posed = readGroom(groom);
  const out = new Float64Array(3 * points);
  let at = 0;
  guides.forEach((guide, g) => {
    const own = posed[picked[g]!]!;
    // Where points that stood in one place were left out, it stays as it is combed.
    if (own.length === guide.length)
      guide.forEach((x, o) => (out[at + o] = own[o]! - own[o % 3]! - (x - guide[o % 3]!)));
    at += guide.length;
  });
  return out;
}
