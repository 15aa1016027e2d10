import { makeSkinPart, type SkinPart } from '../src/parts/skin/shared';
import type { Shot } from '../src/shot/index';
import { boxMesh, softBodies, type Way } from './parcel';

const FPS = 24;
/** A quick quarter turn about the hip, with the leg along x, then still. */
const turning = (t: number) => {
  const s = Math.min(1, t / 0.4);
  return [0, 0, 0, (Math.PI / 2) * s * s * (3 - 2 * s)] as const;
};

/** A thigh: a muscle that is held softly, and a skin over it, of n squares a side, 2 cm off. */
export function thigh(
  n: number,
  change: (p: SkinPart, d: Shot) => void = () => undefined,
  way: Way = turning,
) {
  const middle = [0.25, 0, 0] as const;
  return softBodies(
    { muscle: boxMesh([0.3, 0.1, 0.1], 4, middle), skin: boxMesh([0.34, 0.14, 0.14], n, middle) },
    way,
    { muscle: { cells: 6, settings: { hold: 4, holdDamping: 0.2, gravity: 0 } } },
    (d) => {
      const skin = makeSkinPart({
        ...{ id: 'skin', name: 'Skin', order: 1, reach: 0.08 },
        ...{
          mesh: { node: 2, name: 'skin' },
          below: [{ part: 'muscle' as never, mesh: { node: 1, name: 'muscle' } }],
        },
      });
      d.parts.skin = skin;
      change(skin, d);
    },
    { seconds: 3, fps: FPS },
  );
}
