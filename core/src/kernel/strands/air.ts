import { int } from '../numbers';
import { StrandStep } from './fields';

/** Air takes no more than this share of the speed against it in a step. */
const MOST: number = 0.5;

/**
 * Pushes points by the air across their links. What air of a speed across it slows a link by is per / 2 times the
 * square of that speed (a rod across a stream). `lift` is that share of it across the stream, in the plane of stream
 * and link, where the link stands aslant.
 */
export function blowStrands(step: StrandStep): void {
  const { first, turn, d, dx, went, wind, given, per, lift, h } = step;
  const most: number = MOST / h;
  for (let k = 0; k < int(step.strands); k++) {
    const m = 9 * k,
      r = 3 * k;
    for (let i = first[k]!; i < first[k + 1]!; i++) {
      const o = 3 * i;
      const ax = d[o]!,
        ay = d[o + 1]!,
        az = d[o + 2]!;
      const lx = turn[m]! * ax + turn[m + 1]! * ay + turn[m + 2]! * az,
        ly = turn[m + 3]! * ax + turn[m + 4]! * ay + turn[m + 5]! * az,
        lz = turn[m + 6]! * ax + turn[m + 7]! * ay + turn[m + 8]! * az;
      let ux = wind[o]! - (dx[o]! + went[r]!) / h,
        uy = wind[o + 1]! - (dx[o + 1]! + went[r + 1]!) / h,
        uz = wind[o + 2]! - (dx[o + 2]! + went[r + 2]!) / h;
      const along = ux * lx + uy * ly + uz * lz;
      const speed: number = lift > 0 ? Math.sqrt(ux * ux + uy * uy + uz * uz) : 0;
      if (speed > 1e-9) {
        // What hangs is lifted into the stream: −(l − (l·û) û)(l·û), as chains are.
        const c = along / speed;
        const q = Math.min((lift / 2) * speed, most) * c;
        given[o] = given[o]! - q * (lx * speed - c * ux);
        given[o + 1] = given[o + 1]! - q * (ly * speed - c * uy);
        given[o + 2] = given[o + 2]! - q * (lz * speed - c * uz);
      }
      ux -= along * lx;
      uy -= along * ly;
      uz -= along * lz;
      const by = Math.min((per / 2) * Math.sqrt(ux * ux + uy * uy + uz * uz), most);
      given[o] = given[o]! + by * ux;
      given[o + 1] = given[o + 1]! + by * uy;
      given[o + 2] = given[o + 2]! + by * uz;
    }
  }
}
