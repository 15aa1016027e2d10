import { expect, test } from 'vitest';
import { defaultBake, MANY_NAMES } from '@oscillum/core/bake';
import { checkPlan } from '@oscillum/core/handoff';
import { makeShot } from '@oscillum/core/shot';
import { NEEDS, NOTHING_CHOSEN, planOf } from './choices';

const shot = makeShot({ name: 'Night round', hash: 'a'.repeat(64), fileName: 'courier.v2.glb', clip: null });
const bake = defaultBake(shot);

test('files are named after the character unless a name is given', () => {
  expect(planOf(shot, NOTHING_CHOSEN, bake).stem).toBe('courier.v2-baked');
  expect(planOf(shot, { ...NOTHING_CHOSEN, stem: 'mine' }, bake).stem).toBe('mine');
});

test('one clip keeps the name it would have; several are named each by its clip, unless a name is given', () => {
  expect(planOf(shot, NOTHING_CHOSEN, bake).bake.name).toBe(bake.name);
  const several = { ...NOTHING_CHOSEN, clips: [0, 1] };
  expect(planOf(shot, several, bake).bake.name).toBe(MANY_NAMES);
  const named = { ...several, bake: { name: '{clip}, windy' } };
  expect(planOf(shot, named, { ...bake, name: '{clip}, windy' }).bake.name).toBe('{clip}, windy');
});

test('what suits a need is a plan that can be carried out; one with no file is refused', () => {
  for (const { choices } of NEEDS)
    expect(() => checkPlan(planOf(shot, { ...NOTHING_CHOSEN, ...choices }, bake))).not.toThrow();
  expect(() => checkPlan(planOf(shot, { ...NOTHING_CHOSEN, formats: [] }, bake))).toThrow(/format|file/i);
});
