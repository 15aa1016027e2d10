import { describe, expect, it } from 'vitest';
import { mulberry32 } from '../math/index';
import {
  CONTACT_ROW,
  NO_FEEL,
  chainNumbers,
  lumpMasses,
  makeArena,
  makeChainSolver,
  type ChainSolver,
} from './index';

const random = mulberry32(5);

/** A chain of any curl, pushed off its source at random, without gravity: all it has is what the push gave. */
function pushed(
  links: number,
  curl: number,
  feel: { bend: number; hold: number; damping: number },
): ChainSolver {
  const length = 0.1 + random();
  const lengths = new Float64Array(links).fill(length / links);
  const s = makeChainSolver({ lengths, masses: lumpMasses(lengths, 0.1) }, { ...NO_FEEL, ...feel }, 1 / 240);
  const p = [0, 0, 0];
  let a = 0;
  let b = 0;
  for (let i = 0; i < links; i++) {
    const d = [Math.cos(a) * Math.cos(b), Math.sin(a) * Math.cos(b), Math.sin(b)];
    for (let k = 0; k < 3; k++) p[k]! += (d[k]! * length) / links;
    s.source.set(p, 3 * i + 3);
    s.sourceTurn.set([0, 0, 0, 1], 4 * i);
    a += curl / links;
    b = 0.3 * Math.sin(i);
  }
  // Each link turns at a rate of its own, so that the push keeps the lengths.
  const v = new Float64Array(3 * links + 3);
  for (let i = 0; i < links; i++) {
    const w = [random() - 0.5, random() - 0.5, random() - 0.5].map((x) => x * 20);
    const u = [0, 1, 2].map((k) => s.source[3 * i + 3 + k]! - s.source[3 * i + k]!);
    for (let k = 0; k < 3; k++)
      v[3 * i + 3 + k] =
        v[3 * i + k]! + w[(k + 1) % 3]! * u[(k + 2) % 3]! - w[(k + 2) % 3]! * u[(k + 1) % 3]!;
  }
  s.reset(v);
  return s;
}

describe('energy of a pushed chain', () => {
  it('is never more than the push gave, straight or curled up to two whole turns, whatever the stiffness', () => {
    for (let n = 0; n < 80; n++) {
      const s = pushed(2 + Math.floor(random() * 30), random() * 4 * Math.PI, {
        bend: 0.5 + random() * 20,
        hold: random() < 0.5 ? 0 : random() * 5,
        damping: random() < 0.5 ? 0 : random(),
      });
      const start = s.kinetic();
      for (let k = 0; k < 600; k++) {
        s.step();
        expect(s.kinetic()).toBeLessThan(1.02 * start);
      }
    }
  });
  it('dies away with damping', () => {
    const s = pushed(10, 1, { bend: 2, hold: 1, damping: 0.5 });
    for (let k = 0; k < 4; k++) s.step();
    const start = s.kinetic();
    for (let k = 0; k < 960; k++) s.step();
    expect(s.kinetic()).toBeLessThan(1e-4 * start);
  });
  it('a link of a chain that has been turned over keeps its length to the last bits', () => {
    const s = pushed(6, 0, { bend: 0, hold: 0, damping: 0 });
    const l = Math.hypot(...[0, 1, 2].map((k) => s.source[3 + k]! - s.source[k]!));
    for (let k = 0; k < 500; k++) s.step();
    for (let i = 0; i < 6; i++)
      expect(Math.hypot(...[0, 1, 2].map((k) => s.x[3 * i + 3 + k]! - s.x[3 * i + k]!))).toBeCloseTo(l, 12);
  });
});

describe('the compiled step', () => {
  it('gives the bits of the reference, whatever the chain', () => {
    for (let n = 0; n < 60; n++) {
      const links = 1 + Math.floor(random() * 24);
      const lengths = Float64Array.from({ length: links }, () => 0.02 + random() * 0.1);
      const feel = {
        ...NO_FEEL,
        angleLimit: random() < 0.7 ? 180 : 10 + random() * 90,
        planar: random() < 0.3,
        profiles: random() < 0.5 ? {} : { hold: lengths.map(random), stretch: lengths.map(random) },
        hold: random() < 0.3 ? 0 : random() * 20,
        bend: random() < 0.3 ? 0 : random() * 20,
        damping: random() < 0.3 ? 0 : random() * 2,
        stretch: random() < 0.5 ? 0 : random() * 0.5,
        gravity: [random() - 0.5, -9.81 * random(), random() - 0.5] as const,
      };
      const arena = makeArena(chainNumbers(links));
      const [a, b] = [null, arena].map((m) =>
        makeChainSolver({ lengths, masses: lumpMasses(lengths, 0.1) }, feel, 1 / 200, m),
      ) as [ChainSolver, ChainSolver];
      const speed = random() * 0.2;
      // A floor that drags along, and a hand that pulls.
      const [air, floor, hand] = [random() < 0.3, random() < 0.4, random() < 0.3];
      const touching = (s: ChainSolver) => {
        let used = 0;
        for (let i = 0; i < links && floor; i++) {
          const anchor = [1, 2, 3].map((_, c) => s.x[3 * i + 3 + c]! - s.x[c]!);
          const offset = -0.05 - s.x[1]!;
          s.contact.set(
            [i, 1, 0, 1, 0, offset, s.hardness(), 0.4, ...anchor, 0, 0, 0, 0, 0, 0, 0, s.hardness() * 1e-3],
            used++ * CONTACT_ROW,
          );
        }
        if (hand)
          s.contact.set(
            [links - 1, 0.5, 0, 0, 0, 0, 0.01, 0, 0.1, 0.2, 0, 0, 0, 1, 0, 0, 0, 0, 0],
            used++ * CONTACT_ROW,
          );
        s.setContacts(used);
      };
      for (let k = 0; k < 120; k++) {
        for (const s of [a, b]) {
          const angle = speed * k;
          let x = 0.1 * Math.sin(0.3 * k);
          let y = 0;
          s.source.set([x, y, 0]);
          for (let i = 0; i < links; i++) {
            x += lengths[i]! * Math.cos(angle + 0.2 * i);
            y += lengths[i]! * Math.sin(angle + 0.2 * i);
            s.source.set([x, y, 0.01 * i], 3 * i + 3);
            s.sourceTurn.set([0, 0, Math.sin(angle / 2), Math.cos(angle / 2)], 4 * i);
          }
          if (k === 0) {
            s.reset(new Float64Array(3 * links + 3));
            s.plane.set([0, 0.6, 0.8]);
            s.grip.fill(air ? 0.02 : 0);
            s.setAiry(air);
          }
          touching(s);
          s.setOrder(k % 7 === 3 ? 1 : 2);
          s.step();
        }
        expect(
          Buffer.from(Float64Array.from(b.x).buffer).equals(Buffer.from(Float64Array.from(a.x).buffer)),
          `trial ${n}, step ${k}`,
        ).toBe(true);
      }
      expect(b.iterations()).toBe(a.iterations());
    }
  });
});
