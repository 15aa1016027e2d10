import { matCompose, matMultiply, quatBetween, quatMultiply, quatRotate } from '../math/index';
import type { Arena } from './arena';

/** Joint rotations and places of a chain from its simulated points: one number list a kind, by link. */
export interface LinkTurns {
  /** Source locals of the joints: place (3 numbers each, file units), turn (4), scale (3). To be filled in before `find`. */
  readonly place: Float64Array;
  readonly turn: Float64Array;
  readonly scale: Float64Array;
  /** World matrices, 16 numbers each: first of what the chain hangs from (to be filled in), then of its joints. */
  readonly world: Float64Array;
  /** Found: local turns and places. */
  readonly turned: Float64Array;
  readonly placed: Float64Array;
  /** Finds turns, places and matrices; where links do not `stretch` places stay the source's. */
  find(stretch: boolean): void;
}

/**
 * Each joint gets the smallest turn, in its parent's space, from where its source points to where the simulated link
 * points, on top of its source rotation: twist follows the source, and since turns are relative to the link before, they
 * stay small and nothing flips. Non-uniform scale above a joint is respected: the turn is found in the space where it will
 * be applied. `points` (links + 1, m) are the chain's, `tip` the end of the last link in its joint's space. Compiled with
 * the chain's step when there is an arena, to the same bits.
 */
export function makeLinkTurns(points: Float64Array, tip: ArrayLike<number>, arena: Arena | null): LinkTurns {
  const links = points.length / 3 - 1;
  const make = (size: number) => (arena ? arena.alloc(size) : new Float64Array(size));
  // After the last joint's place stands that of the tip.
  const place = make(3 * links + 3);
  place.set(tip, 3 * links);
  const turn = make(4 * links);
  const scale = make(3 * links);
  const world = make(16 * links + 16);
  const turned = make(4 * links);
  const placed = make(3 * links);
  const local = make(16);
  const aim = make(3);
  let stretch = 0;

  // What stands up to "kernel: end" is also compiled (scripts/kernelSource.ts).
  // kernel: begin

  function turnLinks(): void {
    let ratio: number = 1;
    for (let i = 0; i < links; i++) {
      const p = 16 * i;
      const o = 3 * i;
      const q = 4 * i;
      // Inverse of the parent's 3×3 (columns a, b, c): its rows are b×c, c×a and a×b over the determinant.
      const ax = world[p]!,
        ay = world[p + 1]!,
        az = world[p + 2]!,
        bx = world[p + 4]!,
        by = world[p + 5]!,
        bz = world[p + 6]!,
        cx = world[p + 8]!,
        cy = world[p + 9]!,
        cz = world[p + 10]!;
      const nx = by * cz - bz * cy,
        ny = bz * cx - bx * cz,
        nz = bx * cy - by * cx;
      const determinant = ax * nx + ay * ny + az * nz;
      const invertible = Math.abs(determinant) > 1e-30;
      const per: number = invertible ? 1 / determinant : 0;
      const mx = (cy * az - cz * ay) * per,
        my = (cz * ax - cx * az) * per,
        mz = (cx * ay - cy * ax) * per,
        ox = (ay * bz - az * by) * per,
        oy = (az * bx - ax * bz) * per,
        oz = (ax * by - ay * bx) * per;
      placed[o] = place[o]! * ratio;
      placed[o + 1] = place[o + 1]! * ratio;
      placed[o + 2] = place[o + 2]! * ratio;
      if (i === 0 && stretch > 0 && invertible) {
        // The root may have left its place.
        const rx = points[0]! - world[12]!,
          ry = points[1]! - world[13]!,
          rz = points[2]! - world[14]!;
        placed[0] = (nx * rx + ny * ry + nz * rz) * per;
        placed[1] = mx * rx + my * ry + mz * rz;
        placed[2] = ox * rx + oy * ry + oz * rz;
      }
      // The link's end in the joint's own space, then its direction in the parent's space as the source has it.
      aim[0] = scale[o]! * place[o + 3]!;
      aim[1] = scale[o + 1]! * place[o + 4]!;
      aim[2] = scale[o + 2]! * place[o + 5]!;
      quatRotate(aim, 0, turn, q, aim, 0);
      const sx = aim[0]!,
        sy = aim[1]!,
        sz = aim[2]!;
      const ls = Math.sqrt(sx * sx + sy * sy + sz * sz);
      const wx = points[o + 3]! - points[o]!,
        wy = points[o + 4]! - points[o + 1]!,
        wz = points[o + 5]! - points[o + 2]!;
      const dx = (nx * wx + ny * wy + nz * wz) * per;
      const dy = mx * wx + my * wy + mz * wz;
      const dz = ox * wx + oy * wy + oz * wz;
      const ld = Math.sqrt(dx * dx + dy * dy + dz * dz);
      const moved = invertible && ls > 1e-12 && ld > 1e-12;
      if (moved) {
        const ps = 1 / ls;
        const pd = 1 / ld;
        quatBetween(turned, q, sx * ps, sy * ps, sz * ps, dx * pd, dy * pd, dz * pd);
        quatMultiply(turned, q, turned, q, turn, q);
      } else {
        for (let k = 0; k < 4; k++) turned[q + k] = turn[q + k]!;
      }
      matCompose(local, 0, placed, o, turned, q, scale, o);
      matMultiply(world, p + 16, world, p, local, 0);
      ratio = stretch > 0 && moved ? ld / ls : 1;
      if (stretch === 0) for (let k = 0; k < 3; k++) placed[o + k] = place[o + k]!;
    }
  }

  // kernel: end

  const header = arena?.header(2, [points, place, turn, scale, world, turned, placed, local, aim]);
  if (header) header[0] = links;

  return {
    place,
    turn,
    scale,
    world,
    turned,
    placed,
    find: (stretches) => {
      stretch = stretches ? 1 : 0;
      if (!header) return turnLinks();
      header[1] = stretch;
      arena!.turnLinks(header.byteOffset);
    },
  };
}
