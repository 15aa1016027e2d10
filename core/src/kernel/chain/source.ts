import { copy, int } from '../numbers';
import type { Index } from '../numbers';
import { blendRows } from '../rows';
import type { ChainStep } from './fields';

/** Row `entry` of the source motion, going on to the next by `share`. */
export function placeSource(chain: ChainStep, entry: Index, share: number): void {
  const n = int(chain.n);
  const n3 = 3 * n;
  const lastRow = int(chain.lastRow);
  const { source, sourceTurn, points, turnRows } = chain;
  blendRows(source, points, n3 + 3, lastRow, entry, share);
  blendRows(sourceTurn, turnRows, 4 * n, lastRow, entry, share);
  for (let k = 0; k < 4 * n; k += 4) {
    const qx = sourceTurn[k]!,
      qy = sourceTurn[k + 1]!,
      qz = sourceTurn[k + 2]!,
      qw = sourceTurn[k + 3]!;
    const per = 1 / Math.sqrt(qx * qx + qy * qy + qz * qz + qw * qw);
    sourceTurn[k] = qx * per;
    sourceTurn[k + 1] = qy * per;
    sourceTurn[k + 2] = qz * per;
    sourceTurn[k + 3] = qw * per;
  }
}

/** Source directions and the lengths to keep at the new moment. */
export function readSource(chain: ChainStep): void {
  const n = int(chain.n);
  const { rest, perRest, aim, perAim, source, s } = chain;
  for (let i = 0, o = 0; i < n; i++, o += 3) {
    const a = source[o + 3]! - source[o]!,
      b = source[o + 4]! - source[o + 1]!,
      c = source[o + 5]! - source[o + 2]!;
    const l = Math.sqrt(a * a + b * b + c * c);
    if (l > 1e-9 * rest[i]!) {
      const per = 1 / l;
      s[o] = a * per;
      s[o + 1] = b * per;
      s[o + 2] = c * per;
      aim[i] = l;
      perAim[i] = per;
    } else {
      aim[i] = rest[i]!;
      perAim[i] = perRest[i]!;
    }
  }
}

/** Past link vectors, turned with the source since, so that damping acts on motion relative to it only. */
export function carryPast(chain: ChainStep): void {
  const n = int(chain.n);
  const { sourceTurn, turnOld, past1, past2, carried } = chain;
  for (let i = 0, o = 0, t = 0; i < n; i++, o += 3, t += 4) {
    const ax = sourceTurn[t]!,
      ay = sourceTurn[t + 1]!,
      az = sourceTurn[t + 2]!,
      aw = sourceTurn[t + 3]!;
    const bx = -turnOld[t]!,
      by = -turnOld[t + 1]!,
      bz = -turnOld[t + 2]!,
      bw = turnOld[t + 3]!;
    const qx = aw * bx + ax * bw + ay * bz - az * by;
    const qy = aw * by - ax * bz + ay * bw + az * bx;
    const qz = aw * bz + ax * by - ay * bx + az * bw;
    const qw = aw * bw - ax * bx - ay * by - az * bz;
    const m00 = 1 - 2 * (qy * qy + qz * qz),
      m01 = 2 * (qx * qy - qz * qw),
      m02 = 2 * (qx * qz + qy * qw);
    const m10 = 2 * (qx * qy + qz * qw),
      m11 = 1 - 2 * (qx * qx + qz * qz),
      m12 = 2 * (qy * qz - qx * qw);
    const m20 = 2 * (qx * qz - qy * qw),
      m21 = 2 * (qy * qz + qx * qw),
      m22 = 1 - 2 * (qx * qx + qy * qy);
    const p = past1[o]!,
      q = past1[o + 1]!,
      r = past1[o + 2]!;
    const x1 = m00 * p + m01 * q + m02 * r,
      y1 = m10 * p + m11 * q + m12 * r,
      z1 = m20 * p + m21 * q + m22 * r;
    const p2 = past2[o]!,
      q2 = past2[o + 1]!,
      r2 = past2[o + 2]!;
    const x2 = m00 * p2 + m01 * q2 + m02 * r2,
      y2 = m10 * p2 + m11 * q2 + m12 * r2,
      z2 = m20 * p2 + m21 * q2 + m22 * r2;
    past1[o] = x1;
    past1[o + 1] = y1;
    past1[o + 2] = z1;
    carried[o] = (4 * x1 - x2) / 3;
    carried[o + 1] = (4 * y1 - y2) / 3;
    carried[o + 2] = (4 * z1 - z2) / 3;
  }
  copy(turnOld, sourceTurn, 4 * n);
}
