import type { Pose } from '../../character/index';
import { quatConjugate, quatFromAxis, quatMultiply } from '../../math/index';
import { OscillumError } from '../../model/index';
import { documentOf, drivenSetting } from '../documents';
import { anchorShare, type Driver, type DriveNeeds } from '../kind';
import { makeAnswer, type Answer } from './answer';
import type { Output, PendulumPart } from './document';
import type { PendulumLayout } from './layout';
import { softly } from './limits';
import { drawn, makeSignal, throughFrames } from './signal';

/** A driver that says what it does, for readouts. */
export interface PendulumDriver extends Driver {
  readonly answer: Answer;
  /** Value of an output at a frame, in its target's unit, as it is added. */
  valueOf(output: Output, frame: number): number;
}

/** Frames after the range that the rows of the track ask for. */
const BEYOND = 3;

/** Follows the input over the whole shot, once, and adds its outputs to any pose. */
export function makePendulumDriver(needs: DriveNeeds<PendulumLayout>): PendulumDriver {
  const { character, layout, shot, below, from, period } = needs;
  const part = shot.parts[layout.part.id] as PendulumPart;
  const { input } = part;
  const { metresPerUnit } = shot.character;
  const to = shot.range.last + BEYOND;
  const begins = period === null ? from : shot.range.first;
  const signal =
    input.from === 'drawn'
      ? drawn(input, begins, period)
      : throughFrames(makeSignal(character, part, input, below, metresPerUnit), begins, to, period);
  const answer = makeAnswer(part, { signal, from: begins, to, fps: shot.fps, period });
  const shareAt = (frame: number) => (answer.value('amount', frame) / 100) * anchorShare(part.anchors, frame);
  const valueOf = (o: Output, frame: number): number => {
    const late = frame - o.delay - answer.value('delay', frame);
    return shareAt(frame) * softly(o.offset + o.gain * answer.at(o.pendulum, late), o.low, o.high);
  };
  const outputs = layout.order.map((i) => part.outputs[i]!);
  const settings = part.outputs.flatMap((o) => {
    const { target } = o;
    if (target.does !== 'setting') return [];
    const driven = shot.parts[target.part];
    if (driven && !drivenSetting(shot.parts, target))
      throw new OscillumError(
        'shot.invalid',
        `${part.name}: ${driven.name} has no setting ${target.setting} that can be driven`,
        `/parts/${part.id}`,
        `Drive ${documentOf(driven).driven.join(' or ') || 'another part'} instead.`,
      );
    return [{ part: target.part, setting: target.setting, at: (frame: number) => valueOf(o, frame) }];
  });
  const turned = new Turned(character.nodes);
  return {
    answer,
    valueOf,
    settings,
    add: (frame, pose) => {
      turned.begin();
      for (const o of outputs) addOutput(o, valueOf(o, frame), pose, metresPerUnit, turned);
    },
  };
}

const AXES = { x: [1, 0, 0], y: [0, 1, 0], z: [0, 0, 1] } as const;
const turn = new Float64Array(4);

function addOutput(
  { target, order }: Output,
  value: number,
  pose: Pose,
  metresPerUnit: number,
  turned: Turned,
): void {
  if (target.does === 'morph') {
    const weights = pose.morphs.get(target.morph.node);
    if (weights) weights[target.morph.target]! += value;
    return;
  }
  if (target.does === 'setting') return;
  const { node } = target.joint;
  if (target.does === 'turn') {
    if (order === 'instead') turned.takeOut(node, pose);
    turned.keep(node, pose);
    const [x, y, z] = AXES[target.axis];
    quatFromAxis(turn, 0, x, y, z, (value * Math.PI) / 180);
    quatMultiply(pose.r, 4 * node, pose.r, 4 * node, turn, 0);
  } else if (target.does === 'place') pose.t[3 * node + 'xyz'.indexOf(target.axis)]! += value / metresPerUnit;
  else {
    if (order === 'instead') turned.unscale(node, pose);
    for (let a = 0; a < 3; a++)
      if (target.axis === 'all' || target.axis === 'xyz'[a]) turned.scale(node, a, 1 + value, pose);
  }
}

const now = new Float64Array(4);
const was = new Float64Array(4);

/** What this driver has turned and scaled joints by, so that a child may be freed of what its parents got. */
class Turned {
  private readonly before = new Map<number, Float64Array>();
  /** Joints of the pose that is being added to. */
  private readonly fresh = new Set<number>();
  constructor(private readonly nodes: readonly { readonly parent: number }[]) {}

  /** Factors by which joints were scaled along their axes, 3 a joint. */
  private readonly factors = new Map<number, Float64Array>();

  begin(): void {
    this.fresh.clear();
    for (const f of this.factors.values()) f.fill(1);
  }

  scale(node: number, axis: number, by: number, pose: Pose): void {
    const own = this.factors.get(node) ?? new Float64Array(3).fill(1);
    this.factors.set(node, own);
    own[axis]! *= by;
    pose.s[3 * node + axis]! *= by;
  }

  /** Takes out of a joint's scale what its parents were scaled by, axis by axis: exact where their axes lie alike. */
  unscale(node: number, pose: Pose): void {
    for (let n = this.nodes[node]!.parent; n >= 0; n = this.nodes[n]!.parent)
      this.factors.get(n)?.forEach((by, a) => {
        if (by !== 0) pose.s[3 * node + a]! /= by;
      });
  }

  keep(node: number, pose: Pose): void {
    if (this.fresh.has(node)) return;
    this.fresh.add(node);
    const own = this.before.get(node) ?? new Float64Array(4);
    for (let k = 0; k < 4; k++) own[k] = pose.r[4 * node + k]!;
    this.before.set(node, own);
  }

  /**
   * Takes out of a joint's rotation what its parents were turned by: with T the turns from the top of the figure to its
   * parent as they are now and T₀ as they were, the joint's own R becomes T⁻¹ T₀ R.
   */
  takeOut(node: number, pose: Pose): void {
    now.set([0, 0, 0, 1]);
    was.set([0, 0, 0, 1]);
    for (let n = this.nodes[node]!.parent; n >= 0; n = this.nodes[n]!.parent) {
      quatMultiply(now, 0, pose.r, 4 * n, now, 0);
      const before = this.fresh.has(n) ? this.before.get(n)! : null;
      quatMultiply(was, 0, before ?? pose.r, before ? 0 : 4 * n, was, 0);
    }
    quatConjugate(now, 0, now, 0);
    quatMultiply(now, 0, now, 0, was, 0);
    quatMultiply(pose.r, 4 * node, now, 0, pose.r, 4 * node);
  }
}
