import { describe, expect, it } from 'vitest';
import { sliderOf } from '../../model/index';
import { CHAIN_SETTINGS, chainSettingsFor, initialChainSettings } from './shared';

it("a new chain is as thick as suits its length, and without a length it has the table's own settings", () => {
  expect(chainSettingsFor(0.9)).toEqual({ ...initialChainSettings(), thickness: 0.018 });
  expect(chainSettingsFor(0.018)).toMatchObject({ gravity: 0.12, thickness: 0.00036 });
  for (const none of [0, NaN]) expect(chainSettingsFor(none)).toEqual(initialChainSettings());
});

describe('sliders of settings', () => {
  it('lengths are as long and as fine as the chain asks for, whatever its size', () => {
    for (const length of [0.002, 0.03, 0.4, 9, 200]) {
      const { min, max, step } = sliderOf(CHAIN_SETTINGS.thickness, length);
      expect(min).toBe(0);
      expect(max / length, `${length} m`).toBeGreaterThan(0.06);
      expect(max / length, `${length} m`).toBeLessThan(0.65);
      expect(step / max).toBeCloseTo(0.01, 9);
    }
  });
  it('what is no length stays as it is, and so does a length on a chain that has none', () => {
    const { sliderMin: min, sliderMax: max, step, sliderMiddle: middle } = CHAIN_SETTINGS.hold;
    expect(sliderOf(CHAIN_SETTINGS.hold, 200)).toEqual({ min, max, step, middle });
    expect(sliderOf(CHAIN_SETTINGS.thickness, NaN).max).toBe(CHAIN_SETTINGS.thickness.sliderMax);
  });
});
