import { Refinement } from '@oscillum/core/model';
import { channelKey, type Curves } from '@oscillum/core/refine';
import { describe, expect, it } from 'vitest';
import { frameAt, valueAt, xOf, yOf, type DrawnCurve, type Scale } from './draw';
import { keyStep, shapeStep, toolSpan, type RefineDesk } from './refineDesk';
import { FALL_OFF, firstValues, SHAPES } from './shapes';
import { keysBetween, valueRange } from './useCurves';

const NAMES = ['root', 'tail 1', 'tail 2', 'tail 3'];
const [one, two, three] = [1, 2, 3].map((n) => channelKey(n, 'rotation')) as [string, string, string];

/** A desk that shows three joints, of which the first two have curves. */
const desk = (more: Partial<RefineDesk> = {}): RefineDesk =>
  ({
    ...{ nodes: [1, 2, 3], path: 'rotation', nameOf: (n: number) => NAMES[n]! },
    ...{ chosen: {}, span: null, range: { first: 0, last: 96 } },
    now: new Map([one, two].map((k) => [k, {}])),
    ...more,
  }) as unknown as RefineDesk;

describe('the frames a tool works on', () => {
  it('are the span that was drawn, else that of the chosen keys, else all', () => {
    expect(toolSpan(desk())).toEqual({ first: 0, last: 96 });
    const chosen = { [one]: [30, 12], [two]: [40] };
    expect(toolSpan(desk({ chosen }))).toEqual({ first: 12, last: 40 });
    expect(toolSpan(desk({ chosen, span: { first: 5, last: 9 } }))).toEqual({ first: 5, last: 9 });
  });
  it('are all where one frame alone is chosen: a shape needs some way to go', () => {
    expect(toolSpan(desk({ chosen: { [one]: [12], [two]: [12] } }))).toEqual({ first: 0, last: 96 });
  });
});

describe('a step that is laid on the bake', () => {
  it('of a shape is on the joints that have curves, and says what and where', () => {
    const step = shapeStep(
      desk({ span: { first: 4, last: 20 } }),
      'Smooth',
      { tool: 'remove jitter', amount: 1 },
      3,
    )!;
    expect(step).toMatchObject({
      name: 'Smooth 2 joints, frames 4–20',
      first: 4,
      last: 20,
      ease: 3,
      muted: false,
    });
    expect(step.channels.map((c) => c.joint.name)).toEqual(['tail 1', 'tail 2']);
    const alone = shapeStep(desk({ nodes: [2] }), 'Smooth', { tool: 'remove jitter', amount: 1 }, 0)!;
    expect(alone.name).toBe('Smooth tail 2, frames 0–96');
  });
  it('of a shape is none where nothing shown has a curve', () => {
    expect(shapeStep(desk({ nodes: [3] }), 'Smooth', { tool: 'remove jitter', amount: 1 }, 0)).toBeNull();
    expect(shapeStep(desk({ nodes: [] }), 'Smooth', { tool: 'remove jitter', amount: 1 }, 0)).toBeNull();
  });
  it('of keys has the frames of each channel, and spans them', () => {
    const chosen = { [two]: [8, 3], [one]: [20] };
    const step = keyStep(desk({ chosen }), 'Delete', (keys) => ({ tool: 'delete', keys }))!;
    expect(step.name).toBe('Delete 3 keys of 2 joints');
    expect(step).toMatchObject({
      first: 3,
      last: 20,
      ease: 0,
      does: { tool: 'delete', keys: [[20], [8, 3]] },
    });
    expect(step.channels.map((c) => c.joint.node)).toEqual([1, 2]);
  });
  it('of keys is on those given rather than on those chosen, and none without any', () => {
    const does = (keys: number[][]) => ({ tool: 'delete' as const, keys });
    const given = keyStep(desk({ chosen: { [one]: [1, 2] } }), 'Delete', does, { [two]: [7] })!;
    expect(given.name).toBe('Delete a key of tail 2');
    expect(keyStep(desk(), 'Delete', does)).toBeNull();
    // Keys of joints that are not shown are not touched.
    expect(keyStep(desk({ nodes: [1] }), 'Delete', does, { [two]: [7] })).toBeNull();
  });
  it('has an id that no other has', () => {
    const ids = [0, 1, 2].map(() => shapeStep(desk(), 'Smooth', { tool: 'remove jitter', amount: 1 }, 0)!.id);
    expect(new Set(ids).size).toBe(3);
  });
});

