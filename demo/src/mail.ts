import { only } from './brindleBody';
import type { NamedMesh } from './brindleMeshes';
import { FPS, type DemoClip } from './clips';
import { parcelSculpt } from './parcel';
import { Rig } from './rig';
import { ink, Sculpt, smooth, type V3 } from './shape';

/** Half the side of a parcel of swelling mail, and where the six stand in the bag. */
export const MAIL_HALF = 0.07;
const SPOTS: readonly V3[] = [-0.16, 0, 0.16].flatMap((x) => [-0.08, 0.08].map((z): V3 => [x, 0.08, z]));
export const MAIL_NAMES: readonly string[] = SPOTS.map((_, k) => `parcel ${k + 1}`);

/** The bag inside: wide, high and deep, m; and how thick its sides are. */
export const BAG = { wide: 0.54, high: 0.3, deep: 0.37, thick: 0.03 };

/** How far a parcel is let down into the bag, m, and in how many frames. */
const [FALL, FALLS] = [0.5, 20];

export function mailRig(): Rig {
  const rig = new Rig();
  rig.joint('root', null, [0, 0, 0]);
  SPOTS.forEach((at, k) => rig.joint(MAIL_NAMES[k]!, 'root', at));
  return rig;
}

const JELLIES = ['#a9485c', '#c58a3a', '#5f8a6a', '#4f6fa5', '#8a5aa0', '#b8654a'].map(ink);
const FELT = ink('#7a6248');

export function mailMeshes(rig: Rig): NamedMesh[] {
  const parcels = SPOTS.map((at, k) => ({
    name: MAIL_NAMES[k]!,
    sculpt: parcelSculpt(only(rig, MAIL_NAMES[k]!)(), { at, half: MAIL_HALF, n: 8, colour: JELLIES[k]! }),
    thin: false,
  }));
  return [...parcels, { name: 'bag', sculpt: bag(rig), thin: false }];
}

/** The bag: a floor and four sides, its front cut low so that one sees in. */
function bag(rig: Rig): Sculpt {
  const sculpt = new Sculpt();
  const weights = only(rig, 'root')();
  const { wide, high, deep, thick } = BAG;
  const block = (lo: V3, hi: V3) => {
    for (let axis = 0; axis < 3; axis++)
      for (const side of [0, 1])
        sculpt.grid(1, 1, false, (v, u) => {
          const [a, b] = side === 1 ? [u, v] : [v, u];
          const p: [number, number, number] = [0, 0, 0];
          p[axis] = side === 1 ? hi[axis]! : lo[axis]!;
          const [f, g] = [(axis + 1) % 3, (axis + 2) % 3];
          p[f] = lo[f]! + b * (hi[f]! - lo[f]!);
          p[g] = lo[g]! + a * (hi[g]! - lo[g]!);
          return { p, colour: FELT, weights };
        });
  };
  const [x, z] = [wide / 2, deep / 2];
  block([-x - thick, -thick, -z - thick], [x + thick, 0, z + thick]);
  block([-x - thick, 0, -z], [-x, high, z]);
  block([x, 0, -z], [x + thick, high, z]);
  block([-x - thick, 0, -z - thick], [x + thick, high, -z]);
  block([-x - thick, 0, z], [x + thick, 0.25 * high, z + thick]);
  return sculpt;
}

/** Every parcel is let down into its place in the bag, all at once: their starts make one follow the other. */
export function mailClips(): DemoClip[] {
  return [
    {
      name: 'Fill the bag',
      loops: false,
      keys: Array.from({ length: 4 * FPS + 1 }, (_, f) => ({
        turns: {},
        moves: Object.fromEntries(
          SPOTS.map(([x, y, z], k) => [
            MAIL_NAMES[k]!,
            [x, y + FALL * (1 - smooth(Math.max(0, f - 2) / FALLS)), z] as V3,
          ]),
        ),
        root: [0, 0, 0] as V3,
        hips: [0, 0, 0] as V3,
      })),
    },
  ];
}
