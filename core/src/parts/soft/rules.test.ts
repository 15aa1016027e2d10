import { describe, expect, it } from 'vitest';
import { lift, softPatch } from '../../../truth/softRig';
import { makeFigure, nodeNamed } from '../../../test/figure';
import { diagnose, applyRemedy } from '../../measure/index';
import { makeWeightMap } from '../../model/index';
import { editShot, parseShot, setScale, type Shot } from '../../shot/index';
import { carryTo, simulateAll, trackOf, type TrackCache } from '../../simulate/index';
import { makeRegionPart, type RegionPart } from './shared';

const { character, shot } = softPatch(9, 0.6, lift);
const edited = (recipe: (p: RegionPart, s: Shot) => void) =>
  editShot(shot, 'edit-00001', 'Change', (d) => recipe(d.parts.skin as RegionPart, d as Shot)).shot;
const ball = (outer: number) => ({
  ...{ by: 'ball' as const, at: [0, 0.05, 0] as [number, number, number], inner: 0, outer, mirrored: false },
});
const adviceOn = (s: Shot) => {
  const cache: TrackCache = {};
  const frames = simulateAll(character, s, cache);
  return { frames, found: diagnose(character, s, frames, trackOf(character, s, cache)) };
};

describe('a region', () => {
  it('goes to a character of like names with its paint, and not where its mesh is missing', () => {
    const finer = softPatch(17, 0.6, lift);
    const there = carryTo(
      shot,
      finer.character,
      { hash: 'f'.repeat(64), fileName: 'finer.glb' },
      0,
      character,
    );
    expect(there.missed).toEqual([]);
    const part = there.shot.parts.skin as RegionPart;
    expect(part.maps.weight!.vertices).toBe(17 * 17);
    expect(Math.max(...simulateAll(finer.character, there.shot).tipOffSource)).toBeGreaterThan(0.005);
    const bare = makeFigure(
      { other: { places: [0, 0, 0, 1, 0, 0, 0, 1, 0], triangles: [0, 1, 2] } },
      1,
      30,
      lift,
    );
    const gone = carryTo(shot, bare.character, { hash: 'e'.repeat(64), fileName: 'bare.glb' }, 0);
    expect(gone.shot.parts).toEqual({});
    expect(gone.missed.join()).toContain('no mesh named skin');
  });

  it('is refused with its place where it does not fit', () => {
    const wrong = makeWeightMap(new Float64Array(5).fill(1));
    expect(() =>
      simulateAll(
        character,
        edited((p) => void (p.maps.weight = wrong)),
      ),
    ).toThrow(/Skin: it was painted on 5 vertices, and the mesh has 81/);
    expect(() =>
      simulateAll(
        character,
        edited((p) => void (p.mesh = { node: 0, name: 'root' })),
      ),
    ).toThrow(/the mesh root is not on this character/);
    const joint = { node: 0, name: 'nobody' };
    expect(() =>
      simulateAll(
        character,
        edited((p) => void (p.where = { by: 'joint', joint })),
      ),
    ).toThrow(/the joint nobody is not on this character/);
    expect(() =>
      parseShot({ ...shot, parts: { skin: { ...shot.parts.skin, settings: { hold: 0 } } } }),
    ).toThrow(/Hold must be at least 0.2 Hz/);
  });

  it('with nothing in its reach moves nothing, says so, and its cure ends it', () => {
    const empty = edited((p) => void (p.where = ball(0.001)));
    const { frames, found } = adviceOn(empty);
    expect(Math.max(...frames.tipOffSource)).toBe(0);
    expect(found.map((d) => d.cause)).toEqual(['nothing is soft']);
    let now = empty;
    for (let k = 0; k < 8; k++) {
      const said = adviceOn(now).found.find((d) => d.cause === 'nothing is soft');
      if (!said) break;
      now = editShot(now, 'edit-00002', 'Cure', (d) => applyRemedy(d as Shot, said.partId, said.remedy)).shot;
    }
    expect(Math.max(...adviceOn(now).frames.tipOffSource)).toBeGreaterThan(0);
  });

  it.each([
    ['hold swallows it', (p: RegionPart) => void (p.settings.hold = 30)],
    ['stopped by its reach', (p: RegionPart) => void (p.settings.reach = 0.004)],
    ['too few steps', (p: RegionPart, s: Shot) => void ((p.settings.hold = 9), (s.fps = 24))],
  ])('says that %s, and its cure ends it', (cause, change) => {
    expect(adviceOn(shot).found.map((d) => d.cause)).not.toContain(cause);
    let now = edited(change);
    expect(adviceOn(now).found.map((d) => d.cause)).toContain(cause);
    for (let k = 0; k < 5; k++) {
      const said = adviceOn(now).found.find((d) => d.cause === cause);
      if (!said) return;
      expect(said.sentence).toContain('Skin');
      now = editShot(now, 'edit-00003', 'Cure', (d) => applyRemedy(d as Shot, said.partId, said.remedy)).shot;
    }
    expect(adviceOn(now).found.map((d) => d.cause)).not.toContain(cause);
  });

  it('of odd meshes moves or stays, and is never without a number', () => {
    const odd = {
      point: { places: [0, 0, 0], triangles: [0, 0, 0] },
      flat: { places: [0, 0, 0, 1, 0, 0, 2, 0, 0], triangles: [0, 1, 2, 0, 1, 2] },
      // A doubled face, a face turned round, and a vertex of no face.
      torn: {
        places: [0, 0, 0, 1, 0, 0, 0, 1, 0, 1, 1, 0, 5, 5, 5],
        triangles: [0, 1, 2, 0, 1, 2, 2, 1, 3, 3, 1, 2],
      },
    };
    const figure = makeFigure(odd, 1, 30, lift);
    for (const name of Object.keys(odd)) {
      const one = editShot(figure.shot, 'edit-00004', 'Soft', (d) => {
        d.parts['p' as never] = makeRegionPart({
          ...{ id: 'p', name: 'P', mesh: nodeNamed(figure.character, name) },
          where: { ...ball(3), inner: 1 },
          settings: { volume: 50, along: 3, droop: 1 },
        });
      }).shot;
      const frames = simulateAll(figure.character, one);
      expect([...frames.points, ...frames.tips].every(Number.isFinite)).toBe(true);
    }
  });

  it('keeps its motion when the unit of its file is said anew', () => {
    const scaled = editShot(
      edited((p) => void (p.where = ball(0.12))),
      'edit-00005',
      'Set the unit',
      (d) => setScale(d as Shot, 2),
    ).shot;
    const { where } = scaled.parts.skin as RegionPart;
    expect(where.by === 'ball' && [where.outer, where.at[1]]).toEqual([0.24, 0.1]);
    // Twice as large in all, and so twice as far off.
    const plain = simulateAll(
      character,
      edited((p) => void (p.where = ball(0.12))),
    ).points;
    const twice = simulateAll(character, scaled).points;
    expect(twice.length).toBe(plain.length);
    const most = plain.reduce((m, x) => Math.max(m, Math.abs(x)), 0);
    expect(most).toBeGreaterThan(0.005);
    plain.forEach((x, k) => expect(Math.abs(twice[k]! - 2 * x)).toBeLessThan(1e-4 * most));
  });
});
