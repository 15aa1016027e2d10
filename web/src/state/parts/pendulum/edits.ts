import { randomId } from '../../../api/ids';
import { PartId, type JointRef } from '@oscillum/core/model';
import {
  applyPendulumPreset,
  makePendulumPart,
  PENDULUM_PRESETS,
  signalKeys,
  softly,
  type Input,
  type Output,
  type PendulumPart,
  type PendulumPreset,
} from '@oscillum/core/pendulum';
import { drivenSetting, partsInOrder, type Shot } from '@oscillum/core/shot';
import { change, preview, type Recipe } from '../../edits';
import { freeName } from '../../names';
import type { Thunk } from '../../store';
import { viewSlice } from '../../view';

/** What a new pendulum is for. */
export type Purpose = 'breathe' | 'sway' | 'follow';

/** How far each output waits behind the one before it, frames at 30 a second. */
const LATER = 3;

/** What a new output does: a breath swells what nothing hangs from, and turns what carries something along. */
const outputOn = (
  joint: JointRef,
  purpose: Purpose,
  k: number,
  fps: number,
  { swells, below }: Place,
): Output => ({
  id: `o${randomId(8)}`,
  target:
    purpose === 'breathe' && swells
      ? { does: 'scale', joint, axis: 'all' }
      : { does: 'turn', joint, axis: purpose === 'sway' ? 'z' : 'x' },
  pendulum: 1,
  delay: Math.round((k * LATER * fps) / 30),
  gain: purpose === 'breathe' ? (swells ? 0.06 : -3) : purpose === 'sway' ? 4 : 0.5,
  offset: 0,
  low: null,
  high: null,
  order: below ? 'instead' : 'on top',
});

/**
 * How a joint stands among the others: whether nothing hangs from it, and whether it hangs from one that is driven too.
 */
interface Place {
  readonly swells: boolean;
  readonly below: boolean;
}
type Nodes = readonly { readonly parent: number; readonly children: readonly number[] }[];

function placeOf(nodes: Nodes, node: number, driven: ReadonlySet<number>): Place {
  let below = false;
  for (let n = nodes[node]!.parent; n >= 0; n = nodes[n]!.parent) below ||= driven.has(n);
  return { swells: nodes[node]!.children.length === 0, below };
}

/** Makes a pendulum of the selected joints, each later than the one before, and selects it. */
export function makePendulum(nodes: Nodes, joints: readonly JointRef[], purpose: Purpose): Thunk {
  return (dispatch, getState) => {
    const { shot } = getState().shot;
    if (!shot || joints.length === 0) return;
    const preset = PENDULUM_PRESETS[purpose === 'sway' ? 2 : 0]!;
    const follows = purpose === 'follow';
    const driven = follows ? joints.slice(1) : joints;
    const all = new Set(driven.map((j) => j.node));
    const id = PartId.parse(`p${randomId(8)}`);
    const last = partsInOrder(shot).reduce((n, p) => Math.max(n, p.order), -1);
    const name = freeName({ breathe: 'Breath', sway: 'Sway', follow: 'Follow' }[purpose], shot.parts);
    const input = follows
      ? ({ from: 'turn', joint: joints[0]!, axis: 'x' } as const)
      : ({ from: 'drawn', keys: signalKeys(preset, shot.fps), cycles: true } as const);
    const part = makePendulumPart({
      ...{ id, name, order: last + 1, input },
      outputs: driven.map((j, k) => outputOn(j, purpose, k, shot.fps, placeOf(nodes, j.node, all))),
    });
    if (!follows) applyPendulumPreset(part, preset, shot.fps);
    dispatch(change('Make pendulum', (d) => void (d.parts[id] = part)));
    dispatch(viewSlice.actions.partsSelected({ parts: [id] }));
    dispatch(viewSlice.actions.jointsSelected({ joints: [] }));
  };
}

/** Changes pendulums by name; not final while a hand still holds what is changed. */
export function changePendulums(
  ids: readonly string[],
  name: string,
  recipe: (part: PendulumPart) => void,
  final = true,
): Thunk {
  const each: Recipe = (d) => {
    for (const id of ids) {
      const part = d.parts[id];
      if (part?.kind === 'pendulum') recipe(part as PendulumPart);
    }
  };
  return final ? change(name, each) : preview(each);
}

export const putPendulumPreset = (ids: readonly string[], preset: PendulumPreset, fps: number): Thunk =>
  changePendulums(ids, preset.name, (p) => applyPendulumPreset(p, preset, fps));

export const setInput = (ids: readonly string[], input: Input, final = true): Thunk =>
  changePendulums(ids, 'Set what it follows', (p) => void (p.input = input), final);

