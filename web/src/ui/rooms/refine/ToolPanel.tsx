import { useEffect, useMemo, useState } from 'react';
import type { RefineTool } from '@oscillum/core/model';
import { readCurve, type Curves } from '@oscillum/core/refine';
import { useAppDispatch, useAppSelector } from '../../../state/store';
import { NumberBox } from '../../kit/Fields';
import { chooseKeys } from '../../../state/refine';
import { sentenceOf } from '../../../state/edits';
import { sayTrouble } from '../../kit/say';
import { ThinChoices } from '../../desk/ThinChoices';
import { ChoiceRow } from '../../kit/Rows';
import { Layer } from './Layer';
import { keyStep, shapeStep, toolSpan, useRefineDesk } from './refineDesk';

type Value = number | string;
type Values = Readonly<Record<string, Value>>;

interface Slider {
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
interface Shape {
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
const SHAPES: readonly Shape[] = [
  {
    ...{ name: 'Steady', tool: 'steady', sliders: [amount(1)] },
    says: 'Takes out what shivers from frame to frame and leaves the swing.',
  },
  {
    ...{ name: 'Soften', tool: 'soften' },
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
    ...{ name: 'Shift later', tool: 'later' },
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

/** Keys of the curves that were thinned, before and after. */
function keysOf(every: Curves, base: Curves): [number, number] {
  let [before, after] = [0, 0];
  for (const [key, c] of every) {
    const few = base.get(key)?.times.length ?? 0;
    if (few === c.times.length) continue;
    before += c.times.length;
    after += few;
  }
  return [before, after];
}

const firstValues = (s: Shape): Values => ({
  ...Object.fromEntries(s.sliders.map((x) => [x.key, x.begin])),
  ...(s.choice && { [s.choice.key]: s.choice.choices[0]![0] }),
});

/** Shape tools, the chosen key's numbers, how keys are written, and what is laid on the bake. */
export function ToolPanel() {
  const desk = useRefineDesk();
  const dispatch = useAppDispatch();
  const shot = useAppSelector((s) => s.shot.shot)!;
  const [shape, setShape] = useState<Shape | null>(null);
  const [values, setValues] = useState<Values>({});
  const [ease, setEase] = useState(4);
  const { setDraft, draft, untouched } = desk;
  const span = toolSpan(desk);
  const { every, base } = desk;
  const keys = useMemo(() => every && keysOf(every, base), [every, base]);

  const made = (s: Shape, v: Values, e: number) =>
    shapeStep(desk, s.name, { tool: s.tool, ...v } as RefineTool, e);
  const open = (s: Shape) => {
    const v = firstValues(s);
    setShape(s);
    setValues(v);
    setDraft(made(s, v, ease));
  };
  const set = (v: Values, e = ease) => {
    setValues(v);
    setEase(e);
    if (shape) setDraft(made(shape, v, e));
  };
  const close = () => {
    setShape(null);
    setDraft(null);
  };
  // The tool is laid on what is chosen now.
  const where = `${span.first} ${span.last} ${desk.path} ${desk.nodes.join(' ')}`;
  useEffect(() => {
    if (shape) setDraft(made(shape, values, ease));
    // Only when the place is another; values are set with their own draft.
    // eslint-disable-next-line react-hooks/exhaustive-deps
  }, [where]);

  return (
    <aside className="panel" aria-label="Refine">
      <h2>Refine</h2>
      <p className="muted small" style={{ margin: 0 }}>
        Frames {span.first} to {span.last} of{' '}
        {desk.nodes.length === 1 ? 'one joint' : `${desk.nodes.length} joints`}
        {desk.span || Object.keys(desk.chosen).length ? '.' : '. Choose keys or a span to work on less.'}
      </p>
      <h3>Shape</h3>
      <div className="presses">
        {SHAPES.map((s) => (
          <button
            key={s.name}
            className="soft"
            title={s.says}
            aria-pressed={shape === s}
            disabled={untouched || desk.nodes.length === 0}
            onClick={() => (shape === s ? close() : open(s))}
          >
            {s.name}
          </button>
        ))}
      </div>
      {shape && (
        <form
          className="notice shape"
          aria-label={shape.name}
          onSubmit={(e) => {
            e.preventDefault();
            const step = draft ?? made(shape, values, ease);
            setShape(null);
            if (step) desk.lay(step);
          }}
          onKeyDown={(e) => {
            e.stopPropagation();
            if (e.key === 'Escape') close();
          }}
        >
          <p style={{ margin: 0 }}>{shape.says}</p>
          {[
            ...shape.sliders,
            ...(shape.tool === 'close loop'
              ? []
              : [
                  {
                    ...{ key: 'ease', name: 'Fall-off', from: 0, to: 20, step: 1, begin: 4 },
                    shown: (v: number) => `${v} fr at its ends`,
                  },
                ]),
          ].map((s) => {
            const value = s.key === 'ease' ? ease : (values[s.key] as number);
            return (
              <label key={s.key} className="slide-row">
                <span>{s.name}</span>
                <input
                  className="slide"
                  type="range"
                  min={s.from}
                  max={s.to}
                  step={s.step}
                  value={value}
                  style={{ '--at': `${(100 * (value - s.from)) / (s.to - s.from)}%` } as React.CSSProperties}
                  aria-label={s.name}
                  aria-valuetext={s.shown(value)}
                  onChange={(e) => {
                    const v = Number(e.target.value);
                    if (s.key === 'ease') set(values, v);
                    else set({ ...values, [s.key]: v });
                  }}
                />
                <output>{s.shown(value)}</output>
              </label>
            );
          })}
          {shape.choice && (
            <ChoiceRow
              label={shape.choice.name}
              value={values[shape.choice.key] as string}
              choices={shape.choice.choices}
              onSet={(v) => set({ ...values, [shape.choice!.key]: v })}
            />
          )}
          <span className="pair">
            <button className="press" type="submit">
              Lay it on
            </button>
            <button className="soft" type="button" onClick={close}>
              Leave it
            </button>
          </span>
        </form>
      )}
      <ChosenKey />
      <h3>Keys of the bake</h3>
      <ThinChoices
        keys={shot.keys}
        onSet={(keys) => {
          try {
            dispatch(chooseKeys(keys));
          } catch (e) {
            sayTrouble(sentenceOf(e));
          }
        }}
      />
      {keys && (
        <p className="muted small" style={{ margin: 0 }}>
          {keys[0]} keys became <b>{keys[1]}</b>. The thin dark line is the bake with all of them.
        </p>
      )}
      <Layer />
    </aside>
  );
}

/** Frame and values of one chosen key, to be typed. */
function ChosenKey() {
  const desk = useRefineDesk();
  const { character } = desk.ground;
  const [key, frames] = Object.entries(desk.chosen).find(([, list]) => list.length > 0) ?? ['', []];
  const one = Object.values(desk.chosen).flat().length === 1;
  const frame = frames[0]!;
  const c = desk.now.get(key);
  if (!one || !c || desk.untouched) return null;
  const { first, last } = desk.range;
  const read = readCurve(c, character, first, last, 1, desk.ground);
  const at = read.keys.indexOf(frame);
  if (at < 0) return null;
  const values = read.values.subarray(3 * at, 3 * at + 3);
  const unit = desk.path === 'rotation' ? '°' : '';
  const moved = (component: number, by: number, on: number) => {
    const step = keyStep(desk, 'Move', (keys) => ({ tool: 'move', keys, frames: on, by, component }));
    if (!step) return;
    desk.lay(step);
    desk.setChosen({ [key]: [frame + on] });
  };
  return (
    <>
      <h3>Key of {desk.nameOf(c.node)}</h3>
      <div className="field">
        <span>Frame</span>
        <NumberBox label="Frame of the key" value={frame} onSet={(v) => moved(0, 0, v - frame)} />
      </div>
      <div className="field">
        <span>{unit ? 'Turns, °' : 'Place'}</span>
        <span className="triple">
          {(['x', 'y', 'z'] as const).map((axis, k) => (
            <NumberBox
              key={axis}
              label={`${axis} of the key`}
              unit={unit}
              value={values[k]!}
              onSet={(v) => moved(k, v - values[k]!, 0)}
            />
          ))}
        </span>
      </div>
    </>
  );
}
