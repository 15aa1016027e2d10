/**
 * A row of points joined by links, as the air, the search and the contacts work on it: they ask no kind of part. Point
 * 0 is the root and is carried. Arrays are 3 numbers a point, from point 0, unless told otherwise.
 */
export interface LinkedPoints {
  readonly links: number;
  /** m */
  readonly x: Float64Array;
  /** m/s */
  readonly v: Float64Array;
  /** Where the source has the points at the moment being stepped to. */
  readonly source: Float64Array;
  /** kg of points 1..n, one number each. */
  readonly mass: Float64Array;
  /** Acceleration from outside on points 1..n, m/s²: gravity and what else the caller adds. */
  readonly fall: Float64Array;
  /** How firmly still air holds points 1..n, kg/s, one number each. */
  readonly grip: Float64Array;
}

/** The same, stepped: what contacts need of it. */
export interface SteppedPoints extends LinkedPoints {
  /** What touches or pulls during the next step, in rows of numbers: see `CONTACT` of contactRow.ts. */
  readonly contact: Float64Array;
  /** `source`, and whatever else the step aims at (4 numbers a turn), as one array. */
  readonly aims: Float64Array;
  /** All that is remembered, in one array; and the same before the last step, when something was near in it. */
  readonly memory: Float64Array;
  readonly before: Float64Array;
  /** Stiffness (in the units of the step's matrix) that counts as hard here. */
  hardness(): number;
  /** How many rows of `contact` are in use. */
  setContacts(count: number): void;
  /** 2 is the rule; 1 takes the next steps by implicit Euler, for substeps in which something hits. */
  setOrder(order: 1 | 2): void;
  /** Steps of this many seconds from now on; the rule is the one it was made with. */
  setStep(seconds: number): void;
  step(): void;
  /** Whether the last step kept its lengths and knew what touches. */
  converged(): boolean;
  /** Forgets how points moved before: velocities are now `v`, as if they had always been. */
  forget(): void;
}
