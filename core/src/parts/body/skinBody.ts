import { GIVEN } from '../ground';
import { makeBody, makeSurface, type Body, type SoftBodySkin } from '../../solver/index';
import { boxOf, carryPoints, type BodySkin, type SoftBody } from '../../solver/soft/index';

/** What leans on a node presses it at most as hard as so many times its own weight would, m/s². */
const HARDEST = 4 * 9.81;

/** The surface of a soft body as others touch it. */
export interface SkinBody {
  readonly body: Body;
  /** Takes up where the surface is after a step of the shot, or where it begins. */
  stand(begins: boolean): void;
  /** Gives its nodes a share of what leans on them, before a step of its own. */
  give(): void;
  /** What leans on its nodes and is not given yet, N s, 3 numbers each; and how much faster it may make each, m/s. */
  readonly waits: readonly Float64Array[];
  /** It stays where it is for a step of the shot. */
  rest(): void;
}

/** Makes the surface of a soft body something that others touch: what presses on it pushes the nodes that carry it. */
export function makeSkinBody(
  soft: SoftBody,
  skin: BodySkin,
  rest: ArrayLike<number>,
  friction: number,
  /** s: one step of its own. */
  h: number,
): SkinBody {
  const places = new Float64Array(3 * skin.points);
  carryPoints(places, { ...skin, off: places }, Float64Array.from(rest));
  const surface = makeSurface(places, skin.triangles);
  /** Nodes that carry the place nearest to another, with how much of each. */
  const each = (x: number, y: number, z: number, visit: (node: number, share: number) => void) => {
    const foot = surface.foot(x, y, z);
    foot?.corners.forEach((p, c) => {
      for (let k = 8 * p; k < 8 * p + 8; k++)
        if (skin.shares[k]! !== 0) visit(skin.nodes[k]!, foot.shares[c]! * skin.shares[k]!);
    });
  };
  /** Impulses on its nodes that are given over some steps, N s. */
  const leans = new Float64Array(soft.pushes.length);
  /** m/s: how much faster what leans on a node may make it. */
  const fastest = new Float64Array(soft.mass.length);
  const add = (to: Float64Array, ...[x, y, z, px, py, pz]: Parameters<SoftBodySkin['push']>) =>
    each(x, y, z, (node, w) => {
      if (soft.free[node]! === 0) return;
      to[3 * node]! += w * px;
      to[3 * node + 1]! += w * py;
      to[3 * node + 2]! += w * pz;
    });
  const box = new Float64Array(6);
  const body = makeBody({ kind: 'mesh', surface }, friction, 0, null, null, {
    box,
    gives: (x, y, z) => {
      let sum = 0;
      each(x, y, z, (node, w) => (sum += w * w * soft.gives(node)));
      return sum;
    },
    push: (...p) => add(soft.pushes, ...p),
    lean: (x, y, z, px, py, pz, most) => {
      add(leans, x, y, z, px, py, pz);
      each(x, y, z, (node, w) => w > 0 && (fastest[node] = Math.max(fastest[node]!, most)));
    },
  });
  return {
    body,
    waits: [leans, fastest],
    give: () => {
      for (let i = 0; i < fastest.length; i++) {
        const o = 3 * i;
        const size = Math.sqrt(leans[o]! ** 2 + leans[o + 1]! ** 2 + leans[o + 2]! ** 2);
        if (size === 0) continue;
        const most = (fastest[i]! + HARDEST * h) * soft.mass[i]!;
        const keep = Math.min(1, most / (GIVEN * size));
        for (let k = o; k < o + 3; k++) {
          leans[k]! *= keep;
          soft.pushes[k]! += GIVEN * leans[k]!;
          leans[k]! -= GIVEN * leans[k]!;
        }
      }
      fastest.fill(0);
    },
    rest: () => void surface.earlier.set(surface.vertices),
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
