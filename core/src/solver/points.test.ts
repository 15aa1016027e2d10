import { describe, expect, it } from 'vitest';
import { makeAir } from './air';
import { makeBody, type Body } from './bodies';
import { CONTACT, CONTACT_ROW, HOLDER_ROWS, mostContacts } from './contactRow';
import { makeChainContacts } from './contacts';
import type { SteppedPoints } from './points';
import { makeSearch } from './search';
import type { Shape } from './shapes';

/**
 * Points that are no chain: heavy beads on a thread that does nothing, each stepped by itself. A contact row pushes a
 * bead out to its half space, and takes the speed against it.
 */
class Beads implements SteppedPoints {
  readonly x: Float64Array;
  readonly v: Float64Array;
  readonly source: Float64Array;
  readonly aims: Float64Array;
  readonly mass: Float64Array;
  readonly fall: Float64Array;
  readonly grip: Float64Array;
  readonly contact: Float64Array;
  readonly memory: Float64Array;
  readonly before: Float64Array;
  private contacts = 0;
  h = 1 / 240;
  orders: number[] = [];

  constructor(readonly links: number) {
    const n3 = 3 * links + 3;
    this.memory = new Float64Array(2 * n3);
    this.before = new Float64Array(2 * n3);
    this.x = this.memory.subarray(0, n3);
    this.v = this.memory.subarray(n3);
    this.aims = new Float64Array(n3 + 4 * links);
    this.source = this.aims.subarray(0, n3);
    for (let k = n3 + 3; k < this.aims.length; k += 4) this.aims[k] = 1;
    this.mass = new Float64Array(links).fill(0.05);
    this.fall = new Float64Array(3 * links);
    this.grip = new Float64Array(links);
    this.contact = new Float64Array(CONTACT_ROW * mostContacts(links));
  }

  /** Beads in a row along x from a place, a step apart. */
  lay(x: number, y: number, z: number, apart: number): void {
    for (let p = 0; p <= this.links; p++) this.x.set([x + p * apart, y, z], 3 * p);
    this.source.set(this.x);
  }
  hardness = () => 1e6;
  setContacts(count: number): void {
    this.contacts = count;
  }
  setOrder(order: 1 | 2): void {
    this.orders.push(order);
  }
  setStep(seconds: number): void {
    this.h = seconds;
  }
  converged = () => true;
  forget(): void {}

  step(): void {
    this.before.set(this.memory);
    const { x, v, fall, contact, h } = this;
    for (let k = 3; k < x.length; k++) {
      v[k] = v[k]! + h * fall[k - 3]!;
      x[k] = x[k]! + h * v[k]!;
    }
    for (let r = 0; r < this.contacts * CONTACT_ROW; r += CONTACT_ROW) {
      const p = 3 * (contact[r]! + (contact[r + CONTACT.along]! > 0.5 ? 1 : 0));
      const n = contact.subarray(r + CONTACT.normal, r + CONTACT.normal + 3);
      const place = (a: number) => x[p + a]! - x[a]!;
      const gap = n[0]! * place(0) + n[1]! * place(1) + n[2]! * place(2) - contact[r + CONTACT.offset]!;
      // In units of a step: kg m, what moves the bead that far.
      contact[r + CONTACT.load] = gap < 0 && p > 0 ? -gap * this.mass[p / 3 - 1]! : 0;
      if (gap >= 0 || p === 0) continue;
      const against = Math.min(0, n[0]! * v[p]! + n[1]! * v[p + 1]! + n[2]! * v[p + 2]!);
      for (let a = 0; a < 3; a++) {
        x[p + a] = x[p + a]! - gap * n[a]!;
        v[p + a] = v[p + a]! - against * n[a]!;
        contact[r + CONTACT.force + a] = contact[r + CONTACT.load]! * n[a]!;
      }
    }
  }
}

const still = (shape: Shape, y: number): Body => {
  const body = makeBody(shape, 0.5, 0, null);
  body.now[1] = body.before[1] = y;
  return body;
};
const skin = (beads: Beads, thick: number) => ({
  thickness: new Float64Array(beads.links).fill(thick),
  friction: new Float64Array(beads.links).fill(0.5),
  bounce: 0,
});

