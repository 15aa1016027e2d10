import type { ChainSettingKey } from '@oscillum/core/chain';

const W = 64;
const H = 36;

/** An answer over time to a quick turn: to the new pose, past it, and home. */
function answer(hz: number, damping: number, from = 4, late = 0): string {
  const points = Array.from({ length: 29 }, (_, k) => {
    const t = Math.max(0, k / 28 - late);
    const y = 1 - Math.exp(-damping * 9 * t) * Math.cos(hz * 9 * t);
    return `${(from + (k / 28) * (W - 8)).toFixed(1)} ${(H - 5 - 17 * y).toFixed(1)}`;
  });
  return `M${points.join('L')}`;
}

/** A chain from the left: out by x, down by y, with a bow. */
const chain = (x: number, y: number, bow = 0, x0 = 5, y0 = 8): string =>
  `M${x0} ${y0}Q${x0 + x / 2 - bow} ${y0 + y / 2 + bow} ${x0 + x} ${y0 + y}`;
const circle = (x: number, y: number, r: number): string =>
  `M${x - r} ${y}a${r} ${r} 0 1 0 ${2 * r} 0a${r} ${r} 0 1 0 ${-2 * r} 0`;
const ground = `M2 ${H - 3}H${W - 2}`;

/** What little and what much of each setting looks like. */
const SKETCHES: Record<ChainSettingKey, readonly [less: string, more: string]> = {
  amount: [`M4 18H60`, `M4 18C16 4 24 4 32 18S48 32 60 18`],
  hold: [answer(0.8, 0.25), answer(2.2, 0.25)],
  delayPerJoint: [answer(1.5, 0.4), answer(1.5, 0.4, 4, 0.25)],
  travel: [chain(48, 6, 2), `M5 8Q26 34 34 6T58 20`],
  turn: [chain(40, 4, 2, 10, 18), `M10 18Q34 18 40 4`],
  bend: [chain(46, 20, -10), chain(50, 2, 0)],
  damping: [answer(2, 0.08), answer(2, 0.9)],
  stretch: [chain(26, 18), chain(50, 22)],
  stretchSoftness: [`M5 8L24 12L30 30L56 32`, chain(51, 24, 6)],
  overlap: [`M4 18Q20 14 32 18T60 18`, `M4 18Q16 4 30 18T60 18`],
  overlapGain: [`M4 18Q12 6 20 18T36 18T60 18`, `M4 18Q12 14 20 18T38 18Q50 -6 60 18`],
  overlapLag: [answer(1.2, 0.3), answer(1.2, 0.3, 4, 0.35)],
  gravity: [chain(50, 4), chain(22, 24, 6)],
  weight: [circle(50, 16, 3), circle(50, 16, 9)],
  drag: [chain(10, 24), chain(46, 12, 4)],
  lift: [chain(46, 18), `M5 20Q28 26 56 6`],
  thickness: [`M8 18H56${circle(32, 18, 1.5)}`, `M14 9H50a9 9 0 0 1 0 18H14a9 9 0 0 1 0-18`],
  friction: [`${ground}M6 30L58 30`, `${ground}M6 30L20 30M24 30L30 30M33 30L36 30`],
  bounce: [`${ground}M6 6L22 31Q34 27 46 31`, `${ground}M6 6L22 31Q36 -4 50 31`],
  angleLimit: [`M8 18L56 14M8 18L56 22`, `M8 18L40 2M8 18L40 34`],
  rootSlide: [`M6 18H12${chain(40, 6, 4, 12, 18)}`, `M6 18H12M20 18${chain(36, 6, 4, 20, 18)}`],
};

/** A tiny drawing of a setting: a little of it dashed, much of it drawn out. */
export function Sketch({ name }: { name: ChainSettingKey }) {
  const [less, more] = SKETCHES[name];
  return (
    <svg className="sketch" viewBox={`0 0 ${W} ${H}`} width={W * 1.5} height={H * 1.5} aria-hidden>
      <path className="less" d={less} />
      <path className="more" d={more} />
    </svg>
  );
}
