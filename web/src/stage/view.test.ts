import { expect, it } from 'vitest';
import { PartId } from '@oscillum/core/model';
import { asChain, makeChainPart } from '@oscillum/core/chain';
import { editShot, makeShot, type Shot } from '@oscillum/core/shot';
import type { Frames } from '@oscillum/core/frames';
import { NOTHING } from '../sim/picture';
import { drawsSame, hasDrawn, lastDrawn, TRAIL, type StageView } from './view';

const id = PartId.parse('tail');
const shot = editShot(
  makeShot({ name: 'Shot', hash: '0'.repeat(64), fileName: 'a.glb', clip: null }),
  'test-0001',
  'Make a chain',
  (d) => {
    const joints = [1, 2, 3].map((node) => ({ node, name: `tail ${node}` }));
    d.parts[id] = makeChainPart({ id, name: 'Tail', order: 0, joints });
  },
).shot;
const changed = (recipe: (d: Shot) => void): Shot =>
  editShot(shot, 'test-0001', 'Change', (d) => recipe(d as Shot)).shot;
const view = { shot, picture: NOTHING, frame: 3, offered: [[1, 2]] } as unknown as StageView;

it('is drawn anew for what can be seen, not for a setting, nor for rows that are offered as before', () => {
  const slid = changed((d) => void (asChain(d.parts[id]).settings.hold = 7));
  expect(drawsSame(view, { ...view, shot: slid, offered: [[1, 2]] })).toBe(true);
  expect(drawsSame(view, { ...view, shot: changed((d) => void (d.parts[id]!.muted = true)) })).toBe(false);
  expect(drawsSame(view, { ...view, offered: [[1, 3]] })).toBe(false);
  expect(drawsSame(view, { ...view, offered: [[1, 2], [4]] })).toBe(false);
  expect(drawsSame(view, { ...view, frame: 4 })).toBe(false);
  expect(drawsSame(view, { ...view, night: true })).toBe(false);
  expect(drawsSame(view, { ...view, picture: { ...NOTHING, version: 1 } })).toBe(false);
});

it('is not drawn anew for more rows of a run than it looks at', () => {
  const frames = { first: 10, count: 100, done: 100 } as Frames;
  const shown = { ...view, frame: 20, picture: { ...NOTHING, frames, version: 7 } };
  // The trail ends on frame 32, the 23rd of the range.
  expect(lastDrawn(20)).toBe(20 + TRAIL / 2);
  expect(hasDrawn({ frames, version: 7, done: 23 }, shown)).toBe(true);
  expect(hasDrawn({ frames, version: 7, done: 22 }, shown)).toBe(false);
  expect(hasDrawn({ frames, version: 7, done: 23 }, { ...shown, frame: 21 })).toBe(false);
  // At the end of the range there is no more than all.
  expect(hasDrawn({ frames, version: 7, done: 100 }, { ...shown, frame: 108 })).toBe(true);
  // The same frames are written over by later runs; those of another shot, or none, are never there.
  expect(hasDrawn({ frames, version: 6, done: 100 }, shown)).toBe(false);
  expect(hasDrawn({ frames: { ...frames }, version: 7, done: 100 }, shown)).toBe(false);
  expect(hasDrawn(null, shown)).toBe(false);
  expect(hasDrawn({ frames: null, version: 0, done: 0 }, view)).toBe(false);
});
