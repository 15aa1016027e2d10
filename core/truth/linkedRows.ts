import type { Character, CharacterNode } from '../src/character/index';
import type { Frames } from '../src/frames/index';
import { PartId } from '../src/model/index';
import { makeChainPart, type ChainSettings, type Spring } from '../src/parts/chain/shared';
import { makeSprings } from '../src/parts/chain/springs';
import type { Touchable } from '../src/parts/kind';
import { editShot } from '../src/shot/index';
import { simulateAll } from '../src/simulate/index';
import { makeRow, rowShot } from './rig';
import { atMost, type TruthRow } from './row';

const LINKS = 6;
const APART = 0.12;

/** Rows of joints that hang side by side from one root, which turns to and fro about two axes. */
export function curtain(rows: number): Character {
  const one = makeRow(LINKS, 0.6, 2, (t) => ({
    place: [0.12 * Math.sin(7 * t), 0, 0.1 * Math.sin(5 * t + 1)],
    turn: 0.35 * Math.sin(4 * t),
  }));
  const tops: number[] = [];
  const nodes: CharacterNode[] = [{ ...one.nodes[0]!, children: tops }];
  for (let r = 0; r < rows; r++)
    one.nodes.slice(1).forEach((n, i) => {
      const at = nodes.length;
      if (i === 0) tops.push(at);
      const last = i + 1 === one.nodes.length - 1;
      nodes.push({
        ...n,
        name: `row ${r + 1} joint ${i + 1}`,
        parent: i === 0 ? 0 : at - 1,
        children: last ? [] : [at + 1],
        t: i === 0 ? Float64Array.from([r * APART, 0, 0]) : n.t,
      });
    });
  const all = Int32Array.from(nodes.keys());
  return { ...one, nodes, order: all, joints: all };
}

/** The rows as chains, each of its own settings, linked to the one before. */
export function curtainShot(
  c: Character,
  rows: number,
  spring: Partial<Spring> | null,
  settings: Partial<ChainSettings>[],
) {
  return editShot(rowShot(c, {}, { fps: 30, substeps: 8 }), 'spring-001', 'Link', (d) => {
    delete d.parts.p;
    for (let r = 0; r < rows; r++) {
      const first = 1 + r * (LINKS + 1);
      const id = PartId.parse(`row${r}`);
      d.parts[id] = makeChainPart({
        ...{ id, name: `Row ${r}`, order: r, settings: settings[r]! },
        joints: Array.from({ length: LINKS }, (_, i) => ({
          node: first + i,
          name: c.nodes[first + i]!.name,
        })),
        springs: spring && r > 0 ? [{ to: PartId.parse(`row${r - 1}`), ...spring }] : [],
      });
    }
  }).shot;
}

/** Largest share by which the tips of neighbours are nearer or farther than their source has them. */
export function strayOfSpacing(frames: Frames, rows: number): number {
  let most = 0;
  for (let f = 0; f < frames.count; f++)
    for (let r = 1; r < rows; r++) {
      const tip = (part: number) =>
        frames.tips.subarray(3 * (f * frames.parts.length + part), 3 * (f * frames.parts.length + part) + 3);
      const [a, b] = [tip(r - 1), tip(r)];
      const d = Math.hypot(b[0]! - a[0]!, b[1]! - a[1]!, b[2]! - a[2]!);
      most = Math.max(most, Math.abs(d / APART - 1));
    }
  return most;
}

/** Neighbours that would swing apart by themselves. */
export const UNLIKE = [1, 1.35, 1.1, 1.25].map((hold) => ({ hold, bend: 0.5, damping: 0.25, gravity: 0.6 }));

/** What two linked chains push each other with, and the largest of it, N: their sum is to be nothing. */
export function pushes(): { readonly sum: number; readonly largest: number } {
  const wave = (seed: number) => Float64Array.from({ length: 12 }, (_, k) => Math.sin(seed + 2.3 * k));
  const side = (seed: number): Touchable => ({
    ...{ x: wave(seed), source: wave(seed + 1), v: wave(seed + 2), vOld: wave(seed + 2) },
    ...{ mass: Float64Array.from([0.1, 0.3, 0.02]), hung: Float64Array.from([0, 0.5, 0]) },
    ...{ basic: new Float64Array(9), push: new Float64Array(9), pushed: () => undefined },
  });
  const [a, b] = [side(0.2), side(4)];
  const springs = makeSprings(a, b, { to: PartId.parse('b'), stiffness: 20, damping: 0.7 }, 1 / 240);
  springs.begin();
  springs.pull();
  let [sum, largest] = [0, 0];
  for (let k = 0; k < 9; k++) {
    const i = Math.floor(k / 3);
    const force = (t: Touchable) => (t.mass[i]! + t.hung[i]!) * t.push[k]!;
    sum = Math.max(sum, Math.abs(force(a) + force(b)));
    largest = Math.max(largest, Math.abs(force(a)));
  }
  return { sum, largest };
}

/** 24: chains linked in a row keep their spacing when stiff, and the momentum of both. */
export function linkedRows(): TruthRow[] {
  const c = curtain(4);
  const offSource = strayOfSpacing(simulateAll(c, curtainShot(c, 4, { stiffness: 30 }, UNLIKE)), 4);
  const { sum, largest } = pushes();
  return [
    atMost(24, 'four unlike chains, springs of 30 Hz: spacing off by, share', offSource, 0.01),
    atMost(24, 'sum of what two chains push each other with, share of it', sum / largest, 1e-12),
  ];
}
