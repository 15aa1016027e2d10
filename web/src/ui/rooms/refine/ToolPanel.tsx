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
import { FALL_OFF, firstValues, SHAPES, type Shape, type Slider, type Values } from './shapes';

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

/** Shape tools, the chosen key's numbers, how keys are written, and what is laid on the bake. */
export function ToolPanel() {
  const desk = useRefineDesk();
  const dispatch = useAppDispatch();
  const shot = useAppSelector((s) => s.shot.shot)!;
  const span = toolSpan(desk);
  const { every, base } = desk;
  const keys = useMemo(() => every && keysOf(every, base), [every, base]);

  return (
    <aside className="panel" aria-label="Refine">
      <h2>Refine</h2>
      <p className="muted small" style={{ margin: 0 }}>
        Frames {span.first} to {span.last} of{' '}
        {desk.nodes.length === 1 ? 'one joint' : `${desk.nodes.length} joints`}
        {desk.span || Object.keys(desk.chosen).length ? '.' : '. Choose keys or a span to work on less.'}
      </p>
      <ShapeTools />
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

/** The shape tools: the one chosen is laid on as a draft, to be kept or left. */
function ShapeTools() {
  const desk = useRefineDesk();
  const { setDraft, draft, untouched } = desk;
  const [shape, setShape] = useState<Shape | null>(null);
  const [values, setValues] = useState<Values>({});
  const [ease, setEase] = useState(4);
  const span = toolSpan(desk);
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
    <>
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
        <ShapeForm
          shape={shape}
          values={values}
          ease={ease}
          set={set}
          onClose={close}
          onLay={() => {
            const step = draft ?? made(shape, values, ease);
            setShape(null);
            if (step) desk.lay(step);
          }}
        />
      )}
    </>
  );
}

/** What can be set of a tool. */
function ShapeForm({
  shape,
  values,
  ease,
  set,
  onClose,
  onLay,
}: {
  shape: Shape;
  values: Values;
  ease: number;
  set: (values: Values, ease?: number) => void;
  onClose: () => void;
  onLay: () => void;
}) {
  const sliders = shape.tool === 'close loop' ? shape.sliders : [...shape.sliders, FALL_OFF];
  return (
    <form
      className="notice shape"
      aria-label={shape.name}
      onSubmit={(e) => {
        e.preventDefault();
        onLay();
      }}
      onKeyDown={(e) => {
        e.stopPropagation();
        if (e.key === 'Escape') onClose();
      }}
    >
      <p style={{ margin: 0 }}>{shape.says}</p>
      {sliders.map((s) => (
        <SliderRow
          key={s.key}
          slider={s}
          value={s === FALL_OFF ? ease : (values[s.key] as number)}
          onSet={(v) => (s === FALL_OFF ? set(values, v) : set({ ...values, [s.key]: v }))}
        />
      ))}
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
          Apply
        </button>
        <button className="soft" type="button" onClick={onClose}>
          Cancel
        </button>
      </span>
    </form>
  );
}

function SliderRow({
  slider: s,
  value,
  onSet,
}: {
  slider: Slider;
  value: number;
  onSet: (v: number) => void;
}) {
  return (
    <label className="slide-row">
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
        onChange={(e) => onSet(Number(e.target.value))}
      />
      <output>{s.shown(value)}</output>
    </label>
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
        <span>{unit ? 'Rotation, °' : 'Position'}</span>
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
