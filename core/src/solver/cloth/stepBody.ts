import type { Body } from '../bodies';

/** A body in a step of the sheet, which may be a part of a longer one of the shot. */
export interface StepBody extends Body {
  /** The body over the shot's whole step, and the shares of it at which this step starts and ends. */
  readonly whole: Body;
  from: number;
  to: number;
}

/** A body that a sheet's own step has to itself. */
export const wholeStep = (body: Body): StepBody => ({ ...body, whole: body, from: 0, to: 1 });
