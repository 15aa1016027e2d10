import { only } from './brindleBody';
import type { NamedMesh } from './brindleMeshes';
import type { DemoClip } from './clips';
import { Rig, turn } from './rig';
import { curve, ink, mix, Sculpt, smooth, type V3 } from './shape';

/** Radius and width of the drums, and the radius of a cord, m. */
export const DRUM = { radius: 0.12, wide: 0.34 } as const;
export const CORD = 0.008;
/** Height of the axles, m, and where along them the cords run. */
export const HOIST_AXLES = { 'upper drum': 1.62, 'lower drum': 0.42 } as const;
export const CORDS = { 'cord left': 0.07, 'cord right': -0.07 } as const;
/** How far the loose one hangs below the lower drum, m. */
const SLACK = { 'cord left': 0, 'cord right': 0.1 } as const;
/** Edges of a cord along a straight side and about a drum. */
const [STRAIGHT, ABOUT] = [84, 30];
/** Turns of the drums, and the frames that they take. */
const [TURNS, FRAMES] = [4, 240];

const WOOD = ink('#8a6a48');
const IRON = ink('#3a3d52');
const HEMP = ink('#cdb98c');
const TWINE = ink('#b5563f');

/** The mail hoist of a pass station: two drums one above the other, about which two endless cords run. */
export function hoistRig(): Rig {
  const rig = new Rig();
  rig.joint('post', null, [0, 0, 0]);
  for (const [name, height] of Object.entries(HOIST_AXLES)) rig.joint(name, 'post', [0, height, 0]);
  return rig;
}

export const hoistMeshes = (rig: Rig): NamedMesh[] => [
  { name: 'stand', sculpt: stand(rig), thin: false },
  ...Object.keys(HOIST_AXLES).map((name) => ({ name, sculpt: drum(rig, name), thin: false })),
  ...Object.entries(CORDS).map(([name, z]) => ({
    ...{ name, thin: false, lines: true },
    sculpt: cord(rig, z, SLACK[name as keyof typeof SLACK]),
  })),
];

function stand(rig: Rig): Sculpt {
  const sculpt = new Sculpt();
  for (const z of [0.24, -0.24])
    sculpt.tube(
      curve(
        [
          [0, 0, z],
          [0, 0.9, z],
          [0, 1.8, z],
        ],
        8,
      ),
      [1, 0, 0],
      () => [0.035, 0.02],
      10,
      () => WOOD,
      only(rig, 'post'),
    );
  sculpt.ball([0, 0.01, 0], [0.3, 0.03, 0.36], 8, 20, () => mix(WOOD, IRON, 0.3), only(rig, 'post'));
  return sculpt;
}

/** A drum with spokes painted on it, so that its turning is seen. */
function drum(rig: Rig, name: string): Sculpt {
  const sculpt = new Sculpt();
  const [, y] = rig.at(name);
  const { radius, wide } = DRUM;
  sculpt.grid(12, 32, true, (v, u) => {
    const z = wide * (Math.min(0.9, Math.max(0.1, v)) - 0.1) * 1.25 - wide / 2;
    const r = v === 0 || v === 1 ? 0.01 : radius;
    const a = -2 * Math.PI * u;
    return {
      p: [r * Math.cos(a), y + r * Math.sin(a), z],
      colour: Math.floor(8 * u) % 2 === 0 ? WOOD : mix(WOOD, HEMP, 0.45),
      weights: [[rig.index(name), 1]],
    };
  });
  return sculpt;
}

/** An endless cord about both drums, a little longer than the way about them and twice the slack. */
function cord(rig: Rig, z: number, slack: number): Sculpt {
  const sculpt = new Sculpt();
  const r = DRUM.radius + 1.15 * CORD;
  const [up, low] = [HOIST_AXLES['upper drum'], HOIST_AXLES['lower drum'] - slack];
  const colour = slack > 0 ? TWINE : HEMP;
  const places: V3[] = [];
  for (let i = 0; i < STRAIGHT; i++) places.push([r, low + ((up - low) * i) / STRAIGHT, z]);
  for (let i = 0; i < ABOUT; i++) {
    const a = (Math.PI * i) / ABOUT;
    places.push([r * Math.cos(a), up + r * Math.sin(a), z]);
  }
  for (let i = 0; i < STRAIGHT; i++) places.push([-r, up + ((low - up) * i) / STRAIGHT, z]);
  for (let i = 0; i < ABOUT; i++) {
    const a = Math.PI + (Math.PI * i) / ABOUT;
    places.push([r * Math.cos(a), low + r * Math.sin(a), z]);
  }
  const first = places.map((p) => sculpt.vertex(p, colour, [[rig.index('post'), 1]]))[0]!;
  places.forEach((_, i) => sculpt.indices.push(first + i, first + ((i + 1) % places.length)));
  return sculpt;
}

/** Four turns of both drums, that begin and end slowly, and two seconds to come to rest. */
export const hoistClips = (): DemoClip[] => [
  {
    name: 'Hoist',
    loops: false,
    keys: Array.from({ length: FRAMES + 61 }, (_, f) => {
      const by = turn([0, 0, 1], 2 * Math.PI * TURNS * smooth(f / FRAMES));
      return { turns: { 'upper drum': by, 'lower drum': by }, root: [0, 0, 0] as V3, hips: [0, 0, 0] as V3 };
    }),
  },
];