describe('the shape tools', () => {
  /** What the document says of a step with a tool; nothing when it takes it. */
  const refused = (tool: object) => {
    const step = shapeStep(desk(), 'Try', tool as Refinement['does'], 4);
    return Refinement.safeParse(step).error?.issues ?? [];
  };
  it.each(SHAPES.map((s) => [s.name, s] as const))('%s begins with values the document takes', (_, shape) => {
    expect(refused({ tool: shape.tool, ...firstValues(shape) })).toEqual([]);
  });
  it.each(SHAPES.flatMap((s) => s.sliders.map((x) => [`${s.name}, ${x.name}`, s, x] as const)))(
    '%s takes both ends of its slider, and says every place of it',
    (_, shape, slider) => {
      for (const v of [slider.from, slider.to]) {
        const tool = { tool: shape.tool, ...firstValues(shape), [slider.key]: v };
        expect(refused(tool), `${slider.key} ${v}`).toEqual([]);
        expect(slider.shown(v)).not.toMatch(/NaN|undefined/);
      }
      expect(slider.begin).toBeGreaterThanOrEqual(slider.from);
      expect(slider.begin).toBeLessThanOrEqual(slider.to);
    },
  );
  it('say what a rest sooner or later is, and none', () => {
    const rest = SHAPES.find((s) => s.name === 'Settle')!.sliders[0]!;
    expect([-0.5, 0, 0.25].map(rest.shown)).toEqual(['50 % later', 'as it is', '25 % sooner']);
    expect(FALL_OFF.shown(4)).toBe('4 fr at its ends');
  });
});

describe('frames and values on the field', () => {
  const scale: Scale = { width: 400, height: 100, from: 10, to: 50, low: -20, high: 30 };
  it('go to pixels and back', () => {
    expect([10, 30, 50].map((f) => xOf(scale, f))).toEqual([0, 200, 400]);
    expect([-20, 5, 30].map((x) => yOf(scale, x))).toEqual([100, 50, 0]);
    for (const n of [0, 13.5, 77]) {
      expect(xOf(scale, frameAt(scale, n))).toBeCloseTo(n, 9);
      expect(yOf(scale, valueAt(scale, n))).toBeCloseTo(n, 9);
    }
  });
  const curve = (...samples: number[]): DrawnCurve =>
    ({ now: { samples: Float64Array.from(samples) } }) as unknown as DrawnCurve;
  it('show all that is shown with room round it, and no less than asked for', () => {
    const curves = [curve(0, 100, -5, 50, 300, 5)];
    const { low, high } = valueRange(curves, [true, false, true], 10);
    expect([low, high]).toEqual([-5 - 6.6, 50 + 6.6]);
    const flat = valueRange([curve(3, 3, 3)], [true, true, true], 10);
    expect(flat).toEqual({ low: -2, high: 8 });
    expect(valueRange([], [true, true, true], 10)).toEqual({ low: -10, high: 10 });
    expect(valueRange(curves, [false, false, false], 10)).toEqual({ low: -10, high: 10 });
  });
  it('choose the keys of a span, both ends in it, joint by joint, and none of joints without any there', () => {
    const at = new Map([
      [one, [0, 4, 8, 12]],
      [two, [20]],
    ]);
    const curves = new Map([...at].map(([k, frames]) => [k, { frames }])) as unknown as Curves;
    const frames = (c: unknown) => (c as { frames: number[] }).frames;
    expect(keysBetween([1, 2, 3], 'rotation', curves, frames, 4, 12)).toEqual({ [one]: [4, 8, 12] });
    expect(keysBetween([1, 2], 'translation', curves, frames, 0, 99)).toEqual({});
    expect(three in keysBetween([1, 2, 3], 'rotation', curves, frames, 0, 99)).toBe(false);
  });
});
