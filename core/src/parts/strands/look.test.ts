import { describe, expect, it } from 'vitest';
import { nodeNamed } from '../../../test/figure';
import { character } from '../../../test/poncho';
import { growGuides } from './grow';
import { lengthOfGuide } from './groom';
import { restPlaces } from './layout';
import { drawnPoints, layLook, planLook } from './look';
import { Look } from './shared';

const { node } = nodeNamed(character, 'fringe scalp mesh');
const skin = restPlaces(character, node, 1);
const growth = { count: 30, length: 0.1, points: 9, lean: 0.3, seed: 3, mirrored: false };
const guides = growGuides(character, node, 1, [0, -1, 0], growth, null);
const look = (more: Partial<Look> = {}) => Look.parse({ strands: 200, frizz: 0, clump: 0, ...more });

/** Strands of a look along guides at rest: places of their points. */
function strandsOf(own: Look, along = guides): Float64Array[] {
  const plan = planLook(character, node, 1, along, own);
  const points = drawnPoints(own);
  const out = new Float32Array(3 * points * plan.strands);
  const curves = Float64Array.from(along.flatMap((g) => [...g]));
  layLook(out, plan, own, curves, skin);
  return Array.from({ length: plan.strands }, (_, s) =>
    Float64Array.from(out.subarray(3 * points * s, 3 * points * (s + 1))),
  );
}
const far = (a: ArrayLike<number>, i: number, b: ArrayLike<number>, j: number) =>
  Math.hypot(...[0, 1, 2].map((k) => a[3 * i + k]! - b[3 * j + k]!));

describe('the look of hair', () => {
  it('is as many strands as are asked, on the skin among the guides, as long as they are, the same every time', () => {
    const all = strandsOf(look());
    expect(all.length).toBe(200);
    for (const s of all) {
      expect(Math.min(...guides.map((g) => far(s, 0, g, 0)))).toBeLessThan(0.05);
      expect(lengthOfGuide(s) / 0.1).toBeGreaterThan(0.6);
      expect(lengthOfGuide(s) / 0.1).toBeLessThan(1.05);
    }
    expect(strandsOf(look())).toEqual(all);
    expect(strandsOf(look(), [])).toEqual([]);
  });

  it('stands about one guide as a tuft, as wide as its spread says', () => {
    const [one] = guides;
    const wide = (spread: number) =>
      Math.max(...strandsOf(look({ spread, strands: 80 }), [one!]).map((s) => far(s, 0, one!, 0)));
    expect(strandsOf(look({ strands: 80 }), [one!]).length).toBe(80);
    expect(wide(1)).toBeLessThan(0.0121);
    expect(wide(2) / wide(1)).toBeGreaterThan(1.6);
  });

  it('curls round, as wide and as often as asked, in the part of the length that is said, and nowhere else', () => {
    const [one] = guides;
    const curled = look({ curl: 0.01, turns: 3, curlFrom: 0.33, curlTo: 0.67, strands: 20 });
    const points = drawnPoints(curled);
    expect(points).toBeGreaterThan(50);
    expect(drawnPoints(look())).toBe(9);
    const all = strandsOf(curled, [one!]);
    // The same strands without curl, with as many points: a curl too small to see.
    const plain = strandsOf({ ...curled, curl: 1e-9 }, [one!]);
    all.forEach((s, k) => {
      const off = Array.from({ length: points }, (_, j) => far(s, j, plain[k]!, j));
      const at = (t: number) => Math.round(t * (points - 1));
      for (let j = 0; j < at(0.25); j++) expect(off[j]).toBeLessThan(1e-6);
      for (let j = at(0.8); j < points; j++) expect(off[j]).toBeLessThan(1e-6);
      expect(Math.max(...off)).toBeCloseTo(0.01, 4);
      // It goes round: successive points of it turn by what three turns make of their part of the length.
      const way = (j: number) => [0, 1, 2].map((a) => s[3 * j + a]! - plain[k]![3 * j + a]!);
      const [a, b] = [way(at(0.48)), way(at(0.48) + 1)];
      const cos = a.reduce((sum, x, i) => sum + x * b[i]!, 0) / (Math.hypot(...a) * Math.hypot(...b));
      const shorter = lengthOfGuide(plain[k]!) / lengthOfGuide(one!);
      const turned = (2 * Math.PI * 3 * Math.min(1.12, shorter)) / (0.34 * (points - 1));
      expect(Math.acos(Math.min(1, cos)) / turned).toBeGreaterThan(0.8);
      expect(Math.acos(Math.min(1, cos)) / turned).toBeLessThan(1.2);
    });
  });

  it('draws together toward the guides where it clumps, and strays where it is frizzy', () => {
    const tips = (own: Look) =>
      strandsOf(own).map((s) =>
        Math.min(...guides.map((g) => far(s, s.length / 3 - 1, g, g.length / 3 - 1))),
      );
    const mean = (list: readonly number[]) => list.reduce((s, x) => s + x, 0) / list.length;
    expect(mean(tips(look({ clump: 1 })))).toBeLessThan(0.6 * mean(tips(look())));
    expect(mean(tips(look({ frizz: 0.5 })))).toBeGreaterThan(1.2 * mean(tips(look())));
  });

  it('keeps a parting: no strand goes between guides that leave the skin to both sides', () => {
    const root = guides[0]!.slice(0, 3);
    const sides = [-1, 1].flatMap((side) =>
      [0, 1, 2].map((k) =>
        Float64Array.from(
          { length: 27 },
          (_, o) => root[o % 3]! + (o % 3 === 0 ? side * (0.004 + 0.01 * Math.floor(o / 3)) : 0.003 * k),
        ),
      ),
    );
    for (const s of strandsOf(look({ spread: 2 }), sides)) {
      const across = Math.abs(s[3 * 8]! - s[0]!);
      expect(across).toBeGreaterThan(0.05);
    }
  });
});
