import {
  collideBodies,
  makeBody,
  makeChainContacts,
  predictBody,
  type Body,
  type ChainFeel,
} from '../src/solver/index';
import { makeBench, type Bench } from './drive';

export const G = 9.81;
export const RAD = Math.PI / 180;

/** Frame rates and substeps to run a case at. */
export const rates = (quick: boolean): readonly (readonly [fps: number, substeps: number])[] =>
  quick
    ? [[30, 8]]
    : [
        [30, 8],
        [24, 4],
        [30, 4],
        [60, 16],
      ];
export const at = ([fps, substeps]: readonly [number, number]) => `${fps} fps, ${substeps} substeps`;

export interface TouchBench extends Bench {
  /** One step; `move` puts the bodies that are not free where they go. */
  step(move?: () => void): void;
  report(): { depth: number; slip: number; touching: number; rows: number; newtons: number };
}

export function touchBench(
  links: number,
  length: number,
  feel: Partial<ChainFeel>,
  rate: number,
  bodies: Body[],
  skin: { thickness: number; friction: number; bounce: number },
  masses?: Float64Array,
  gravity: readonly number[] = [0, -G, 0],
): TouchBench {
  const bench = makeBench(
    links,
    length,
    { gravity: gravity as [number, number, number], ...feel },
    rate,
    masses,
  );
  const full = {
    thickness: new Float64Array(links).fill(skin.thickness),
    friction: new Float64Array(links).fill(skin.friction),
    bounce: skin.bounce,
  };
  const contacts = makeChainContacts(bench.solver, bodies, bench.h, length);
  return {
    ...bench,
    report: () => contacts.report,
    step: (move) => {
      for (const b of bodies) {
        if (b.free) predictBody(b, bench.h, gravity, 0);
        else b.before.set(b.now);
      }
      move?.();
      collideBodies(bodies, bench.h);
      contacts.step(full, (used) => used);
    },
  };
}

/** A half space whose normal is tilted from +y by an angle toward +x. */
export function slope(angle: number, friction: number, bounce = 0): Body {
  const body = makeBody({ kind: 'ground' }, friction, bounce, null);
  body.now.set([0, 0, 0, 0, 0, -Math.sin(angle / 2), Math.cos(angle / 2)]);
  body.before.set(body.now);
  return body;
}

/** Puts a body at a place, at rest. */
export function put(body: Body, x: number, y: number, z: number): Body {
  body.now.set([x, y, z]);
  body.before.set(body.now);
  return body;
}
