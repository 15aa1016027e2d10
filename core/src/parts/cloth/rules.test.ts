import { describe, expect, it } from 'vitest';
import { brindle } from '../../../test/bakes';
import { character, MESH, ponchoShot as shotWith, vertices } from '../../../test/poncho';
import { readForBake } from '../../bake/index';
import { meshTriangles } from '../../character/index';
import { openContainer } from '../../formats/gltf/index';
import { makeWeightMap, readWeightMap } from '../../model/index';
import { editShot } from '../../shot/index';
import { carryTo } from '../../simulate/index';
import type { ClothPart } from './document';
import { layOutCloth } from './layout';
import { clothInert } from './shared';

describe('the document of a cloth', () => {
  it('goes to a character of like names with its holds, and says what is missing', () => {
    const shot = shotWith((p) =>
      p.holds.push({ by: 'joint', joint: { node: 4, name: 'not here' }, from: 0.5 }),
    );
    const to = carryTo(shot, character, shot.character, 0);
    expect(to.shot.parts.poncho).toMatchObject({ mesh: { node: MESH }, holds: [{ by: 'rim' }] });
    expect(to.missed.join()).toContain('no joint named not here');
  });
  it('takes its ties along by name, and lets go of those to what is gone', () => {
    const head = { node: character.nodes.findIndex((n) => n.name === 'head'), name: 'head' };
    const rim = { by: 'rim' as const, rim: 0 };
    const ties: ClothPart['ties'] = [
      { what: rim, to: { by: 'joint', joint: head }, pulls: true },
      { what: rim, to: { by: 'joint', joint: { node: 3, name: 'not here' } }, pulls: false },
      {
        what: { by: 'joint', joint: { node: 3, name: 'nor here' }, from: 0.5 },
        to: { by: 'joint', joint: head },
        pulls: false,
      },
    ];
    const carried = carryTo(
      shotWith((p) => void (p.ties = ties)),
      character,
      shotWith().character,
      0,
    );
    expect((carried.shot.parts.poncho as ClothPart).ties).toEqual([ties[0]]);
    expect(carried.missed.join()).toMatch(
      /no joint named not here to tie it to.*no joint named nor here to tie it/,
    );
    const one = shotWith();
    const shirt = {
      ...(one.parts.poncho as ClothPart),
      id: 'shirt' as never,
      mesh: { node: 4, name: 'shirt' },
    };
    const tied = editShot(one, 'edit-00001', 'Tie', (d) => {
      d.parts.shirt = {
        ...shirt,
        ties: [{ what: rim, to: { by: 'cloth', part: 'poncho' as never }, pulls: false }],
      };
    }).shot;
    const left = editShot(tied, 'edit-00002', 'Remove', (d) => void delete d.parts.poncho).shot;
    expect((left.parts.shirt as ClothPart).ties).toEqual([]);
  });
  it('takes its maps along to a mesh of other vertices, by nearest place', () => {
    const half = Float64Array.from({ length: vertices }, (_, v) => (v % 2 ? 0.25 : 0.75));
    const shot = shotWith((p) => void (p.maps.leash = makeWeightMap(half)));
    const body = character.nodes.findIndex((n) => n.mesh >= 0 && /body/i.test(n.name));
    const named = (n: (typeof character.nodes)[number], i: number) => {
      if (i !== MESH && i !== body) return n;
      return { ...n, name: i === body ? character.nodes[MESH]!.name : 'away' };
    };
    const target = { ...character, nodes: character.nodes.map(named) };
    const file = { hash: 'f'.repeat(64), fileName: 'other.glb' };
    const carried = carryTo(shot, target, file, 0, character);
    const map = (carried.shot.parts.poncho as ClothPart).maps.leash!;
    expect(map.vertices).toBe(meshTriangles(character, body).vertices);
    for (const s of readWeightMap(map)) expect(s).toBeGreaterThan(0.24);
    expect(carryTo(shot, target, file, 0).missed.join()).toMatch(/the map of leash/);
  });
  it('has its mesh for itself, and grows with the unit of the file', () => {
    const one = shotWith();
    expect(() =>
      editShot(one, 'edit-00001', 'Twice', (d) => {
        d.parts.two = { ...structuredClone(one.parts.poncho!), id: 'two' as never };
      }),
    ).toThrow(/already moved by/);
    expect(() =>
      layOutCloth(character, { ...(one.parts.poncho as ClothPart), mesh: { node: MESH, name: 'cape' } }),
    ).toThrow(/the mesh cape is not on this character/);
    expect(
      readForBake(openContainer(brindle!.bytes, 'b.glb'), one).meshes[0]!.primitives.length,
    ).toBeGreaterThan(0);
  });
  it('refuses a mesh of 200 000 vertices, and says what to do', () => {
    const { mesh } = character.nodes[MESH]!;
    const wide = (p: (typeof character.meshes)[number]['primitives'][number]) => ({
      ...p,
      positions: new Float32Array(600_000),
    });
    const meshes = character.meshes.map((m, i) =>
      i === mesh ? { ...m, primitives: m.primitives.slice(0, 1).map(wide) } : m,
    );
    expect(() => layOutCloth({ ...character, meshes }, shotWith().parts.poncho as ClothPart)).toThrow(
      /200000 vertices, more than the 60000/,
    );
  });
  it('says why a setting has no effect', () => {
    const shot = shotWith();
    const part = shot.parts.poncho as ClothPart;
    expect(clothInert(part, shot, 'thickness')).toMatch(/collides with nothing/);
    expect(clothInert(part, { ...shot, airDensity: 0 }, 'lift')).toMatch(/no air/);
    expect(clothInert(part, shot, 'bend')).toBeNull();
    const keys = [0, 9].map((frame) => ({ frame, value: 0.1, kind: 'linear' as const }));
    expect(clothInert({ ...part, keys: { bend: keys } }, shot, 'bend')).toMatch(/first frame alone/);
  });
});
