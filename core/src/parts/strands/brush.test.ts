import { describe, expect, it } from 'vitest';
import { nodeNamed } from '../../../test/figure';
import { character } from '../../../test/poncho';
import { makePose, meshTriangles, restWorld } from '../../character/index';
import { makeSurface } from '../../solver/index';
import { combHair, COMBS, mirroredOnto, mirrorPartners, resample, type Comb, type Combed } from './brush';
import { growGuides } from './grow';
import { layOutStrands, restPlaces } from './layout';
import { posedHair } from './posed';
import { lengthOfGuide, makeGroom, makeStrandsPart } from './shared';

/** Straight guides that stand side by side along x, 10 cm up, with 6 points each. */
function row(guides: number): Combed {
  const first = Int32Array.from({ length: guides + 1 }, (_, g) => 6 * g);
  const places = Float64Array.from({ length: 18 * guides }, (_, o) => {
    const [i, a] = [Math.floor(o / 3), o % 3];
    return a === 0 ? 0.02 * Math.floor(i / 6) : a === 1 ? 0.02 * (i % 6) : 0;
  });
  const normals = Float64Array.from({ length: 3 * guides }, (_, o) => (o % 3 === 1 ? 1 : 0));
  return { places, first, normals, frozen: new Set() };
}
const guideOf = ({ places, first }: Combed, g: number) => places.subarray(3 * first[g]!, 3 * first[g + 1]!);
const tipOf = (hair: Combed, g: number) => [...guideOf(hair, g).slice(-3)];

/** Brushes all of it, so many times. */
function brush(hair: Combed, does: Comb, times = 1, felt = 1, way = [0.01, 0, 0]): number[] {
  const points = hair.places.length / 3;
  let changed: number[] = [];
  for (let k = 0; k < times; k++)
    changed = combHair(
      hair,
      {
        ...{ does, felt: new Float64Array(points).fill(felt) },
        way: Float64Array.from({ length: 3 * points }, (_, o) => way[o % 3]!),
        side: Float64Array.from({ length: points }, (_, i) => (hair.places[3 * i]! < 0.03 ? -1 : 1)),
        across: [1, 0, 0],
      },
      null,
    );
  return changed;
}

