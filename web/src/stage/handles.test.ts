import { makeChainPart, type ChainPart } from '@oscillum/core/chain';
import { AddedMotion, Collider, Force, type AnchorPose } from '@oscillum/core/model';
import { editShot, makeShot, type Shot } from '@oscillum/core/shot';
import * as THREE from 'three';
import { describe, expect, it } from 'vitest';
import { handlesOf } from './handles';
import type { InkScene } from './pen';

const RIGHT = new THREE.Vector3(1, 0, 0);
const TOWARD = new THREE.Vector3(0, 0, 1);
const v = (x: number, y: number, z: number) => new THREE.Vector3(x, y, z);

const base = makeShot({ name: 'T', hash: '0'.repeat(64), fileName: 't.glb', clip: null });
const shotWith = (recipe: (d: Shot) => void): Shot =>
  editShot(base, 'test-0001', 'Add', (d) => recipe(d as Shot)).shot;

/** A scene that works on one thing; a collider stands at a place and turn. */
function scene(
  shot: Shot,
  thing: InkScene['view']['thing'],
  {
    place = [0, 0, 0],
    turn = [0, 0, 0, 1],
    frame = 0,
  }: { place?: number[]; turn?: number[]; frame?: number } = {},
): InkScene {
  const id = thing!.id;
  const frames = { first: 0, count: 1, colliders: [id], placements: Float32Array.of(...place, ...turn) };
  const source = Float64Array.from({ length: 32 }, (_, k) => ((k % 16) % 5 === 0 ? 1 : 0));
  return {
    view: { thing, shot, frame, picture: { frames } },
    ball: { centre: [0, 1, 0], radius: 1 },
    posed: { source },
  } as unknown as InkScene;
}
const handles = (s: InkScene) => handlesOf(s, RIGHT, TOWARD);
/** The shot after a handle has been put somewhere. */
const after = (shot: Shot, s: InkScene, n: number, place: THREE.Vector3): Shot =>
  editShot(shot, 'test-0002', 'Put', (d) => handles(s)[n]!.put(d as Shot, place)).shot;
const near = (a: readonly number[], b: readonly number[]) =>
  a.forEach((x, i) => expect(x, `number ${i} of ${a.join()}`).toBeCloseTo(b[i]!, 4));

const collider = (more: object) =>
  shotWith((d) => void (d.colliders['c' as never] = Collider.parse({ id: 'c', name: 'C', ...more })));
const C = { kind: 'collider' as const, id: 'c' };

