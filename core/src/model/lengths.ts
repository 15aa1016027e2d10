/** A length (m) as people say it: metres, centimetres or millimetres, with two or three digits. */
export function lengthText(m: number): string {
  if (m >= 1) return `${m.toFixed(m >= 100 ? 0 : 2)} m`;
  if (m >= 0.01) return `${(m * 100).toFixed(1)} cm`;
  return m < 1e-6 ? '0 mm' : `${(m * 1000).toPrecision(2)} mm`;
}

/** The unit that suits small lengths on something of this size (m), and how many metres it is. */
export function lengthUnit(size: number): { unit: 'mm' | 'cm' | 'm'; metres: number } {
  if (size > 0 && size < 0.1) return { unit: 'mm', metres: 0.001 };
  return size > 0 && size < 10 ? { unit: 'cm', metres: 0.01 } : { unit: 'm', metres: 1 };
}
