import type { AskedFeel, Feel, FittedFeel } from '../diagnosis';
import { fitTo } from '../fitting';
import { watchTurn } from '../quickTurn';
import type { BodyPart } from './document';
import { FULL_HOLD } from './settings';
import { valuesOf, type BodyValues } from './values';

/** Steps a second of the measurement, and how long it watches at most, s. */
const WATCH = { rate: 1920, longest: 20, quiet: 1.5 } as const;
/** Hz that a fit begins from where there is no hold. */
const FROM_HOLD = 0.5;

/**
 * How the middle of a body answers when its animation is moved quickly to the side, as a share of that way: its hold
 * alone, as contact and wobbles are left out. Steps by the trapezoidal rule.
 */
export function bodyFeel(value: BodyValues, fps: number, frame: number): Feel {
  const hold = value('hold', frame);
  const rate = 2 * Math.PI * hold;
  const [k, c, h] = [rate * rate, 2 * value('holdDamping', frame) * rate, 1 / WATCH.rate];
  const whole = hold >= FULL_HOLD;
  let [x, v, before] = [0, 0, 0];
  return watchTurn(
    (turned) => {
      if (whole) return turned;
      const goes = (turned - before) / h;
      const pull = k * ((turned + before) / 2 - x - (h / 2) * v) + c * (goes - v);
      const faster = (h * pull) / (1 + (h * c) / 2 + (h * h * k) / 4);
      x += h * (v + faster / 2);
      v += faster;
      before = turned;
      return x;
    },
    WATCH,
    fps,
  );
}

/** A hold and its damping that give an asked feel. */
export function fitBody(part: BodyPart, fps: number, frame: number, asked: AskedFeel): FittedFeel {
  const value = valuesOf(part);
  const hold = Math.max(FROM_HOLD, value('hold', frame));
  const set = (scale: number, holdDamping: number) => ({
    hold: Math.min(FULL_HOLD, hold * scale),
    holdDamping,
  });
  return fitTo(asked, Math.max(0.01, value('holdDamping', frame)), FULL_HOLD / hold, set, (s) =>
    bodyFeel((key, f) => (key in s ? s[key as keyof typeof s] : value(key, f)), fps, frame),
  );
}
