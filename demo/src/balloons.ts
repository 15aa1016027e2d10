import type { NamedMesh } from './brindleMeshes';
import type { Rig } from './rig';
import { add, cross, ink, length, mix, scale, Sculpt, unit, type V3, type Weights } from './shape';

/** Radius of a post balloon, the length of its string and edges along it, m. */
const RADIUS = 0.085;
const STRING = 0.48;
const EDGES = 12;
const WIDE = 0.006;

const COLOURS = [ink('#d9a441'), ink('#6f8f7b'), ink('#b5563f'), ink('#5d6f9b')];
const HEMP = ink('#8a6a48');

/** Where each balloon stands from the wing, as shares of its string. */
const WAYS: readonly V3[] = [
  [0.05, 0.98, 0.2],
  [0.5, 0.84, -0.2],
  [0.34, 0.86, 0.4],
  [0.62, 0.6, 0.5],
];

/** Four post balloons on strings from the left wing: strips of cloth end in closed balls. */
export function balloonMesh(rig: Rig): NamedMesh {
  const sculpt = new Sculpt();
  const wing = rig.at('wing tip left');
  const held: Weights = [[rig.index('wing tip left'), 1]];
  // What is not held goes with her as a whole, until it moves by itself.
  const goes: Weights = [[rig.index('chest'), 1]];
  WAYS.forEach((way, k) => {
    const along = unit(way);
    const root = add(wing, [0.004 * k, 0.01, 0]);
    const at = (d: number): V3 => add(root, scale(along, d));
    const side: V3 = [along[2], 0, -along[0]];
    const wide = WIDE / length(side);
    sculpt.grid(EDGES, 1, false, (v, u) => ({
      p: add(at(STRING * v), scale(side, v === 1 ? 0 : wide * (u - 0.5))),
      colour: HEMP,
      weights: v === 0 ? held : goes,
    }));
    ball(sculpt, at(STRING), along, COLOURS[k]!, goes);
  });
  return { name: 'balloons', sculpt, thin: true };
}

/** A balloon from its neck: a ball whose first pole is a point. */
function ball(sculpt: Sculpt, neck: V3, along: V3, colour: V3, weights: Weights): void {
  const up: V3 = Math.abs(along[1]) > 0.9 ? [1, 0, 0] : [0, 1, 0];
  const a = unit(cross(along, up));
  const b = cross(along, a);
  sculpt.grid(10, 16, true, (v, u) => {
    // A drop: it narrows to its neck.
    const polar = Math.PI * v;
    const r = RADIUS * Math.sin(polar) * (v < 0.5 ? 0.55 + 0.45 * Math.sin(polar) : 1);
    const turn = -2 * Math.PI * u;
    const d = RADIUS * (1 - Math.cos(polar));
    const out = v === 0 || v === 1 ? 0 : r;
    const about = add(scale(a, out * Math.cos(turn)), scale(b, out * Math.sin(turn)));
    return { p: add(neck, add(scale(along, d), about)), colour: mix(colour, HEMP, 0.25 * v), weights };
  });
}
