import {
  addDependencies,
  create,
  divideDependencies,
  evaluateDependencies,
  multiplyDependencies,
  powDependencies,
  subtractDependencies,
  unaryMinusDependencies,
  unaryPlusDependencies,
  unitDependencies,
  type FactoryFunctionMap,
} from 'mathjs';

const math = create({
  addDependencies,
  divideDependencies,
  evaluateDependencies,
  multiplyDependencies,
  powDependencies,
  subtractDependencies,
  unaryMinusDependencies,
  unaryPlusDependencies,
  unitDependencies,
} as FactoryFunctionMap);

/** Our units as the arithmetic knows them; the others are ratios or counts, and what is typed of them is left out. */
const KNOWN: Record<string, string> = {
  '°': 'deg',
  m: 'm',
  cm: 'cm',
  mm: 'mm',
  Hz: 'Hz',
  'kg/m': 'kg/m',
  s: 's',
  'm/s': 'm/s',
  kg: 'kg',
  'm/s²': 'm/s^2',
  'kg/m³': 'kg/m^3',
};

/**
 * A number as people type it: "3", "3,5", "12 mm", "2*0.4 + 1", "90°", "+=2" and "*=1.5" on what stands there now.
 * Gives it in `unit`, or null when it is none.
 */
export function readAmount(text: string, unit: string, now: number | null): number | null {
  let typed = text.trim();
  const onNow = /^([-+*/])=(.*)$/.exec(typed);
  if (onNow) {
    if (now === null) return null;
    typed = `(${now}) ${onNow[1]} (${onNow[2]})`;
  }
  typed = typed
    .replace(/(\d),(\d)/g, '$1.$2')
    .replaceAll('°', ' deg')
    .replaceAll('²', '^2')
    .replaceAll('³', '^3');
  const known = KNOWN[unit];
  // Letters of a unit that is only a word, as in "4 frames" or "120 %".
  if (!known) typed = typed.replace(/\s*(frames?|fr|%|×|x|μ)\s*$/i, '');
  if (typed === '' || /[a-z]\s*\(|[;=[\]{}"']/i.test(typed)) return null;
  try {
    const value: unknown = math.evaluate(typed);
    const n = typeof value === 'number' ? value : known ? toNumber(value, known) : null;
    return typeof n === 'number' && Number.isFinite(n) ? n : null;
  } catch {
    return null;
  }
}

/**
 * A number to read: so many decimals at most; from three on, what is too small for them keeps three digits (to 1e-6).
 * What never comes to an end is said so, what is no number is a dash.
 */
export function amountText(value: number, digits: number): string {
  if (!Number.isFinite(value)) return value > 0 ? 'never' : '–';
  const small = digits >= 3 && Math.abs(value) < 10 ** (1 - digits) && Math.abs(value) >= 1e-6;
  return String(Number(small ? value.toPrecision(3) : value.toFixed(digits)));
}

/** A quantity in another unit; throws when the two measure different things. */
function toNumber(value: unknown, unit: string): number | null {
  return value !== null && typeof value === 'object' && 'toNumber' in value
    ? (value as { toNumber: (unit: string) => number }).toNumber(unit)
    : null;
}
