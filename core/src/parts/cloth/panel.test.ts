import { describe, expect, it } from 'vitest';
import { brindle, expectPlayed } from '../../../test/bakes';
import { bakeGlb, defaultBake } from '../../bake/index';
import { openContainer, readGltf } from '../../formats/gltf/index';
import type { Frames } from '../../frames/index';
import { Collider, Force } from '../../model/index';
import { parseShot, type Shot } from '../../shot/index';
import { carryTo, simulateAll } from '../../simulate/index';
import { makePanelPart, type PanelPart } from './panelDocument';

const character = readGltf(brindle!.bytes, 'brindle.glb');
const windy = brindle!.shots.find((s) => s.name === 'Brindle, Leap in the wind')!;
/** The rows of the poncho's old joints, in their order round the neck. */
const rows = character.nodes
  .flatMap((n, i) => (/^poncho .* 1$/.test(n.name) ? [i] : []))
  .map((first) => {
    const row = [first];
    for (let n = character.nodes[first]!.children[0]; n !== undefined; n = character.nodes[n]!.children[0])
      row.push(n);
    return row;
  })
  .sort((a, b) => angle(a[0]!) - angle(b[0]!));
function angle(node: number): number {
  const { t } = character.nodes[node]!;
  return Math.atan2(t[0]!, t[2]!);
}
const refs = rows.map((r) => r.map((node) => ({ node, name: character.nodes[node]!.name })));

function shotWith(change: (p: PanelPart, s: Shot) => void = () => undefined): Shot {
  const panel = makePanelPart({ id: 'panel', name: 'Poncho', rows: refs });
  Object.assign(panel.settings, { thickness: 0.01, bend: 0.01 });
  const shot = {
    ...structuredClone(windy),
    parts: { panel },
    colliders: {},
    forces: {},
    substeps: 4,
  } as Shot;
  shot.range = { first: 20, last: 43 };
  change(panel, shot);
  return parseShot(shot);
}
const wind = Force.parse({
  ...{ id: 'wind', name: 'Headwind', kind: 'wind' },
  ...{ direction: [0, 0, -1], speed: 9 },
});
const most = (f: Frames) => Math.max(...f.tipOffSource);

