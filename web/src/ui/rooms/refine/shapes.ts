import type { RefineTool } from '@oscillum/core/model';

export type Value = number | string;
export type Values = Readonly<Record<string, Value>>;

export interface Slider {
  readonly key: string;
  readonly name: string;
  readonly from: number;
  readonly to: number;
  readonly step: number;
  readonly begin: number;
  readonly shown: (v: number) => string;
}
interface Choice {
  readonly key: string;
  readonly name: string;
  readonly choices: readonly (readonly [string, string])[];
}
export interface Shape {
  readonly name: string;
  readonly says: string;
  readonly tool: RefineTool['tool'];
  readonly sliders: readonly Slider[];
  readonly choice?: Choice;
}

const share = (v: number) => `${Math.round(100 * v)} %`;
const amount = (begin: number): Slider => ({
  ...{ key: 'amount', name: 'Amount', from: 0, to: 1, step: 0.01, begin, shown: share },
});

/** The shape tools, in the order in which a curve is mostly cleaned. */
export const SHAPES: readonly Shape[] = [
  {
    ...{ name: 'Remove jitter', tool: 'remove jitter', sliders: [amount(1)] },
    says: 'Takes out what shivers from frame to frame and leaves the swing.',
  },
  {
    ...{ name: 'Smooth', tool: 'smooth' },
    says: 'Rounds off: each place is blended with those about it.',
    sliders: [
      amount(0.7),
      {
        ...{ key: 'width', name: 'Over', from: 0.5, to: 12, step: 0.5, begin: 2 },
        shown: (v) => `${v} fr`,
      },
    ],
  },
  {
    ...{ name: 'Exaggerate', tool: 'exaggerate' },
    says: 'Goes so many times as far from the line between its ends, or from the source.',
    sliders: [
      {
        ...{ key: 'amount', name: 'Times', from: 0, to: 3, step: 0.05, begin: 1.4 },
        shown: (v) => `${v.toFixed(2)} ×`,
      },
    ],
    choice: {
      ...{ key: 'about', name: 'About' },
      choices: [
        ['line', 'the line through it'],
        ['source', 'the source'],
      ],
    },
  },
  {
    ...{ name: 'Settle', tool: 'settle' },
    says: 'Comes to rest sooner, or swings on for longer; it ends where it ended.',
    sliders: [
      {
        ...{ key: 'amount', name: 'Rest', from: -1, to: 1, step: 0.02, begin: 0.4 },
        shown: (v) => (v === 0 ? 'as it is' : v > 0 ? `${share(v)} sooner` : `${share(-v)} later`),
      },
    ],
  },
  {
    ...{ name: 'Offset along the chain', tool: 'offset' },
    says: 'Each joint later than the one above it: more drag along the chain.',
    sliders: [
      {
        ...{ key: 'frames', name: 'A joint', from: -4, to: 4, step: 0.25, begin: 0.5 },
        shown: (v) => `${v} fr`,
      },
    ],
  },
  {
    ...{ name: 'Back to source', tool: 'to source', sliders: [amount(0.5)] },
    says: 'Blends with how the clip moved before it was simulated.',
  },
  {
    ...{ name: 'Toward a pose', tool: 'to pose', sliders: [amount(0.5)] },
    says: 'Blends with the pose just before the span, or just after it.',
    choice: {
      ...{ key: 'pose', name: 'Pose' },
      choices: [
        ['before', 'before the span'],
        ['after', 'after the span'],
      ],
    },
  },
  {
    ...{ name: 'Close the loop', tool: 'close loop', sliders: [] },
    says: 'Leads the last frame of the span over into its first.',
  },
];

/** How far a tool fades in and out at the ends of its span. */
export const FALL_OFF: Slider = {
  ...{ key: 'ease', name: 'Fall-off', from: 0, to: 20, step: 1, begin: 4 },
  shown: (v) => `${v} fr at its ends`,
};

/** What a tool begins with. */
export const firstValues = (s: Shape): Values => ({
  ...Object.fromEntries(s.sliders.map((x) => [x.key, x.begin])),
  ...(s.choice && { [s.choice.key]: s.choice.choices[0]![0] }),
});
