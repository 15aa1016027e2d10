import { expect, it } from 'vitest';
import { lengthText, lengthUnit } from './index';

it('a length is said in the unit one would use for it', () => {
  expect([114.2, 1.369, 0.028, 0.0036, 0.00004, 1e-9, 0].map(lengthText)).toEqual([
    '114 m',
    '1.37 m',
    '2.8 cm',
    '3.6 mm',
    '0.040 mm',
    '0 mm',
    '0 mm',
  ]);
});

it('small lengths on a mouse are in millimetres, on a bird in centimetres, on a giant in metres', () => {
  expect([0.02, 0.9, 60].map((size) => lengthUnit(size).unit)).toEqual(['mm', 'cm', 'm']);
  expect(lengthUnit(NaN)).toEqual({ unit: 'm', metres: 1 });
});