describe('handles of a collider', () => {
  it('move it, and set the radius of a ball by how far they are from its middle', () => {
    const shot = collider({ shape: { kind: 'sphere', radius: 0.2 }, t: [1, 0, 0] });
    const s = scene(shot, C, { place: [1, 0, 0] });
    expect(handles(s).map((h) => h.name)).toEqual(['Move collider', 'Set radius']);
    near(handles(s)[1]!.at.toArray(), [1.2, 0, 0]);
    near(after(shot, s, 0, v(1, 2, 3)).colliders['c' as never]!.t, [1, 2, 3]);
    const ball = after(shot, s, 1, v(1, 0.5, 0)).colliders['c' as never]!.shape;
    expect(ball).toEqual({ kind: 'sphere', radius: 0.5 });
  });

  it('move one that rides a joint in the space of what it rides', () => {
    // It rides something turned a quarter about y, so that what goes along x in the world goes along its own z.
    const shot = collider({
      shape: { kind: 'sphere', radius: 0.2 },
      t: [0, 0, 0],
      attachedTo: { node: 1, name: 'hips' },
    });
    const turn = [0, Math.SQRT1_2, 0, Math.SQRT1_2];
    const s = scene(shot, C, { place: [5, 0, 0], turn });
    near(after(shot, s, 0, v(5.3, 0, 0)).colliders['c' as never]!.t, [0, 0, 0.3]);
  });

  it('draw out one end of a capsule while the other stays where it is', () => {
    const shot = collider({ shape: { kind: 'capsule', radius: 0.1, length: 1 } });
    const s = scene(shot, C);
    const ends = handles(s).flatMap((h, n) => (h.name === 'Set the end of the capsule' ? [{ ...h, n }] : []));
    expect(ends.map((e) => e.at.y)).toEqual([0.5, -0.5]);
    const c = after(shot, s, ends[0]!.n, v(2, -0.5, 0)).colliders['c' as never]!;
    expect(c.shape).toMatchObject({ length: 2 });
    near(c.t, [1, -0.5, 0]);
    const axis = v(0, 1, 0).applyQuaternion(new THREE.Quaternion(...c.r));
    near(axis.toArray(), [1, 0, 0]);
    // The lower end pulled up past the upper one turns it over rather than making it negative.
    const over = after(shot, s, ends[1]!.n, v(0, 3, 0)).colliders['c' as never]!;
    expect(over.shape).toMatchObject({ length: 2.5 });
    near(over.t, [0, 1.75, 0]);
  });

  it('set a box by its sides, one axis each, never to nothing', () => {
    const shot = collider({ shape: { kind: 'box', size: [1, 2, 3] } });
    const s = scene(shot, C);
    expect(
      handles(s)
        .slice(1)
        .map((h) => h.at.toArray()),
    ).toEqual([
      [0.5, 0, 0],
      [0, 1, 0],
      [0, 0, 1.5],
    ]);
    expect(after(shot, s, 2, v(9, 4, 9)).colliders['c' as never]!.shape).toEqual({
      kind: 'box',
      size: [1, 8, 3],
    });
    const flat = after(shot, s, 1, v(0, 5, 5)).colliders['c' as never]!.shape;
    expect(flat).toEqual({ kind: 'box', size: [1e-4, 2, 3] });
  });

  it('move the key at or before the frame where it has keys', () => {
    const keys = [0, 10].map((frame) => ({ frame, t: [frame, 0, 0], r: [0, 0, 0, 1], kind: 'smooth' }));
    const shot = collider({ shape: { kind: 'sphere', radius: 0.2 }, keys });
    const s = scene(shot, C, { place: [7, 0, 0], frame: 7 });
    const c = after(shot, s, 0, v(7, 1, 0)).colliders['c' as never]!;
    near(c.keys[0]!.t, [0, 1, 0]);
    near(c.keys[1]!.t, [10, 0, 0]);
    near(c.t, [0, 0, 0]);
  });

  it('are none for a mesh, for what is muted, or for what is not on the stage', () => {
    const muted = collider({ shape: { kind: 'sphere', radius: 0.2 }, muted: true });
    expect(handles(scene(muted, C))).toEqual([]);
    const mesh = collider({ shape: { kind: 'mesh', node: 1, name: 'body' } });
    expect(handles(scene(mesh, C))).toEqual([]);
    expect(handles(scene(muted, { kind: 'collider', id: 'gone' }))).toEqual([]);
  });
});

describe('handles of a force', () => {
  const force = (more: object) =>
    shotWith((d) => void (d.forces['f' as never] = Force.parse({ id: 'f', name: 'F', ...more })));
  const F = { kind: 'force' as const, id: 'f' };

  it('draw a wind out to its direction and speed, and leave it as it is when drawn to nothing', () => {
    const shot = force({ kind: 'wind', direction: [1, 0, 0], speed: 5 });
    const s = scene(shot, F);
    // Ten metres a second go across the figure, two metres here.
    near(handles(s)[0]!.at.toArray(), [1, 1.45, 0]);
    const turned = after(shot, s, 0, v(0, 1.45, 2)).forces['f' as never]!;
    expect(turned).toMatchObject({ direction: [0, 0, 1], speed: 10 });
    expect(after(shot, s, 0, v(0, 1.45, 0)).forces['f' as never]).toMatchObject({
      direction: [1, 0, 0],
      speed: 5,
    });
  });

  it('move a burst, and set its reach by how far they are from it', () => {
    const shot = force({ kind: 'burst', t: [0, 1, 0], radius: 2, frame: 3 });
    const s = scene(shot, F);
    expect(handles(s).map((h) => h.name)).toEqual(['Move force', 'Set reach']);
    expect(after(shot, s, 0, v(1, 1, 1)).forces['f' as never]).toMatchObject({ t: [1, 1, 1] });
    expect(after(shot, s, 1, v(0, 1, 4)).forces['f' as never]).toMatchObject({ radius: 4 });
  });
});

