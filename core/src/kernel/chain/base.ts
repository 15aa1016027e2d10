import { int } from '../numbers';
import type { Floats, Index } from '../numbers';
import { HARD, ROW } from './fields';
import type { ChainStep } from './fields';

/** Adds a stiffness of link vector i to a band, the same on each axis. */
export function addLink(to: Floats, i: Index, weight: number): void {
  for (let c = 0; c < 3; c++) {
    const at = (3 * i + c) * ROW;
    to[at]! += weight;
    if (i > 0) {
      to[at - 24]! -= weight;
      to[at - 3 * ROW]! += weight;
    }
  }
}

/** Builds `base` and `lengthwise` for the order in use; returns the largest number of `base`. */
export function buildBase(chain: ChainStep): number {
  const n = int(chain.n);
  const n3 = 3 * n;
  const { H, touch, rest, mass, hold, bend, dampMass, dampStiff, lengthwise, compliance, base } = chain;
  for (let k = 0; k < n3 * ROW; k++) base[k] = 0;
  for (let i = 0; i < n; i++) {
    for (let c = 0; c < 3; c++) base[(3 * i + c) * ROW]! += mass[i]! * (1 + touch * dampMass[i]!);
    addLink(base, i, (H + touch * dampStiff[i]!) * hold[i]!);
    if (chain.bending === 0) continue;
    const a = 1 / rest[i]!;
    const damp = touch * dampStiff[i]! * bend[i]!;
    if (i === 0) {
      addLink(base, 0, (H * bend[0]! + damp) * a * a);
      continue;
    }
    const b = 1 / rest[i - 1]!;
    for (let c = 0; c < 3; c++) {
      const at = (3 * i + c) * ROW;
      base[at]! += (damp + H * bend[i]!) * a * a;
      base[at - 24]! -= damp * a * (a + b);
      base[at - 3 * ROW]! += damp * (a + b) * (a + b);
      if (i > 1) {
        base[at - 48]! += damp * a * b;
        base[at - 3 * ROW - 24]! -= damp * b * (a + b);
        base[at - 6 * ROW]! += damp * b * b;
      }
    }
  }
  let stiffest: number = 0;
  for (let k = 0; k < n3 * ROW; k++) stiffest = Math.max(stiffest, base[k]!);
  // Without a stretch of its own a link is hard, even beside soft ones.
  for (let i = 0; i < n; i++) lengthwise[i] = compliance[i]! > 0 ? H / compliance[i]! : HARD * stiffest;
  return stiffest;
}
