import type { Character } from '@oscillum/core/character';
import * as THREE from 'three';
import { LineSegments2 } from 'three/examples/jsm/lines/LineSegments2.js';
import { describe, expect, it } from 'vitest';
import { makeClothPart } from '@oscillum/core/cloth';
import { makeShot, type Shot } from '@oscillum/core/shot';
import { cordWidths } from './cords';
import { Figure } from './figure';

const primitive = (x: number) => ({
  positions: Float32Array.of(x, 0, 0, x + 1, 0, 0, x, 1, 0),
  ...{ normals: null, uvs: null, colours: null, joints: null, weights: null },
  indices: Uint32Array.of(0, 1, 2),
  material: -1,
  lines: new Uint32Array(0),
  targets: [new Float32Array(9).fill(1)],
});
const node = (name: string, mesh: number) => ({
  ...{ name, parent: -1, children: [], mesh, skin: -1 },
  t: Float64Array.of(0, 0, 0),
  r: Float64Array.of(0, 0, 0, 1),
  s: Float64Array.of(1, 1, 1),
});
/** Two nodes with a mesh each: the first of two pieces, the second of one. */
const character: Character = {
  name: 'sheets',
  nodes: [node('poncho', 0), node('bell', 1)],
  order: Int32Array.of(0, 1),
  joints: Int32Array.of(0, 1),
  meshes: [
    { name: 'poncho', primitives: [primitive(0), primitive(5)], weights: Float64Array.of(0) },
    { name: 'bell', primitives: [primitive(9)], weights: Float64Array.of(0) },
  ],
  ...{ skins: [], clips: [], materials: [], images: [], notes: [] },
};
const still = Float64Array.from({ length: 32 }, (_, k) => ((k % 16) % 5 === 0 ? 1 : 0));
const figure = () => new Figure(character, () => undefined);
const seen = (f: Figure) =>
  f.group.children.filter((o): o is THREE.Mesh => o instanceof THREE.Mesh && o.visible);
const places = (m: THREE.Mesh) => [...m.geometry.getAttribute('position').array];

describe('a drawn figure', () => {
  it('stands each mesh, with its outline, where its node stands', () => {
    const f = figure();
    const world = still.slice();
    world[16 + 12] = 3;
    f.pose(world, new Map());
    expect(seen(f).length).toBe(6);
    expect(seen(f).filter((m) => m.matrix.elements[12] === 3).length).toBe(2);
  });

  it('gives morph weights to the pieces of their mesh alone', () => {
    const f = figure();
    f.pose(still, new Map([[0, Float64Array.of(0.25)]]));
    expect(seen(f).map((m) => m.morphTargetInfluences![0])).toEqual([0.25, 0.25, 0.25, 0.25, 0, 0]);
  });

  it('draws vertices that have places of their own there, each piece with its own, and the others as posed', () => {
    const f = figure();
    const points = Float64Array.from({ length: 18 }, (_, k) => 100 + k);
    f.pose(still, new Map(), new Map([[0, points]]));
    const now = seen(f);
    expect(now.length).toBe(6);
    const own = now.filter((m) => places(m)[0]! >= 100);
    expect(own.map(places)).toEqual([
      [...points.subarray(0, 9)],
      [...points.subarray(0, 9)],
      [...points.subarray(9)],
      [...points.subarray(9)],
    ]);
    // Places are the world's, whatever the node does.
    for (const m of own) expect(m.matrix.equals(new THREE.Matrix4())).toBe(true);
  });

  it('goes back to the pose when the vertices have no places any more, and makes nothing twice', () => {
    const f = figure();
    const points = new Map([[0, new Float64Array(18).fill(100)]]);
    f.pose(still, new Map(), points);
    const made = f.group.children.length;
    f.pose(still, new Map());
    expect(seen(f).every((m) => places(m)[0]! < 100)).toBe(true);
    f.pose(still, new Map(), points);
    expect(f.group.children.length).toBe(made);
    expect(seen(f).filter((m) => places(m)[0] === 100).length).toBe(4);
  });
});

describe('lines of a mesh', () => {
  const cord: Character = {
    ...character,
    meshes: [
      {
        name: 'cord',
        weights: new Float64Array(0),
        primitives: [
          { ...primitive(0), indices: new Uint32Array(0), lines: Uint32Array.of(0, 1, 1, 2), targets: [] },
        ],
      },
      character.meshes[1]!,
    ],
  };
  const drawn = (f: Figure) =>
    f.group.children.flatMap((o) => o.children).filter((o): o is LineSegments2 => o instanceof LineSegments2);
  const ends = (line: LineSegments2) => [
    ...(line.geometry.getAttribute('instanceStart') as THREE.InterleavedBufferAttribute).data.array,
  ];

  it('are drawn where their vertices are, as the node stands or as they are moved', () => {
    const f = new Figure(cord, () => undefined);
    const world = still.slice();
    world[16 * 0 + 13] = 2;
    f.pose(world, new Map());
    const [line] = drawn(f);
    expect(drawn(f).length).toBe(1);
    expect(ends(line!)).toEqual([0, 2, 0, 1, 2, 0, 1, 2, 0, 0, 3, 0]);
    f.pose(world, new Map(), new Map([[0, Float64Array.of(5, 0, 0, 6, 0, 0, 7, 0, 0)]]));
    expect(ends(line!)).toEqual([5, 0, 0, 6, 0, 0, 6, 0, 0, 7, 0, 0]);
  });

  it('are as thick as what moves them says, in the world, and else some pixels', () => {
    const f = new Figure(cord, () => undefined);
    f.pose(still, new Map(), new Map(), new Map([[0, 0.016]]));
    const [{ material }] = drawn(f) as [LineSegments2];
    expect([material.worldUnits, material.linewidth]).toEqual([true, 0.016]);
    f.pose(still, new Map());
    expect(material.worldUnits).toBe(false);
    // Pointed at in the list they are lit, and then no more.
    const plain = material.color.toArray();
    f.light(0);
    expect(material.color.toArray()).not.toEqual(plain);
    f.light(null);
    expect(material.color.toArray()).toEqual(plain);
  });

  it('are drawn in metres, whatever a unit of the file is', () => {
    const cloth = makeClothPart({ id: 'cord', name: 'Cord', mesh: { node: 0, name: 'cord' } });
    cloth.settings.thickness = 0.008;
    const character = { name: 'cord', hash: '0'.repeat(64), fileName: 'cord.glb', fps: 24, clip: null };
    const shot = { ...makeShot({ ...character, metresPerUnit: 0.01 }), parts: { cord: cloth } };
    expect([...cordWidths(shot as unknown as Shot, 0)]).toEqual([[0, 0.016]]);
  });
});
