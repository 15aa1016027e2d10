import { makeSheet } from '../../sheets/index';
import { makeCloth } from '../../solver/cloth/index';
import type { AskedFeel, Feel, FittedFeel } from '../diagnosis';
import { fitTo } from '../fitting';
import { watchTurn } from '../quickTurn';
import type { SheetPart } from './document';
import { dampingOf, matterOf, pullOf, valuesOf, type ClothValues } from './values';

/** Steps a second of the measurement, and how long it watches at most, s. */
const WATCH = { rate: 240, longest: 12, quiet: 1.5 } as const;
/** Rows of the strip that answers, three points each, and how far it is moved as a share of its length. */
const ROWS = 9;
const STEP = 0.1;

/**
 * How a strip of the cloth's matter, as long as the cloth reaches from what holds it, answers when its edge is moved
 * quickly to the side: its hem, as a share of that way. Contact and wind are left out.
 */
export function clothFeel(value: ClothValues, length: number, fps: number, frame: number): Feel {
  const places = Float64Array.from(
    Array.from({ length: ROWS }, (_, r) => {
      const y = (-r * length) / (ROWS - 1);
      return [-1, 0, 1].flatMap((c) => [(c * length) / (ROWS - 1), y, 0]);
    }).flat(),
  );
  const indices = Array.from({ length: ROWS - 1 }, (_, r) => {
    const [a, b, c] = [3 * r, 3 * r + 1, 3 * r + 2];
    // Its right half mirrors its left: it does not twist.
    return [a, a + 3, b + 3, a, b + 3, b, b, b + 3, c, c, b + 3, c + 3];
  }).flat();
  const sheet = makeSheet(places, indices);
  const cloth = makeCloth({
    ...{ sheet, matter: matterOf(value, frame), h: 1 / WATCH.rate, bodies: [], arena: null },
    held: Uint8Array.from({ length: 3 * ROWS }, (_, i) => Number(i < 3)),
    skin: () => ({ thickness: 0, friction: 0 }),
    selfContact: false,
  });
  cloth.pull.fill(pullOf(value, frame));
  cloth.damp.fill(dampingOf(value, frame, length));
  cloth.begin(places, new Float64Array(places.length));
  const gravity = [0, -9.81 * value('gravity', frame), 0];
  const [before, now] = [Float64Array.from(places), Float64Array.from(places)];
  const next = (turned: number) => {
    before.set(now);
    for (let o = 2; o < now.length; o += 3) now[o] = STEP * length * turned;
    cloth.step({
      before,
      now,
      from: 0,
      to: 1,
      gravity,
      sail: { drag: 0, lift: 0, density: 0 },
      field: null,
      fresh: false,
    });
    return cloth.x[cloth.x.length - 1]! / (STEP * length);
  };
  return watchTurn(next, WATCH, fps);
}

/** Hz of hold at most, and what a fit begins from where there is none. */
const MOST_HOLD = 30;
const FROM_HOLD = 0.5;

/** A hold and a damping, of both the swing and the hold, that give an asked feel. */
export function fitCloth(
  part: Pick<SheetPart, 'settings' | 'keys'>,
  length: number,
  fps: number,
  frame: number,
  asked: AskedFeel,
): FittedFeel {
  const { value } = valuesOf(part);
  const hold = Math.max(FROM_HOLD, value('hold', frame));
  const set = (scale: number, damping: number) => ({ hold: hold * scale, damping, holdDamping: damping });
  return fitTo(asked, Math.max(0.01, value('damping', frame)), MOST_HOLD / hold, set, (s) =>
    clothFeel((key, f) => (key in s ? s[key as keyof typeof s] : value(key, f)), length, fps, frame),
  );
}
