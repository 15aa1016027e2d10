import { expect, test } from 'vitest';
import { amountText, readAmount } from './amount';

test('numbers are read with units, commas and arithmetic, in the unit of the setting', () => {
  expect(readAmount('3,5', 'Hz', null)).toBe(3.5);
  expect(readAmount('12 mm', 'm', null)).toBeCloseTo(0.012, 12);
  expect(readAmount('2*0.4 + 1', '', null)).toBeCloseTo(1.8, 12);
  expect(readAmount('90°', '°', null)).toBeCloseTo(90, 9);
  expect(readAmount('0.5 rad', '°', null)).toBeCloseTo(28.6479, 3);
  expect(readAmount('1500 g/m', 'kg/m', null)).toBeCloseTo(1.5, 12);
  expect(readAmount('4 frames', 'frames', null)).toBe(4);
  expect(readAmount('120 %', '%', null)).toBe(120);
});

test('what begins with an operator and = works on the present value', () => {
  expect(readAmount('+=2', 'Hz', 1.5)).toBe(3.5);
  expect(readAmount('*=1.5', '%', 40)).toBe(60);
  expect(readAmount('-=1', '%', null)).toBeNull();
});

test('nonsense, other quantities and calls are refused', () => {
  for (const text of ['', 'abc', '3 kg', '1/0', 'import(1)', '{}', '[1]', 'x = 3', '3 +'])
    expect(readAmount(text, 'm', 1), text).toBeNull();
});

test('numbers are shown short, and small ones are not lost', () => {
  expect(amountText(0.1 + 0.2, 3)).toBe('0.3');
  expect(amountText(0.00036, 3)).toBe('0.00036');
  expect(amountText(0.00499999999, 3)).toBe('0.005');
  expect(amountText(-1e-17, 3)).toBe('0');
  expect(amountText(0.456, 1)).toBe('0.5');
  expect(amountText(12.3456, 3)).toBe('12.346');
});