describe('contacts of points that are no chain', () => {
  it('keep beads that fall off a ground, and say how many press and how hard', () => {
    const beads = new Beads(5);
    beads.lay(0, 0.2, 0, 0.1);
    for (let k = 1; k < beads.fall.length; k += 3) beads.fall[k] = -9.81;
    const contacts = makeChainContacts(beads, [still({ kind: 'ground' }, 0)], beads.h, 0.5);
    for (let k = 0; k < 240; k++) contacts.step(skin(beads, 0.01), (used) => used);
    for (let p = 1; p <= 5; p++) expect(beads.x[3 * p + 1], `bead ${p}`).toBeCloseTo(0.01, 3);
    // The root is carried: it stays where its source is.
    expect(beads.x[1]).toBe(0.2);
    expect(contacts.report.touching).toBeGreaterThanOrEqual(4);
    expect(contacts.report.load).toBeGreaterThan(0);
    expect(contacts.report.depth).toBeLessThan(1e-3);
  });

  it('let no bead through a ball, however fast it comes, in parts of a step if need be', () => {
    for (const speed of [1, 10, 60]) {
      const beads = new Beads(3);
      beads.lay(-0.15, 0.5, 0, 0.1);
      for (let p = 1; p <= 3; p++) beads.v[3 * p + 1] = -speed;
      const ball = still({ kind: 'sphere', radius: 0.2 }, 0);
      const contacts = makeChainContacts(beads, [ball], beads.h, 0.3);
      for (let k = 0; k < Math.ceil((0.6 * 240) / speed) + 2; k++) {
        contacts.step(skin(beads, 0.01), (used) => used);
        for (let p = 1; p <= 3; p++) {
          const away = Math.hypot(beads.x[3 * p]!, beads.x[3 * p + 1]!, beads.x[3 * p + 2]!);
          expect(away, `bead ${p} at ${speed} m/s, step ${k}`).toBeGreaterThan(0.2);
        }
      }
    }
  });

  it('push a free body by what presses on it, and it gives way', () => {
    const beads = new Beads(3);
    beads.lay(-0.15, 0.3, 0, 0.1);
    for (let p = 1; p <= 3; p++) beads.v[3 * p + 1] = -3;
    const body = makeBody({ kind: 'sphere', radius: 0.1 }, 0, 0, {
      ...{ mass: 0.2, velocity: [0, 0, 0], spin: [0, 0, 0] },
    });
    const contacts = makeChainContacts(beads, [body], beads.h, 0.3);
    for (let k = 0; k < 30; k++) contacts.step(skin(beads, 0.01), (used) => used);
    expect(body.free!.velocity[1]).toBeLessThan(-0.01);
    // Something that can give way is struck in steps of first order.
    expect(beads.orders).toContain(1);
  });

  it('leave room for ties and pulls after what touches, and begin anew where they remember', () => {
    const beads = new Beads(2);
    beads.lay(0, 0.012, 0, 0.1);
    const contacts = makeChainContacts(beads, [still({ kind: 'ground' }, 0)], beads.h, 0.2);
    let given = -1;
    contacts.step(skin(beads, 0.02), (used) => (given = used));
    expect(given).toBeGreaterThan(0);
    expect(given).toBeLessThanOrEqual(mostContacts(2) - HOLDER_ROWS);
    const memory = contacts.memory().map((a) => a.slice());
    contacts.step(skin(beads, 0.02), (used) => used);
    contacts.memory().forEach((a, i) => a.set(memory[i]!));
    expect(contacts.memory().map((a) => [...a])).toEqual(memory.map((a) => [...a]));
  });
});

describe('the air and the search of points that are no chain', () => {
  it('blow and look by places, speeds and masses alone', () => {
    const beads = new Beads(4);
    beads.lay(0, 1, 0, 0.1);
    const each = (x: number) => new Float64Array(4).fill(x);
    const air = makeAir(beads, null);
    const sail = { thickness: each(0.02), drag: each(1), lift: each(0), catches: true };
    air.blow(sail, 1.2, (out) => out.set([0, 0, 4, 0, 0, 0]));
    expect(Math.min(...[0, 1, 2, 3].map((p) => beads.fall[3 * p + 2]!))).toBeGreaterThan(0.1);
    const search = makeSearch(beads, [still({ kind: 'ground' }, 0)], 0.4, null);
    expect(search.run(each(0.02), beads.h)).toBe(0);
    for (let p = 1; p <= 4; p++) beads.v[3 * p + 1] = -250;
    expect(search.run(each(0.02), beads.h)).toBeGreaterThan(0);
  });
});
