import { blowStrands } from '../src/parts/strands/air';
import { atMost, judge, type TruthRow } from './row';
import { FEEL, G, one, rootAt, shape } from './strandRig';

/** 5: lengths in a hard swing. */
export function strandLengths(): TruthRow[] {
  const strand = one(shape(40, 1), { bend: 0.2, gravity: [0, -G, 0], keeps: 0 }, 1 / 240);
  let most = 0;
  for (let k = 1; k < 960; k++) {
    strand.predict(rootAt(0.5 * Math.sin(k / 25), 0, 0, Math.sin(k / 30)), [0, -G, 0], 1, 1);
    strand.solve(0);
    for (let i = 0; i < 40; i++) {
      const d = [0, 1, 2].map((a) => strand.x[3 * i + a]! - (i > 0 ? strand.x[3 * i + a - 3]! : 0));
      most = Math.max(most, Math.abs(Math.hypot(...d) * 40 - 1));
    }
  }
  return [atMost(5, 'strand of 40 links, length error in a hard swing', most, 0.005)];
}

/** 17: a level strand whose root falls at its terminal speed falls with it; a little slower, and it hangs below. */
export function strandFalls(): TruthRow[] {
  const [h, n, long] = [1 / 240, 12, 0.3];
  const [thickness, density, drag] = [4e-3, 1.2, 1.5];
  const level = {
    lengths: new Float64Array(n).fill(long / n),
    directions: Float64Array.from({ length: 3 * n }, (_, k) => (k % 3 === 0 ? 1 : 0)),
  };
  const hangs = (speed: number): number => {
    const strand = one(level, { gravity: [0, -G, 0], keeps: 0 }, h);
    const at = rootAt(0);
    const before = rootAt(0, speed * h);
    strand.begin(at, before);
    for (let k = 1; k <= 120; k++) {
      blowStrands(strand, null, {
        ...{ per: (density * drag * thickness) / FEEL.weight, lift: 0 },
      });
      strand.predict(rootAt(0, -speed * h * k), [0, -G, 0], 1, 1);
      strand.solve(0);
    }
    return strand.x[3 * (n - 1) + 1]!;
  };
  let [low, high] = [0.5, 20];
  for (let k = 0; k < 30; k++) {
    const mid = (low + high) / 2;
    // Where it falls too slowly, what is free of the root runs ahead.
    if (hangs(mid) < 0) low = mid;
    else high = mid;
  }
  const terminal = Math.sqrt((2 * FEEL.weight * G) / (density * drag * thickness));
  return [judge(17, 'strand that falls level: its terminal speed, m/s', terminal, low, 0.02, true)];
}
