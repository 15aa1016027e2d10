/** One line of the truth table. */
export interface TruthRow {
  row: number;
  case: string;
  expected: number | string;
  measured: number | string;
  tolerance: string;
  status: 'pass' | 'fail';
}

/** A row that passes when |measured − expected| ≤ tolerance (in the same unit, or relative when `relative`). */
export function judge(
  row: number,
  name: string,
  expected: number,
  measured: number,
  tolerance: number,
  relative: boolean,
): TruthRow {
  const error = Math.abs(measured - expected) / (relative ? Math.abs(expected) : 1);
  return {
    row,
    case: name,
    expected: round(expected),
    measured: round(measured),
    tolerance: relative ? `${round(tolerance * 100)} %` : `${round(tolerance)}`,
    status: error <= tolerance ? 'pass' : 'fail',
  };
}

/** A row that passes when measured ≤ most. */
export function atMost(row: number, name: string, measured: number, most: number): TruthRow {
  return {
    row,
    case: name,
    expected: 0,
    measured: round(measured),
    tolerance: `≤ ${most}`,
    status: measured <= most ? 'pass' : 'fail',
  };
}

function round(x: number): number {
  return Number(x.toPrecision(6));
}