describe('rows of joints that are one sheet', () => {
  it('with amount 0 stand where their source has them, and else swing, all roots held', () => {
    const still = simulateAll(
      character,
      shotWith((p) => void (p.settings.amount = 0)),
    );
    expect(most(still)).toBe(0);
    const hangs = simulateAll(character, shotWith());
    expect(most(hangs)).toBeGreaterThan(0.01);
    expect([...hangs.rotations].every(Number.isFinite)).toBe(true);
    expect(hangs.joints.length).toBe(rows.flat().length);
  });

  it('are blown together, and pushed by what sweeps through them', () => {
    const calm = simulateAll(character, shotWith());
    const blown = simulateAll(
      character,
      shotWith((_, s) => void (s.forces.wind = wind)),
    );
    const apart = blown.tipOffSource.map((far, f) => Math.abs(far - calm.tipOffSource[f]!));
    expect(Math.max(...apart)).toBeGreaterThan(0.05);
    // From outside the third row to its middle.
    const [x, y, z] = [0, 1, 2].map((a) => calm.tips[a]!) as [number, number, number];
    const at = (by: number) => [x * by, y, z * by];
    const swept = shotWith((_, s) => {
      s.colliders.wing = Collider.parse({
        ...{ id: 'wing', name: 'Wing', shape: { kind: 'sphere', radius: 0.08 }, t: at(2) },
        keys: [
          { frame: 22, t: at(2), r: [0, 0, 0, 1], kind: 'smooth' },
          { frame: 38, t: at(0.8), r: [0, 0, 0, 1], kind: 'smooth' },
        ],
      });
    });
    const pushed = simulateAll(character, swept);
    expect(Math.max(...pushed.contacts)).toBeGreaterThan(0);
    expect(Math.max(...pushed.depth)).toBeLessThan(0.012);
    expect([...pushed.rotations]).not.toEqual([...calm.rotations]);
  });

  it('stretch to the points of the sheet, or go there without turning, or turn alone', () => {
    const nodes = rows.flat();
    const put = (moves: PanelPart['moves'], amount = 100) => {
      const shot = shotWith((p, s) => {
        p.moves = moves;
        Object.assign(p.settings, { stretch: 5, amount });
        s.forces.wind = wind;
      });
      const frames = simulateAll(character, shot);
      const at = 4 * nodes.length * 20;
      return {
        tips: [...frames.tips.subarray(60, 63)],
        turns: frames.rotations.subarray(at, at + 4 * nodes.length),
        places: frames.translations.subarray((at / 4) * 3, (at / 4) * 3 + 3 * nodes.length),
      };
    };
    const [still, turns, places, points] = [put('turns', 0), put('turns'), put('places'), put('points')];
    // The sheet is one and the same.
    expect(places.tips).toEqual(turns.tips);
    expect(points.tips).toEqual(turns.tips);
    const rest = (k: number) => character.nodes[nodes[k]!]!.t;
    const along = (at: ArrayLike<number>, k: number) => {
      const [a, b] = [[0, 1, 2].map((i) => at[3 * k + i]!), rest(k)];
      const dot = a.reduce((sum, x, i) => sum + x * b[i]!, 0);
      return dot / Math.hypot(...a) / Math.hypot(...b);
    };
    nodes.forEach((_, k) => {
      // A bone that stretches keeps its direction in its parent's space.
      if (!rows.some((r) => r[0] === nodes[k])) expect(along(places.places, k)).toBeCloseTo(1, 9);
      for (let a = 4 * k; a < 4 * k + 4; a++) expect(points.turns[a]).toBeCloseTo(still.turns[a]!, 12);
    });
    expect(Math.max(...nodes.map((_, k) => 1 - along(points.places, k)))).toBeGreaterThan(1e-3);
  });

  it.each(['turns', 'places', 'points'] as const)(
    'leave as keys of their joints that another player plays to within 1 mm: %s',
    async (moves) => {
      const shot = shotWith((p, s) => {
        p.moves = moves;
        s.forces.wind = wind;
      });
      const frames = simulateAll(character, shot);
      const run = bakeGlb(openContainer(brindle!.bytes, 'brindle.glb'), shot, {
        ...defaultBake(shot),
        thin: null,
      });
      let step = run.next();
      while (!step.done) step = run.next();
      const { bytes } = step.value;
      const again = readGltf(bytes, 'again.glb');
      const keyed = again.clips.at(-1)!.channels.filter((c) => rows.flat().includes(c.node));
      expect(keyed.length).toBe((moves === 'places' ? 2 : 1) * rows.flat().length);
      // Within 1e-5 of her height, which is less than 1 mm.
      await expectPlayed(bytes, again.clips.length - 1, character, shot, frames);
      // Links keep their lengths as the sheet does: within its stretch.
      expect(Math.max(...frames.stretch)).toBeLessThan(0.02);
    },
  );

  it('go to a character of like names, and are refused with their place where they are no rows', () => {
    const there = carryTo(shotWith(), character, { hash: 'f'.repeat(64), fileName: 'other.glb' }, 0);
    expect(there.missed).toEqual([]);
    expect(Object.values(there.shot.parts)[0]).toMatchObject({ kind: 'panel', rows: refs });
    const crossed = shotWith((p) => void p.rows.splice(0, 2, [refs[0]![0]!, refs[1]![1]!]));
    expect(() => simulateAll(character, crossed)).toThrow(/Poncho: .* does not hang from/);
    expect(() => shotWith((p) => void (p.rows[1] = p.rows[0]!))).toThrow(/already moved by Poncho/);
  });
});
