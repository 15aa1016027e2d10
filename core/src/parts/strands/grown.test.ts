import { describe, expect, it } from 'vitest';
import { makeFigure, nodeNamed } from '../../../test/figure';
import { boxMesh, placesOn, softBodies } from '../../../test/parcel';
import type { Character } from '../../character/index';
import { sizesOf, type Frames } from '../../frames/index';
import { parseShot, type Shot } from '../../shot/index';
import { simulateAll } from '../../simulate/index';
import { makeClothPart } from '../cloth/shared';
import { growGuides } from './grow';
import { makeGroom, makeStrandsPart, type StrandsPart } from './shared';

const LONG = 0.06;
const POINTS = 7;

/** Hair on a mesh. */
function hairOn(
  character: Character,
  mesh: string,
  count: number,
  settings: Partial<StrandsPart['settings']>,
): StrandsPart {
  const at = nodeNamed(character, mesh);
  const growth = { count, length: LONG, points: POINTS, lean: 0, seed: 2, mirrored: false };
  const guides = growGuides(character, at.node, 1, [0, -1, 0], growth, null);
  return makeStrandsPart({
    ...{ id: 'hair', name: 'Hair', mesh: at, groom: makeGroom(guides) },
    settings: { hold: 8, bend: 8, damping: 0.7, drag: 0, ...settings },
  });
}

/** Places of a part on a frame, m. */
function placesAt(frames: Frames, id: string, f: number): Float64Array {
  const part = frames.parts.findIndex((p) => p.partId === id);
  return placesOn(frames, f, part);
}

/** How far each root is from the nearest place of a triangle's corners, at most, m. */
function rootsOff(hair: Float64Array, mesh: Float64Array): number {
  let most = 0;
  for (let g = 0; g < hair.length; g += 3 * POINTS) {
    let least = Infinity;
    for (let v = 0; v < mesh.length; v += 3)
      least = Math.min(least, Math.hypot(...[0, 1, 2].map((a) => hair[g + a]! - mesh[v + a]!)));
    most = Math.max(most, least);
  }
  return most;
}

describe('hair on what moves by itself', () => {
  it('goes and turns with a soft body that falls over, and lies where that lies', () => {
    const { character, shot } = softBodies({ block: boxMesh([0.2, 0.3, 0.2], 4) }, () => [0, 0, 0], {
      block: { cells: 4, order: 0, lift: 0.3, settings: { hold: 0, droop: 1, density: 0.2 } },
    });
    const hair = hairOn(character, 'block', 40, {});
    const made = parseShot({
      ...{ ...shot, parts: { ...shot.parts, hair }, gravity: [2, -9.81, 0] },
      range: { first: 0, last: 30 },
    });
    const frames = simulateAll(character, made);
    const corners = 0.2 / 4;
    for (const f of [0, 10, 30]) {
      const [block, down] = [placesAt(frames, 'block', f), placesAt(frames, 'hair', f)];
      expect(rootsOff(down, block)).toBeLessThan(0.75 * corners);
    }
    const fell = placesAt(frames, 'block', 0)[1]! - placesAt(frames, 'block', 30)[1]!;
    expect(Math.abs(fell)).toBeGreaterThan(0.25);
  });

  /** A level cloth, held by springs of 4 Hz, with or without hair that hangs under it. */
  function under(weight: number | null): { frames: Frames; shot: Shot } {
    const n = 8;
    const places: number[] = [];
    const triangles: number[] = [];
    for (let j = 0; j <= n; j++)
      for (let i = 0; i <= n; i++) places.push(0.2 * (i / n - 0.5), 0, 0.2 * (j / n - 0.5));
    for (let j = 0; j < n; j++)
      for (let i = 0; i < n; i++) {
        const q = j * (n + 1) + i;
        triangles.push(q, q + 1, q + n + 2, q, q + n + 2, q + n + 1);
      }
    const { character, shot } = makeFigure({ felt: { places, triangles } }, 2, 30, () => [0, 0, 0]);
    const felt = makeClothPart({
      ...{ id: 'felt', name: 'Felt', order: 0, mesh: nodeNamed(character, 'felt'), holds: [] },
      settings: { hold: 4, weight: 0.5, damping: 1, drag: 0, lift: 0, gravity: 0 },
    });
    const hair = weight === null ? {} : { hair: hairOn(character, 'felt', 40, { weight }) };
    const made = parseShot({
      ...{ ...shot, parts: { felt, ...hair }, colliders: {}, range: { first: 0, last: 50 } },
      ...{ preRollSeconds: 0, loop: false },
    });
    return { frames: simulateAll(character, made), shot: made };
  }

  it('hangs on a cloth with its weight, and its roots stay on it', () => {
    const { frames } = under(4);
    const felt = placesAt(frames, 'felt', 50);
    // Points of its rim weigh half, those of its corners a quarter.
    const rims = (i: number) => [i % 9, Math.floor(i / 9)].filter((k) => k % 8 === 0).length;
    const mean = felt.filter((_, o) => o % 3 === 1).reduce((sum, y, i) => sum + (y * 0.5 ** rims(i)) / 64, 0);
    // 40 guides of 6 cm and 4 g/m on 20 g of felt.
    const sinks = ((40 * LONG * 0.004) / (0.5 * 0.04)) * (9.81 / (2 * Math.PI * 4) ** 2);
    expect(-mean).toBeGreaterThan(0.8 * sinks);
    expect(-mean).toBeLessThan(1.2 * sinks);
    expect(rootsOff(placesAt(frames, 'hair', 50), felt)).toBeLessThan(0.025);
    expect(sizesOf(frames).points).toBeGreaterThan(0);
  });

  it('does not throw a cloth that is much lighter', () => {
    const { frames } = under(400);
    for (let f = 0; f <= 50; f++)
      for (const x of placesAt(frames, 'felt', f)) expect(Math.abs(x)).toBeLessThan(0.2);
  });
});
