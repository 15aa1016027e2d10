import { describe, expect, it } from 'vitest';
import type { Character } from '@oscillum/core/character';
import { Collider } from '@oscillum/core/model';
import { asChain, makeChainPart } from '@oscillum/core/chain';
import { editShot, makeShot } from '@oscillum/core/shot';
import { change } from './edits';
import { shotSlice } from './shot';
import { store, type Thunk } from './store';
import { mirrorCollider, setTouch } from './touch';

const part = (id: string, node: number) =>
  makeChainPart({ id, name: id, joints: [{ node, name: String(node) }] });
const ball = (id: string, name: string) =>
  Collider.parse({
    id,
    name,
    shape: { kind: 'capsule', radius: 0.1, length: 0.4 },
    t: [0.1, 0.2, 0],
    r: [0, 0, Math.SQRT1_2, Math.SQRT1_2],
    attachedTo: { node: 1, name: 'wing left' },
  });

/** A body at x = 1 with a wing to each side. */
const bird: Pick<Character, 'nodes' | 'order' | 'joints' | 'meshes'> = {
  nodes: [
    ['body', -1, 1],
    ['wing left', 0, 0.5],
    ['wing right', 0, -0.5],
  ].map(([name, parent, x]) => ({
    name: name as string,
    parent: parent as number,
    children: parent === -1 ? [1, 2] : [],
    t: Float64Array.of(x as number, 0, 0),
    r: Float64Array.of(0, 0, 0, 1),
    s: Float64Array.of(1, 1, 1),
    mesh: -1,
    skin: -1,
  })),
  order: Int32Array.of(0, 1, 2),
  joints: Int32Array.of(0, 1, 2),
  meshes: [],
};

function desk() {
  const shot = editShot(
    makeShot({ name: 'Test', hash: '0'.repeat(64), fileName: 't.glb', clip: null }),
    'test-0001',
    'Begin',
    (d) => {
      for (const [i, id] of ['ear', 'tail', 'bag'].entries()) d.parts[id] = part(id, 5 + i);
      for (const id of ['ball', 'stick']) d.colliders[id] = ball(id, `${id} left`);
    },
  ).shot;
  store.dispatch(shotSlice.actions.opened({ id: 's', shot, revision: 0, pending: [], save: 'saved' }));
  return {
    run: (t: Thunk) => t(store.dispatch, store.getState),
    shot: () => store.getState().shot.shot!,
  };
}

describe('who touches whom', () => {
  it('one collider less, one more, none and all', () => {
    const { run, shot } = desk();
    run(setTouch('ear', 'colliders', 'ball', false));
    expect(asChain(shot().parts.ear).collidesWith.colliders).toEqual(['stick']);
    run(setTouch('ear', 'colliders', 'ball', true));
    expect(asChain(shot().parts.ear).collidesWith.colliders).toBe('all');
    run(setTouch('ear', 'colliders', []));
    expect(asChain(shot().parts.ear).collidesWith.colliders).toEqual([]);
  });
  it('chains that no longer touch forget each other, whichever minded', () => {
    const { run, shot } = desk();
    run(setTouch('ear', 'parts', 'tail', true));
    expect(asChain(shot().parts.ear).collidesWith.parts).toEqual(['tail']);
    run(setTouch('tail', 'parts', 'ear', false));
    expect(asChain(shot().parts.ear).collidesWith.parts).toEqual([]);
  });
});

describe('a mirrored collider', () => {
  it('stands on the other side of the body, on the joint of the other side; again puts it right', () => {
    const { run, shot } = desk();
    run(mirrorCollider('ball', bird as Character));
    const found = () => Object.values(shot().colliders).filter((c) => c.name === 'ball right');
    const [other] = found();
    expect(other!.attachedTo).toEqual({ node: 2, name: 'wing right' });
    expect(other!.t.map((x) => Number(x.toFixed(6)))).toEqual([-0.1, 0.2, 0]);
    expect(other!.r.map((x) => Number(x.toFixed(6)) + 0)).toEqual([0, 0, -0.707107, 0.707107]);
    run(mirrorCollider('ball', bird as Character));
    expect(found()).toHaveLength(1);
  });
  it('is known again by what it was mirrored from, not by its name', () => {
    const { run, shot } = desk();
    run(mirrorCollider('ball', bird as Character));
    const id = shot().colliders['ball' as never]!.twin!;
    run(change('Rename', (d) => void (d.colliders[id]!.name = 'Something else')));
    const count = Object.keys(shot().colliders).length;
    run(mirrorCollider('ball', bird as Character));
    expect(Object.keys(shot().colliders)).toHaveLength(count);
    expect(shot().colliders[id]!.name).toBe('Something else');
  });
});