describe('the handle of a keyed turn', () => {
  const turned = (axis: number[]) =>
    shotWith(
      (d) =>
        void (d.addedMotions['t' as never] = AddedMotion.parse({
          ...{ id: 't', name: 'Turn', kind: 'keys', joint: { node: 1, name: 'hips' }, axis },
          keys: [{ frame: 0, value: 10, kind: 'smooth' }],
        })),
    );
  const T = { kind: 'motion' as const, id: 't' };

  it('keys the frame by how far it is dragged round the axis', () => {
    const shot = turned([0, 0, 1]);
    const s = scene(shot, T, { frame: 12 });
    const arm = handles(s)[0]!.at.clone();
    const swung = arm.clone().applyAxisAngle(v(0, 0, 1), Math.PI / 6);
    const { keys } = after(shot, s, 0, swung).addedMotions['t' as never]!;
    expect(keys.map((k) => k.frame)).toEqual([0, 12]);
    expect(keys[1]!.value).toBeCloseTo(40, 1);
  });

  it('points at the viewer where the axis is seen from its side, so that a drag across turns it', () => {
    const shot = turned([0, 1, 0]);
    near(handles(scene(shot, T))[0]!.at.clone().normalize().toArray(), [0, 0, 1]);
  });
});

describe('handles of a chain', () => {
  const chain = (more: object = {}) =>
    shotWith((d) => {
      d.parts['p' as never] = makeChainPart({
        ...{ id: 'p', name: 'Tail', settings: { thickness: 0.1 }, ...more },
        joints: [0, 1].map((node) => ({ node, name: `tail ${node}` })),
      }) as never;
    });
  /** Joints at the origin and at y = 1, the tip at y = 2; all unturned. */
  const seen = (shot: Shot, kind: 'pose' | 'thickness', frame = 0) => {
    const simulated = Float64Array.from({ length: 32 }, (_, k) => ((k % 16) % 5 === 0 ? 1 : 0));
    simulated[16 + 13] = 1;
    const frames = {
      ...{ first: 0, count: 20, parts: [{ partId: 'p', joints: { from: 0, length: 2 } }] },
      tips: Float32Array.from({ length: 60 }, (_, k) => (k % 3 === 1 ? 2 : 0)),
      rotations: Float64Array.from({ length: 160 }, (_, k) => (k % 4 === 3 ? 1 : 0)),
      joints: Int32Array.of(0, 1),
    };
    return {
      view: { thing: { kind, id: 'p' }, shot, frame, picture: { frames } },
      ball: { centre: [0, 1, 0], radius: 1 },
      posed: { simulated, source: simulated },
    } as unknown as InkScene;
  };
  it('pose by hand: the end of a link is dragged, and the joint turned on that frame', () => {
    const shot = chain();
    const s = seen(shot, 'pose', 7);
    expect(handles(s)).toHaveLength(2);
    // The second link, from up to sideways: a quarter about −z.
    const [pose] = after(shot, s, 1, v(1, 1, 0)).parts['p' as never]!.anchors as AnchorPose[];
    expect(pose).toMatchObject({ frame: 7, easeIn: 8, easeOut: 8, hold: 0 });
    expect(Object.keys(pose!.turns!)).toEqual(['1']);
    near(pose!.turns!['1']!, [0, 0, -Math.SQRT1_2, Math.SQRT1_2]);
    // Within a pose that is held its turns are added to; elsewhere another is made.
    const held = chain({ anchors: [{ frame: 5, hold: 4, turns: { '0': [0, 0, 0, 1] } }] });
    const more = after(held, seen(held, 'pose', 7), 1, v(1, 1, 0)).parts['p' as never]!.anchors;
    expect(more.map((a: AnchorPose) => [a.frame, Object.keys(a.turns!)])).toEqual([[5, ['0', '1']]]);
    expect(after(held, seen(held, 'pose', 12), 1, v(1, 1, 0)).parts['p' as never]!.anchors).toHaveLength(2);
  });
  it('thickness: the middle sets it, root and tip how it tapers', () => {
    const shot = chain();
    const s = seen(shot, 'thickness');
    near(handles(s)[0]!.at.toArray(), [0.1, 1, 0]);
    const of = (x: Shot) => x.parts['p' as never] as ChainPart;
    expect(of(after(shot, s, 0, v(0.3, 1, 0))).settings.thickness).toBeCloseTo(0.3, 6);
    const tapered = of(after(shot, s, 2, v(0.02, 2, 0)));
    expect(tapered.settings.thickness).toBe(0.1);
    expect(tapered.profiles.thickness!.at(-1)).toEqual([1, 0.2]);
  });
});
