import type { BodyStep } from '../../kernel/soft/bodyFields';
import type { BodySkin } from './skin';

/** A string from a point of a body's surface to an anchor: it pulls where it is taut, and does nothing else. */
export interface BodyString {
  readonly point: number;
  /** m: how long it is, and where its other end is at the end of a step: to be filled in before it. */
  readonly length: number;
  readonly anchor: Float64Array;
}

/** It holds so many times the weight of the body when it is longer by this share. */
const WEIGHTS = 3;
const LONGER = 0.002;
/** It is looked at from this share of its length before it is taut. */
const NEARLY = 0.1;
const G = 9.81;

/** What strings write of a step. */
interface Pulled {
  readonly skin: BodySkin;
  readonly fields: BodyStep;
  /** Places of the surface as they are looked for, m. */
  readonly at: Float64Array;
  /** kg, and m: of the whole body, and of the layer in which touches press. */
  readonly mass: number;
  readonly layer: number;
}

/**
 * Writes a string as the touch of a plane: the end of the string is kept on the near side of the plane that the ball
 * about its anchor has where the string meets it. Returns whether it is near enough to be taut.
 */
export function writeString({ point, length, anchor }: BodyString, row: number, into: Pulled): boolean {
  const { skin, fields, at, mass, layer } = into;
  const way = [0, 1, 2].map((a) => anchor[a]! - at[3 * point + a]!);
  const far = Math.sqrt(way.reduce((s, x) => s + x * x, 0));
  const gap = length - far;
  if (far < 1e-9 || gap > NEARLY * length) return false;
  let along = 0;
  way.forEach((x, a) => {
    fields.plane[4 * row + a] = x / far;
    along += (x / far) * (at[3 * point + a]! - skin.off[3 * point + a]!);
    fields.anchor[3 * row + a] = 0;
  });
  fields.plane[4 * row + 3] = along - gap;
  for (let j = 0; j < 8; j++) {
    fields.rowNode[8 * row + j] = skin.nodes[8 * point + j]!;
    fields.rowShare[8 * row + j] = skin.shares[8 * point + j]!;
  }
  fields.held[row] = 0;
  fields.rub[row] = 0;
  // A touch presses with stiffness × depth² / 2 layer.
  fields.stiffness[row] = (2 * layer * WEIGHTS * mass * G) / (LONGER * length) ** 2;
  return true;
}
