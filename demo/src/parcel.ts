import { only } from './brindleBody';
import type { NamedMesh } from './brindleMeshes';
import { FPS, type DemoClip } from './clips';
import { Rig } from './rig';
import { add, ink, length, Sculpt, smooth, type V3, type Weights } from './shape';

/** Half the side of the parcel, and how rounded it is: 1 is a ball. */
const HALF = 0.2;
const ROUND = 0.25;

/** A parcel of jelly that is sent by night, tied up with ribbon: one joint that bounces. */
export function parcelRig(): Rig {
  const rig = new Rig();
  rig.joint('root', null, [0, 0, 0]);
  return rig;
}

const JELLY = ink('#a9485c');
const RIBBON = ink('#f0d9a0');

export const parcelMeshes = (rig: Rig): NamedMesh[] => [
  {
    name: 'parcel',
    sculpt: parcelSculpt(only(rig, 'root')(), { at: [0, 0, 0], half: HALF, n: 12, colour: JELLY }),
    thin: false,
  },
];

/** A parcel tied with ribbon, about a place: half its side (m), squares along a side, and its colour. */
export function parcelSculpt(
  weights: Weights,
  { at: middle, half, n, colour }: { at: V3; half: number; n: number; colour: V3 },
): Sculpt {
  const parcel = new Sculpt();
  // Six faces of squares, drawn toward a ball.
  const at = (axis: number, side: number, u: number, v: number) => {
    const d: [number, number, number] = [0, 0, 0];
    d[axis] = side;
    d[(axis + 1) % 3] = 2 * u - 1;
    d[(axis + 2) % 3] = 2 * v - 1;
    const far = length(d);
    const p = d.map((x) => half * ((1 - ROUND) * x + (ROUND * x * 1.35) / far)) as unknown as V3;
    const tied = d.some((x) => Math.abs(x) < 0.17);
    return { p: add(middle, p), colour: tied ? RIBBON : colour, weights };
  };
  for (let axis = 0; axis < 3; axis++) {
    parcel.grid(n, n, false, (v, u) => at(axis, 1, v, u));
    parcel.grid(n, n, false, (v, u) => at(axis, -1, u, v));
  }
  return parcel;
}

/** Three bounces, each lower, from a start that is sunk three centimetres in the ground. */
export function parcelClips(): DemoClip[] {
  const bounces = [
    { from: 0, to: 26, height: 0.5 },
    { from: 26, to: 46, height: 0.3 },
    { from: 46, to: 60, height: 0.14 },
  ];
  // A face bulges a little past its edges.
  const stands = 0.215;
  return [
    {
      name: 'Bounce',
      loops: false,
      keys: Array.from({ length: 4 * FPS - 23 }, (_, f) => {
        const b = bounces.find((x) => f >= x.from && f < x.to);
        const t = b ? (f - b.from) / (b.to - b.from) : 0;
        const sunk = 0.03 * (1 - smooth(f / 8));
        const y = stands + (b ? 4 * b.height * t * (1 - t) : 0) - sunk;
        return { turns: {}, root: [0.5 * Math.min(1, f / 60), y, 0] as V3, hips: [0, 0, 0] as V3 };
      }),
    },
  ];
}