describe('a brush on hair', () => {
  it('combs toward where it goes; roots stay, and links keep their lengths to the last place', () => {
    const hair = row(3);
    const lengths = [0, 1, 2].map((g) => lengthOfGuide(guideOf(hair, g)));
    brush(hair, 'comb', 5);
    for (const g of [0, 1, 2]) {
      expect([...guideOf(hair, g).slice(0, 3)]).toEqual([0.02 * g, 0, 0]);
      expect(lengthOfGuide(guideOf(hair, g))).toBeCloseTo(lengths[g]!, 12);
      expect(tipOf(hair, g)[0]! - 0.02 * g).toBeGreaterThan(0.03);
    }
  });

  it('leaves what it does not reach and what is frozen as it is, to the bit', () => {
    const hair = { ...row(3), frozen: new Set([1]) };
    const before = hair.places.slice();
    for (const does of COMBS) expect(brush({ ...hair, places: before.slice() }, does, 1, 0)).toEqual([]);
    expect(brush(hair, 'comb')).toEqual([0, 2]);
    expect([...guideOf(hair, 1)]).toEqual([...before.subarray(18, 36)]);
  });

  it('lengthens a little with each touch, and cuts where it first reaches', () => {
    const hair = row(1);
    brush(hair, 'lengthen', 10);
    expect(lengthOfGuide(hair.places)).toBeCloseTo(0.1 * 1.04 ** 10, 6);
    const cut = row(1);
    const felt = Float64Array.of(0, 0, 0, 1, 1, 1);
    const none = new Float64Array(18);
    combHair(cut, { does: 'cut', felt, way: none, side: none, across: [1, 0, 0] }, null);
    expect(lengthOfGuide(cut.places)).toBeCloseTo(0.06, 9);
    expect(cut.first[1]).toBe(6);
  });

  it('lifts toward the normal, straightens, evens out, draws together, parts and twists', () => {
    const bent = () => {
      const hair = row(3);
      brush(hair, 'comb', 8, 1, [0.01, -0.006, 0]);
      return hair;
    };
    const height = (hair: Combed) => [0, 1, 2].reduce((s, g) => s + tipOf(hair, g)[1]!, 0);
    const reach = (hair: Combed) => {
      const g = guideOf(hair, 0);
      return Math.hypot(g[15]! - g[0]!, g[16]! - g[1]!, g[17]! - g[2]!);
    };
    const [as, lifted, straight] = [bent(), bent(), bent()];
    brush(lifted, 'lift', 6);
    expect(height(lifted)).toBeGreaterThan(1.1 * height(as));
    brush(straight, 'straighten', 12);
    expect(reach(straight)).toBeGreaterThan(reach(as));
    expect(reach(straight)).toBeGreaterThan(0.098);

    const kinked = row(1);
    for (let i = 1; i < 6; i++) kinked.places[3 * i] = i % 2 ? 0.004 : -0.004;
    const bends = (hair: Combed) => {
      const g = guideOf(hair, 0);
      let sum = 0;
      for (let i = 3; i < 15; i += 3) sum += Math.abs(g[i + 3]! + g[i - 3]! - 2 * g[i]!);
      return sum;
    };
    const rough = bends(kinked);
    brush(kinked, 'smooth', 4);
    expect(bends(kinked)).toBeLessThan(0.5 * rough);

    const width = (hair: Combed) => tipOf(hair, 2)[0]! - tipOf(hair, 0)[0]!;
    const [clumped, parted] = [row(3), row(3)];
    brush(clumped, 'clump', 8);
    expect(width(clumped)).toBeLessThan(0.6 * 0.04);
    brush(parted, 'part', 3);
    expect(width(parted)).toBeGreaterThan(1.5 * 0.04);

    const turned = bent();
    brush(turned, 'twist', 10);
    expect(Math.abs(tipOf(turned, 0)[2]!)).toBeGreaterThan(0.3 * (tipOf(as, 0)[0]! - 0));
    expect(lengthOfGuide(guideOf(turned, 0))).toBeCloseTo(0.1, 9);
  });

  it('keeps hair out of the head', () => {
    const { node } = nodeNamed(character, 'body mesh');
    const places = restPlaces(character, node, 1);
    const surface = makeSurface(places, meshTriangles(character, node).indices);
    const growth = { count: 30, length: 0.06, points: 8, lean: 0, seed: 1, mirrored: false };
    const guides = growGuides(character, node, 1, [0, -1, 0], growth, null);
    const first = Int32Array.from({ length: guides.length + 1 }, (_, g) => 8 * g);
    const hair: Combed = {
      places: Float64Array.from(guides.flatMap((g) => [...g])),
      ...{ first, normals: new Float64Array(3 * guides.length), frozen: new Set<number>() },
    };
    const points = hair.places.length / 3;
    const inward = Float64Array.from({ length: 3 * points }, (_, o) => -0.02 * Math.sign(hair.places[o]!));
    const felt = new Float64Array(points).fill(1);
    for (let k = 0; k < 4; k++)
      combHair(hair, { does: 'comb', felt, way: inward, side: felt, across: [1, 0, 0] }, surface);
    const found = new Float64Array(4);
    let deep = 0;
    for (let i = 0; i < points; i++) {
      if (i % 8 === 0) continue;
      surface.nearest(found, hair.places[3 * i]!, hair.places[3 * i + 1]!, hair.places[3 * i + 2]!);
      deep = Math.max(deep, -found[0]!);
    }
    expect(deep).toBeLessThan(0.004);
  });

  it('finds guides across the middle and gives them the same shape', () => {
    const growth = { count: 20, length: 0.05, points: 6, lean: 0.3, seed: 1, mirrored: true };
    const { node } = nodeNamed(character, 'body mesh');
    const guides = growGuides(character, node, 1, [0, -1, 0], growth, null);
    const partners = mirrorPartners(guides, 1e-4);
    partners.forEach((p, k) => expect(partners[p]).toBe(k));
    const bent = guides[0]!.map((x, o) => x + (o > 3 ? 0.001 * o : 0));
    const other = mirroredOnto(bent, guides[1]!);
    expect(lengthOfGuide(other)).toBeCloseTo(lengthOfGuide(bent), 3);
    expect([...other.slice(0, 3)]).toEqual([...guides[1]!.slice(0, 3)]);
    expect(other[15]! + bent[15]!).toBeCloseTo(0, 3);
  });
});

it('hair that is brushed on a pose comes back to rest as it was brushed', () => {
  const mesh = nodeNamed(character, 'body mesh');
  const growth = { count: 12, length: 0.05, points: 6, lean: 0.3, seed: 1, mirrored: false };
  const guides = growGuides(character, mesh.node, 1, [0, -1, 0], growth, null);
  const part = makeStrandsPart({ id: 'hair', name: 'Hair', mesh, groom: makeGroom(guides) });
  const layout = layOutStrands(character, part, 1);
  const hair = posedHair(layout, character, { pose: makePose(character), world: restWorld(character) });
  hair.toRest().forEach((g, k) => g.forEach((x, o) => expect(x).toBeCloseTo(layout.guides[k]![o]!, 6)));
  for (let i = hair.first[3]! + 1; i < hair.first[4]!; i++) hair.places[3 * i]! += 0.01;
  const back = hair.toRest();
  expect(back[3]![3]! - layout.guides[3]![3]!).toBeCloseTo(0.01, 6);
  // Laid from rest it stands there again.
  const there = hair.places.slice();
  hair.put(3, layout.guides[3]!);
  hair.put(3, back[3]!);
  hair.places.forEach((x, o) => expect(x).toBeCloseTo(there[o]!, 9));
  expect(resampled(back[3]!)).toBeCloseTo(lengthOfGuide(back[3]!), 2);
});

/** How long a line is once it has other points. */
function resampled(line: Float64Array): number {
  const out = new Float64Array(60);
  resample(out, 0, line, 20, lengthOfGuide(line));
  return lengthOfGuide(out);
}
