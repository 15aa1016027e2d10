import { describe, expect, it } from 'vitest';
import { makeRow, rowShot } from '../../../truth/rig';
import { measureFeel } from './feel';
import { lumpMasses, NO_FEEL } from '../../solver/index';
import { SETTING_GROUPS } from '../../model/index';
import { editShot, parseShot } from '../../shot/index';
import { asChain, applyPreset, Preset, PRESETS, suggestPreset, type ChainPart } from './shared';

const shot = rowShot(
  makeRow(6, 0.4, 1, () => ({ place: [0, 0, 0], turn: 0 })),
  { thickness: 0.02 },
);
const put = (preset: Preset, groups: Parameters<typeof applyPreset>[2] = SETTING_GROUPS) =>
  asChain(
    editShot(shot, 'test-0001', 'Preset', (d) => {
      asChain(d.parts.p).keys.hold = [{ frame: 0, value: 9, kind: 'linear' }];
      applyPreset(d.parts.p as ChainPart, preset, groups);
    }).shot.parts.p,
  );

describe('presets', () => {
  it.each(PRESETS.map((p) => [p.name, p] as const))(
    '%s is valid, changes the part and leaves its sizes',
    (_, preset) => {
      expect(Preset.parse(JSON.parse(JSON.stringify(preset)))).toEqual(preset);
      const part = put(preset);
      expect(part.settings).toMatchObject(preset.settings);
      expect(part.settings.thickness).toBe(0.02);
      expect(part.keys.hold).toBeUndefined();
    },
  );
  it('are suggested by the names of the joints, and by how many they are', () => {
    const named = (name: string, count = 3) =>
      suggestPreset(Array.from({ length: count }, (_, i) => ({ name: `${name}_${i + 1}` })))?.name;
    expect(named('tail')).toBe('Sweeping tail');
    expect(named('Ear L')).toBe('Springy ears');
    expect(named('hair_front')).toBe('Short hair');
    expect(named('hair_back', 8)).toBe('Long hair');
    expect(named('skirt_03')).toBe('Skirt and cape');
    expect(named('bone')).toBeUndefined();
    // Every word leads to a preset there is.
    for (const name of ['plume', 'crest', 'strap', 'braid', 'rope', 'antenna', 'belly', 'fin', 'arm'])
      expect(named(name), name).toBeDefined();
  });
  it('are applied in part: only the groups that are asked for', () => {
    const part = put(PRESETS[0]!, ['Swing']);
    expect(part.settings.bend).toBe(PRESETS[0]!.settings.bend);
    expect(part.settings.travel).toBe(asChain(shot.parts.p).settings.travel);
    expect(part.keys.hold).toHaveLength(1);
  });
  it('differ as they say: the crest is the quickest, the plume the latest to rest', () => {
    const lengths = new Float64Array(8).fill(0.05);
    const line = Float64Array.from({ length: 27 }, (_, k) => (k % 3 === 0 ? (k / 3) * 0.05 : 0));
    const feel = (name: string) => {
      const { hold = 1, bend = 1, damping = 0.3 } = PRESETS.find((p) => p.name === name)!.settings;
      return measureFeel(
        { lengths, masses: lumpMasses(lengths, 0.1) },
        { ...NO_FEEL, hold, bend, damping, gravity: [0, 0, 0] },
        line,
        30,
      );
    };
    expect(feel('Stiff crest').lag).toBeLessThan(feel('Sweeping tail').lag);
    expect(feel('Sweeping tail').lag).toBeLessThan(feel('Long plume').lag);
    expect(feel('Long plume').settle).toBeGreaterThan(2 * feel('Stiff crest').settle);
  });
});

describe('takes', () => {
  it('a shot of version 2 has none; what a take keeps is validated like the shot', () => {
    const { takes, ...old } = shot;
    expect(takes).toEqual({});
    expect(parseShot({ ...old, version: 2 })).toEqual(shot);
    const {
      range,
      preRollSeconds,
      substeps,
      gravity,
      gravityKeys,
      airDensity,
      start,
      loop,
      parts,
      colliders,
      forces,
    } = shot;
    const tuned = {
      range,
      preRollSeconds,
      substeps,
      gravity,
      gravityKeys,
      airDensity,
      start,
      loop,
      parts,
      colliders,
      forces,
    };
    const take = { id: 't1', name: 'First', tuned };
    expect(parseShot({ ...shot, takes: { t1: take } }).takes.t1!.tuned.parts).toEqual(shot.parts);
    expect(() => parseShot({ ...shot, takes: { t2: take } })).toThrow('another id');
    expect(() =>
      parseShot({ ...shot, takes: { t1: { ...take, tuned: { ...tuned, substeps: 0 } } } }),
    ).toThrow();
  });
});
