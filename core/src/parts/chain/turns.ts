import { matCompose, matMultiply, quatBetween, quatMultiply, quatRotate, quatSlerp } from '../../math/index';
import type { Character, Pose } from '../../character/index';
import type { ChainLayout } from './layout';

const local = new Float64Array(16);
const turn = new Float64Array(4);
const mixed = new Float64Array(4);
const aim = new Float64Array(3);
const placed = new Float64Array(3);

/** What the turns of a chain need to know, whatever the frame; arrays are per node of the character. */
export interface TurnsInput {
  readonly character: Character;
  readonly layout: ChainLayout;
  /** Simulated points 0..n of the chain, m. */
  readonly points: Float64Array;
  /** World matrices; those above the chain are filled in, the chain's own are written as they are shown. */
  readonly world: Float64Array;
  /** World matrix of the file's own space, for a joint without a parent. */
  readonly root: Float64Array;
  readonly stretch: boolean;
}

/**
 * Joint rotations (and translations, where links stretch) of a chain from its simulated points.
 *
 * Each joint gets the smallest turn, in its parent's space, from where its source points to where the simulated link
 * points, on top of its source rotation: twist follows the source, and since turns are relative to the link before,
 * they stay small and nothing flips. Non-uniform scale above a joint is respected: the turn is found in the space
 * where it will be applied. `pose` is the source's; `mix` (0..1) is how much of the simulation shows. Writes 4 numbers a
 * joint to `rotations` at `ro`, 3 to `translations` at `to`, and fills `world` for the chain's joints.
 */
export function writeTurns(
  a: TurnsInput,
  pose: Pose,
  mix: number,
  rotations: Float64Array,
  ro: number,
  translations: Float64Array,
  to: number,
): void {
  const { character, points, world, stretch } = a;
  const { t: places, r: turnsOf, s: scales } = pose;
  const { joints, tip } = a.layout;
  const n = joints.length;
  let ratio = 1;
  for (let i = 0; i < n; i++) {
    const node = joints[i]!;
    const parent = i > 0 ? joints[i - 1]! : character.nodes[node]!.parent;
    const above = parent < 0 ? a.root : world;
    const p = parent < 0 ? 0 : 16 * parent;
    // Inverse of the parent's 3×3 (columns a, b, c): its rows are b×c, c×a and a×b over the determinant.
    const ax = above[p]!,
      ay = above[p + 1]!,
      az = above[p + 2]!,
      bx = above[p + 4]!,
      by = above[p + 5]!,
      bz = above[p + 6]!,
      cx = above[p + 8]!,
      cy = above[p + 9]!,
      cz = above[p + 10]!;
    const nx = by * cz - bz * cy,
      ny = bz * cx - bx * cz,
      nz = bx * cy - by * cx;
    const determinant = ax * nx + ay * ny + az * nz;
    const invertible = Math.abs(determinant) > 1e-30;
    const per = invertible ? 1 / determinant : 0;
    const mx = (cy * az - cz * ay) * per,
      my = (cz * ax - cx * az) * per,
      mz = (cx * ay - cy * ax) * per,
      ox = (ay * bz - az * by) * per,
      oy = (az * bx - ax * bz) * per,
      oz = (ax * by - ay * bx) * per;
    for (let k = 0; k < 3; k++) placed[k] = places[3 * node + k]! * ratio;
    if (i === 0 && stretch && invertible) {
      // The root may have left its place.
      const rx = points[0]! - above[p + 12]!,
        ry = points[1]! - above[p + 13]!,
        rz = points[2]! - above[p + 14]!;
      placed[0] = (nx * rx + ny * ry + nz * rz) * per;
      placed[1] = mx * rx + my * ry + mz * rz;
      placed[2] = ox * rx + oy * ry + oz * rz;
    }
    const tt = to + 3 * i;
    for (let k = 0; k < 3; k++) {
      const t = places[3 * node + k]!;
      translations[tt + k] = stretch ? t + (placed[k]! - t) * mix : t;
    }

    // The link's end in the joint's own space, then its direction in the parent's space as the source has it.
    const end = i + 1 < n ? 3 * joints[i + 1]! : 0;
    const e = i + 1 < n ? places : tip;
    for (let k = 0; k < 3; k++) aim[k] = scales[3 * node + k]! * e[end + k]!;
    quatRotate(aim, 0, turnsOf, 4 * node, aim, 0);
    const sx = aim[0]!,
      sy = aim[1]!,
      sz = aim[2]!;
    const ls = Math.sqrt(sx * sx + sy * sy + sz * sz);
    const wx = points[3 * i + 3]! - points[3 * i]!,
      wy = points[3 * i + 4]! - points[3 * i + 1]!,
      wz = points[3 * i + 5]! - points[3 * i + 2]!;
    const dx = (nx * wx + ny * wy + nz * wz) * per;
    const dy = mx * wx + my * wy + mz * wz;
    const dz = ox * wx + oy * wy + oz * wz;
    const ld = Math.sqrt(dx * dx + dy * dy + dz * dz);
    const moved = invertible && ls > 1e-12 && ld > 1e-12;
    if (moved) {
      const ps = 1 / ls;
      const pd = 1 / ld;
      quatBetween(turn, 0, sx * ps, sy * ps, sz * ps, dx * pd, dy * pd, dz * pd);
      quatMultiply(turn, 0, turn, 0, turnsOf, 4 * node);
    } else {
      for (let k = 0; k < 4; k++) turn[k] = turnsOf[4 * node + k]!;
    }
    matCompose(local, 0, placed, 0, turn, 0, scales, 3 * node);
    matMultiply(world, 16 * node, above, p, local, 0);
    ratio = stretch && moved ? ld / ls : 1;
    if (mix < 1) quatSlerp(mixed, 0, turnsOf, 4 * node, turn, 0, mix);
    const q = mix < 1 ? mixed : turn;
    for (let k = 0; k < 4; k++) rotations[ro + 4 * i + k] = q[k]!;
  }
  if (mix === 1) return;
  // What is shown is the mix: so are the places of what hangs below.
  for (let i = 0; i < n; i++) {
    const node = joints[i]!;
    const parent = i > 0 ? joints[i - 1]! : character.nodes[node]!.parent;
    matCompose(local, 0, translations, to + 3 * i, rotations, ro + 4 * i, scales, 3 * node);
    matMultiply(world, 16 * node, parent < 0 ? a.root : world, parent < 0 ? 0 : 16 * parent, local, 0);
  }
}
