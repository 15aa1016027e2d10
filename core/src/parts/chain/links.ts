import { quatBetween } from '../../math/index';
import { makeBody, type Body, type ChainSolver } from '../../solver/index';

/** A link of a chain as a body that other parts touch. */
export interface LinkBodyRun extends Body {
  readonly index: number;
  /** Impulses on its two ends that wait for the chain's next step, N s. */
  readonly push: Float64Array;
}

/** A body for each link, of the chain's thickness there. */
export function makeLinkBodies(solver: ChainSolver, thickness: Float64Array): LinkBodyRun[] {
  return Array.from({ length: solver.links }, (_, index) => {
    const push = new Float64Array(6);
    const gives = Float64Array.of(index > 0 ? 1 / solver.mass[index - 1]! : 0, 1 / solver.mass[index]!);
    const o = 3 * index;
    let l = 0;
    for (let a = 0; a < 3; a++) l += (solver.source[o + 3 + a]! - solver.source[o + a]!) ** 2;
    const shape = {
      kind: 'capsule',
      radius: Math.max(1e-6, thickness[index]!),
      half: Math.sqrt(l) / 2,
    } as const;
    return { ...makeBody(shape, 1, 0, null, { gives, push }), index, push };
  });
}

/** Puts a link's body where the link is now; where it was becomes its start of the step. */
export function moveLinkBody(body: LinkBodyRun, solver: ChainSolver): void {
  body.before.set(body.now);
  const o = 3 * body.index;
  const { x } = solver;
  const d = [x[o + 3]! - x[o]!, x[o + 4]! - x[o + 1]!, x[o + 5]! - x[o + 2]!] as const;
  const l = Math.sqrt(d[0] * d[0] + d[1] * d[1] + d[2] * d[2]) || 1;
  (body.shape as { half: number }).half = l / 2;
  for (let a = 0; a < 3; a++) body.now[a] = (x[o + a]! + x[o + 3 + a]!) / 2;
  quatBetween(body.now, 3, 0, 1, 0, d[0] / l, d[1] / l, d[2] / l);
}
