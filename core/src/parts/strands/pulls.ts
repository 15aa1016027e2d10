import type { Strands } from '../../solver/strands/index';
import type { Env, Slip } from '../kind';
import type { StrandPull } from './document';
import type { StrandsLayout } from './layout';

/** m/s²: a hand that is far away pulls no harder than this, so that it does not tear what cannot follow. */
const HARDEST = 300;
/** It holds by a spring of at most so many radians a step: what is firmer would ring. */
const FIRMEST = 0.6;

/** A hand that holds some hair: its points with their strands, the one it grabbed first, and how firmly, 0..1. */
interface Grip {
  readonly pull: StrandPull;
  readonly points: readonly { readonly strand: number; readonly point: number; readonly share: number }[];
  /** Whether it has slipped off: 0 or 1. */
  readonly slip: Slip;
}

/**
 * Hands that pull at hair along recorded paths: all points that are groomed within a reach of the one that was grabbed
 * are drawn the same way, less firmly farther out, each as a spring of the hand's frequency that is critically damped.
 */
export class StrandPulls {
  readonly slips: readonly Slip[];
  private readonly grips: readonly Grip[];
  private readonly hand = new Float64Array(3);
  private readonly before = new Float64Array(3);

  constructor(
    pulls: readonly StrandPull[],
    layout: StrandsLayout,
    private readonly strands: Strands,
    private readonly env: Pick<Env, 'h' | 'substeps'>,
  ) {
    this.grips = pulls.flatMap((pull) => {
      const points = gripped(pull, layout, strands);
      return points.length > 0 ? [{ pull, points, slip: { id: pull.id, memory: new Uint8Array(1) } }] : [];
    });
    this.slips = this.grips.map((g) => g.slip);
  }

  /** Pushes points for the step that ends at a frame. */
  push(frame: number): void {
    const { strands, env, hand, before } = this;
    const { x, way, went, roots, push } = strands;
    for (const { pull, points, slip } of this.grips) {
      const at = frame - pull.first;
      if (at < 0 || at > pull.path.length - 1 || slip.memory[0]) continue;
      handAt(hand, pull, at);
      handAt(before, pull, Math.max(0, at - 1 / env.substeps));
      const { strand, point } = points[0]!;
      const away = [0, 1, 2].map((a) => hand[a]! - x[3 * point + a]! - roots[7 * strand + a]!);
      const far = Math.sqrt(away.reduce((sum, d) => sum + d * d, 0));
      if (far > pull.slip) {
        slip.memory[0] = 1;
        continue;
      }
      const omega = Math.min(2 * Math.PI * pull.strength, FIRMEST / env.h);
      const most = HARDEST / (omega * omega);
      const less = far > most ? most / far : 1;
      for (const { strand: k, point: i, share } of points) {
        const held = omega * share;
        for (let a = 0; a < 3; a++) {
          const speed = (hand[a]! - before[a]! - way[3 * i + a]! - went[3 * k + a]!) / env.h;
          push[3 * i + a]! += held * held * less * away[a]! + 2 * held * speed;
        }
      }
    }
  }
}

/** Where a hand is: between two frames on the straight way. */
function handAt(out: Float64Array, { path }: StrandPull, at: number): void {
  const i = Math.min(path.length - 1, Math.floor(at));
  const next = path[Math.min(path.length - 1, i + 1)]!;
  for (let a = 0; a < 3; a++) out[a] = path[i]![a]! + (at - i) * (next[a]! - path[i]![a]!);
}

/** What a hand takes hold of: the point that was grabbed, and those about it. None where that guide is no more. */
function gripped(
  { guide, along, reach }: StrandPull,
  { picked, guides, moved, standIns }: StrandsLayout,
  { first }: Strands,
): Grip['points'] {
  const g = picked.indexOf(guide);
  if (g < 0) return [];
  const at = (of: number, i: number) => guides[of]!.subarray(3 * i + 3, 3 * i + 6);
  const links = (k: number) => first[k + 1]! - first[k]!;
  const strand = standIns[g]!;
  const grabbed = Math.max(0, Math.round(along * links(strand)) - 1);
  const place = at(g, Math.min(grabbed, guides[g]!.length / 3 - 2));
  const out = [{ strand, point: first[strand]! + grabbed, share: 1 }];
  for (let k = 0; k < moved.length; k++)
    for (let i = 0; i < links(k); i++) {
      const far = Math.sqrt(at(moved[k]!, i).reduce((sum, x, a) => sum + (x - place[a]!) ** 2, 0));
      const point = first[k]! + i;
      if (far < reach && point !== out[0]!.point) out.push({ strand: k, point, share: 1 - far / reach });
    }
  return out;
}
