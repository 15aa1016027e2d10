import { makeBody, makeSurface, type Body } from '../../solver/index';
import { boxOf, carryPoints, type BodySkin, type SoftBody } from '../../solver/soft/index';

/** The surface of a soft body as others touch it. */
export interface SkinBody {
  readonly body: Body;
  /** Takes up where the surface is after a step, or where it begins. */
  stand(begins: boolean): void;
}

/** Makes the surface of a soft body something that others touch: what presses on it pushes the nodes that carry it. */
export function makeSkinBody(
  soft: SoftBody,
  skin: BodySkin,
  triangles: Uint32Array,
  rest: ArrayLike<number>,
  friction: number,
): SkinBody {
  const places = new Float64Array(3 * skin.points);
  carryPoints(places, { ...skin, off: places }, Float64Array.from(rest));
  const surface = makeSurface(places, triangles);
  /** Nodes that carry the place nearest to another, with how much of each. */
  const each = (x: number, y: number, z: number, visit: (node: number, share: number) => void) => {
    const foot = surface.foot(x, y, z);
    foot?.corners.forEach((p, c) => {
      for (let k = 8 * p; k < 8 * p + 8; k++)
        if (skin.shares[k]! !== 0) visit(skin.nodes[k]!, foot.shares[c]! * skin.shares[k]!);
    });
  };
  const box = new Float64Array(6);
  const body = makeBody({ kind: 'mesh', surface }, friction, 0, null, null, {
    box,
    gives: (x, y, z) => {
      let sum = 0;
      each(x, y, z, (node, w) => (sum += w * w * soft.gives(node)));
      return sum;
    },
    push: (x, y, z, px, py, pz) =>
      each(x, y, z, (node, w) => {
        if (soft.free[node]! === 0) return;
        soft.pushes[3 * node]! += w * px;
        soft.pushes[3 * node + 1]! += w * py;
        soft.pushes[3 * node + 2]! += w * pz;
      }),
  });
  return {
    body,
    stand: (begins) => {
      surface.earlier.set(surface.vertices);
      carryPoints(surface.vertices, skin, soft.x);
      if (begins) surface.earlier.set(surface.vertices);
      surface.refit();
      boxOf(box, surface.vertices);
      body.bound = surface.bound();
    },
  };
}
