import { int } from '../numbers';
import type { ChainStep } from './fields';

/** Link vectors, lengths and unit directions of y; returns the largest relative departure from `aim`. */
export function readLinks(chain: ChainStep): number {
  const n = int(chain.n);
  const { length, aim, perAim, y, u, d, s } = chain;
  let worst: number = 0;
  for (let i = 0, o = 0; i < n; i++, o += 3) {
    const a = y[o]! - (i > 0 ? y[o - 3]! : 0),
      b = y[o + 1]! - (i > 0 ? y[o - 2]! : 0),
      c = y[o + 2]! - (i > 0 ? y[o - 1]! : 0);
    const l = Math.sqrt(a * a + b * b + c * c);
    u[o] = a;
    u[o + 1] = b;
    u[o + 2] = c;
    length[i] = l;
    if (l > 1e-9 * aim[i]!) {
      const per = 1 / l;
      d[o] = a * per;
      d[o + 1] = b * per;
      d[o + 2] = c * per;
    } else {
      d[o] = s[o]!;
      d[o + 1] = s[o + 1]!;
      d[o + 2] = s[o + 2]!;
    }
    const e = Math.abs(l * perAim[i]! - 1);
    if (e > worst) worst = e;
  }
  return worst;
}

/** Directions kept in their cones, and parallel to the plane as far as their source is. */
export function confine(chain: ChainStep): void {
  const n = int(chain.n);
  const { cone, plane, d, s } = chain;
  for (let i = 0, o = 0; i < n; i++, o += 3) {
    if (chain.planar > 0) {
      const px = plane[0]!,
        py = plane[1]!,
        pz = plane[2]!;
      const off = d[o]! * px + d[o + 1]! * py + d[o + 2]! * pz;
      const kept = s[o]! * px + s[o + 1]! * py + s[o + 2]! * pz;
      const ax = d[o]! - off * px,
        ay = d[o + 1]! - off * py,
        az = d[o + 2]! - off * pz;
      const l = Math.sqrt(ax * ax + ay * ay + az * az);
      if (l > 1e-9) {
        const per = Math.sqrt(Math.max(0, 1 - kept * kept)) / l;
        d[o] = ax * per + kept * px;
        d[o + 1] = ay * per + kept * py;
        d[o + 2] = az * per + kept * pz;
      }
    }
    const least = cone[i]!;
    const c = d[o]! * s[o]! + d[o + 1]! * s[o + 1]! + d[o + 2]! * s[o + 2]!;
    if (c >= least) continue;
    const ax = d[o]! - c * s[o]!,
      ay = d[o + 1]! - c * s[o + 1]!,
      az = d[o + 2]! - c * s[o + 2]!;
    const l = Math.sqrt(ax * ax + ay * ay + az * az);
    const per = l > 1e-12 ? Math.sqrt(1 - least * least) / l : 0;
    d[o] = least * s[o]! + per * ax;
    d[o + 1] = least * s[o + 1]! + per * ay;
    d[o + 2] = least * s[o + 2]! + per * az;
  }
}

/** y from directions and lengths, root to tip. */
export function relay(chain: ChainStep): void {
  const n = int(chain.n);
  const { limits, length, aim, y, d } = chain;
  for (let i = 0, o = 0; i < n; i++, o += 3) {
    const share = limits[i]!;
    const l = Math.min(Math.max(length[i]!, aim[i]! * (1 - share)), aim[i]! * (1 + share));
    y[o] = l * d[o]! + (i > 0 ? y[o - 3]! : 0);
    y[o + 1] = l * d[o + 1]! + (i > 0 ? y[o - 2]! : 0);
    y[o + 2] = l * d[o + 2]! + (i > 0 ? y[o - 1]! : 0);
  }
}
