import { expect, it } from 'vitest';
import { character, clipNamed, ponchoShot, vertices } from '../../../test/poncho';
import { parseShot, type Shot } from '../../shot/index';
import { simulateAll } from '../../simulate/index';
import { clothInert } from './inert';
import type { ClothSettings } from './settings';

const RANGE = { first: 20, last: 31 };
const moving = { clip: clipNamed('Stride away'), range: RANGE, start: 'wait', preRollSeconds: 0 } as const;
const shotOf = (settings: Partial<ClothSettings>, more: Partial<Shot> = {}) =>
  ponchoShot((p) => void Object.assign(p.settings, settings), { ...moving, ...more });
const strays = (...of: Parameters<typeof shotOf>) => simulateAll(character, shotOf(...of)).tipOffSource;
/** How far the middle of the cloth goes forward from the first frame to the next, m. */
function firstStep(...of: Parameters<typeof shotOf>): number {
  const { points } = simulateAll(character, shotOf(...of));
  const forward = (f: number) => {
    let sum = 0;
    for (let v = 0; v < vertices; v++) sum += points[3 * (f * vertices + v) + 2]! / vertices;
    return sum;
  };
  return forward(1) - forward(0);
}

it('what settles first hangs on the first frame already, and goes on with the speed of its skin', () => {
  const [plain, settled] = [strays({}), strays({ settle: 2 })];
  // Without, it begins in the shape of its skin and drops from there.
  expect(plain[0]).toBe(0);
  expect(settled[0]!).toBeGreaterThan(0.02);
  // With, it is where a shot that waits as long has it on the first frame: the shot's wait alone starts from a stop.
  const waits = strays({}, { preRollSeconds: 2 });
  expect(settled[0]).toBeCloseTo(waits[0]!, 3);
  const [away, still] = [{ settle: 2 }, {}].map((set, k) =>
    firstStep(set, k === 1 ? { preRollSeconds: 2 } : {}),
  );
  const skin = firstStep({ amount: 0 });
  expect(Math.abs(away! - skin)).toBeLessThan(0.3 * Math.abs(skin));
  expect(Math.abs(still! - skin)).toBeGreaterThan(0.5 * Math.abs(skin));
});

it('settling first says why it has no effect where the whole shot waits, settles or loops', () => {
  const why = (more: Partial<Shot>) => {
    const shot = shotOf({ settle: 1 }, more);
    return clothInert(shot.parts.poncho as never, shot, 'settle');
  };
  expect(why({})).toBeNull();
  expect(why({ preRollSeconds: 1 })).toContain('already');
  expect(why({ start: 'settled' })).toContain('already');
  expect(why({ loop: true })).toContain('loops');
  expect(strays({ settle: 2 }, { preRollSeconds: 1 })).toEqual(strays({}, { preRollSeconds: 1 }));
});

it('a hold has a damping of its own, which is inert without a hold; older shots damp both alike', () => {
  const held = { hold: 3, damping: 0.12 };
  expect(strays({ ...held, holdDamping: 1 })).not.toEqual(strays({ ...held, holdDamping: 0.12 }));
  expect(strays({ hold: 0, holdDamping: 1 })).toEqual(strays({ hold: 0, holdDamping: 0.12 }));
  const shot = shotOf({ hold: 0 });
  expect(clothInert(shot.parts.poncho as never, shot, 'holdDamping')).toContain('Hold');
  const old = structuredClone(shotOf({ hold: 3, damping: 0.7 })) as unknown as Record<string, unknown>;
  const { settings } = (old.parts as Record<string, { settings: Record<string, number> }>).poncho!;
  delete settings.holdDamping;
  const read = parseShot({ ...old, version: 7 });
  expect((read.parts.poncho as { settings: ClothSettings }).settings.holdDamping).toBe(0.7);
});