/** Changes one output; not final while a hand still holds what is changed. */
export const changeOutput = (
  id: string,
  output: string,
  name: string,
  set: Partial<Output>,
  final = true,
): Thunk =>
  changePendulums(
    [id],
    name,
    (p) => {
      const o = p.outputs.find((x) => x.id === output);
      if (o) Object.assign(o, set);
    },
    final,
  );

export const addOutput = (id: string, nodes: Nodes, joint: JointRef, fps: number): Thunk =>
  changePendulums([id], 'Add an output', (p) => {
    const all = new Set(p.outputs.flatMap(({ target }) => ('joint' in target ? [target.joint.node] : [])));
    p.outputs.push(outputOn(joint, 'follow', p.outputs.length, fps, placeOf(nodes, joint.node, all)));
  });

/** Adds an output that drives a setting of another part, by a fifth of what its slider has. */
export const addSetting = (id: string, parts: Shot['parts'], of: SettingRef): Thunk =>
  changePendulums([id], 'Add an output', (p) => {
    p.outputs.push(outputOnSetting(parts, of));
  });

/** A setting of a part. */
export interface SettingRef {
  readonly part: PartId;
  readonly setting: string;
}

export function outputOnSetting(parts: Shot['parts'], { part, setting }: SettingRef): Output {
  const { sliderMax, sliderMin } = drivenSetting(parts, { part, setting })!.info;
  return {
    ...{ id: `o${randomId(8)}`, pendulum: 1, delay: 0, offset: 0, low: null, high: null, order: 'on top' },
    target: { does: 'setting', part, setting },
    gain: Number(((sliderMax - sliderMin) / 5).toPrecision(1)),
  };
}

/** Makes a pendulum that breathes by a setting of a part, and selects it. */
export function breatheBy(of: SettingRef): Thunk {
  return (dispatch, getState) => {
    const { shot } = getState().shot;
    if (!shot) return;
    const preset = PENDULUM_PRESETS[0]!;
    const id = PartId.parse(`p${randomId(8)}`);
    const part = makePendulumPart({
      ...{ id, name: freeName('Breath', shot.parts) },
      order: partsInOrder(shot).reduce((n, p) => Math.max(n, p.order), -1) + 1,
      input: { from: 'drawn', keys: signalKeys(preset, shot.fps), cycles: true },
      outputs: [outputOnSetting(shot.parts, of)],
    });
    applyPendulumPreset(part, preset, shot.fps);
    dispatch(change('Make pendulum', (d) => void (d.parts[id] = part)));
    dispatch(viewSlice.actions.partsSelected({ parts: [id] }));
  };
}

export const removeOutput = (id: string, output: string): Thunk =>
  changePendulums([id], 'Remove an output', (p) => {
    p.outputs = p.outputs.filter((o) => o.id !== output);
  });

/** A fitted value of an output, and what is missed when what was asked cannot be had. */
export interface Fit {
  readonly set: Partial<Output>;
  readonly missed: string;
}

/** The gain that gives an output a peak (in its unit), `answer` being the pendulum's own at that moment. */
export function fitPeak(o: Output, answer: number, share: number, wanted: number): Fit {
  if (Math.abs(answer) < 1e-9 || share <= 0)
    return { set: {}, missed: 'What it follows does not move, so no gain gives it a peak.' };
  const within = wanted / share;
  const beyond =
    o.high !== null && within >= o.high ? o.high : o.low !== null && within <= o.low ? o.low : null;
  // The value that a soft limit turns into the wanted one lies above it: found by halving.
  const side = Math.sign(within - o.offset) || 1;
  let [near, far] = [within, within + side * 1e4 * Math.max(1e-3, Math.abs(within))];
  for (let k = 0; k < 80; k++) {
    const middle = (near + far) / 2;
    if (side * (softly(middle, o.low, o.high) - within) < 0) near = middle;
    else far = middle;
  }
  const raw = beyond === null ? near : beyond;
  const gain = Number(((raw - o.offset) / answer).toPrecision(6));
  const reached = share * softly(o.offset + gain * answer, o.low, o.high);
  return {
    set: { gain },
    missed: beyond === null ? '' : `Its limit is ${beyond}: it comes to ${reached.toPrecision(3)}.`,
  };
}

/** The delay that gives an output a lag (frames), `lag` being what it has now. */
export function fitLag(o: Output, lag: number, wanted: number): Fit {
  const delay = Number((o.delay + wanted - lag).toFixed(2));
  if (delay >= 0) return { set: { delay }, missed: '' };
  const least = lag - o.delay;
  return {
    set: { delay: 0 },
    missed: `It cannot come sooner than ${least.toFixed(1)} frames: its pendulum trails by that. Raise the frequency.`,
  };
}
