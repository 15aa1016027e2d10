import { quatNormalise, quatRotate } from '../../math/index';
import { OscillumError } from '../../model/index';
import { CONTACT, CONTACT_ROW, type ChainSolver } from '../../solver/index';
import type { ColliderRun, SourceTrack } from '../kind';
import { rowAt } from '../rows';
import type { ChainPart, Pull, TipPin } from './document';

/** Something that writes pulls into a chain's contact rows, from row `used` on; returns the rows then in use. */
interface Holder<A extends unknown[]> {
  /** Whether it has let go: 0 or 1. */
  readonly memory: Uint8Array;
  begin(): void;
  write(solver: ChainSolver, used: number, ...at: A): number;
}

function writePull(
  solver: ChainSolver,
  used: number,
  link: number,
  along: number,
  stiffness: number,
  target: Float64Array,
): number {
  if (used >= solver.contact.length / CONTACT_ROW) return used;
  const r = used * CONTACT_ROW;
  const { contact, source } = solver;
  contact.fill(0, r, r + CONTACT_ROW);
  contact[r + CONTACT.link] = link;
  contact[r + CONTACT.along] = along;
  contact[r + CONTACT.stiffness] = stiffness;
  for (let a = 0; a < 3; a++) contact[r + CONTACT.anchor + a] = target[a]! - source[a]!;
  contact[r + CONTACT.kind] = 1;
  return used + 1;
}

/** Distance of a place along a link from a target, m. */
function distanceTo(solver: ChainSolver, link: number, along: number, target: Float64Array): number {
  let sum = 0;
  for (let a = 0; a < 3; a++) {
    const p = (1 - along) * solver.x[3 * link + a]! + along * solver.x[3 * link + 3 + a]!;
    sum += (p - target[a]!) ** 2;
  }
  return Math.sqrt(sum);
}

/** How much softer a tie is than a length, so that lengths win where both cannot be kept. */
const TIE = 1e-3;

/**
 * What a chain's tip is tied to; null while that is muted. Throws OscillumError('shot.invalid') when a joint is not
 * there.
 */
export function makeTipPin(
  tipPin: TipPin,
  part: ChainPart,
  colliders: readonly ColliderRun[],
  track: SourceTrack,
): Holder<[row: number, share: number]> | null {
  const target = new Float64Array(3);
  const placed = new Float64Array(7);
  const rows = 'joint' in tipPin.to ? track.joints.get(tipPin.to.joint.node) : undefined;
  const to = 'collider' in tipPin.to ? tipPin.to.collider : null;
  const body = to === null ? null : (colliders.find((c) => c.collider.id === to)?.body ?? null);
  if (to !== null && !body) return null;
  if (!rows && !body)
    throw new OscillumError(
      'shot.invalid',
      `${part.name}: what its tip is tied to is not there`,
      `/parts/${part.id}/tipPin`,
      'TipPin it to another joint or collider, or untie it.',
    );
  const broken = new Uint8Array(1);
  return {
    memory: broken,
    begin: () => void (broken[0] = 0),
    write: (solver, used, row, share) => {
      if (rows) {
        rowAt(placed, rows, 7, row, share);
        quatNormalise(placed, 3);
      } else placed.set(body!.now);
      quatRotate(target, 0, placed, 3, tipPin.t, 0);
      for (let a = 0; a < 3; a++) target[a]! += placed[a]!;
      if (distanceTo(solver, solver.links - 1, 1, target) > tipPin.breakAt) broken[0] = 1;
      return broken[0] ? used : writePull(solver, used, solver.links - 1, 1, solver.hardness() * TIE, target);
    },
  };
}

/** A hand that pulls a link along a recorded path, as a spring of its own frequency on the whole chain's mass. */
export function makePull(pull: Pull): Holder<[frame: number]> {
  const target = new Float64Array(3);
  const last = pull.path.length - 1;
  const slipped = new Uint8Array(1);
  return {
    memory: slipped,
    begin: () => void (slipped[0] = 0),
    write: (solver, used, frame) => {
      const at = frame - pull.first;
      if (at < 0 || at > last || slipped[0] || pull.link >= solver.links) return used;
      const i = Math.min(last, Math.floor(at));
      const u = at - i;
      const [a, b] = [pull.path[i]!, pull.path[Math.min(last, i + 1)]!];
      for (let c = 0; c < 3; c++) target[c] = a[c]! + u * (b[c]! - a[c]!);
      if (distanceTo(solver, pull.link, pull.along, target) > pull.slip) slipped[0] = 1;
      if (slipped[0]) return used;
      const mass = solver.mass.reduce((m, x) => m + x, 0);
      const stiffness = solver.perForce() * mass * (2 * Math.PI * pull.strength) ** 2;
      return writePull(solver, used, pull.link, pull.along, stiffness, target);
    },
  };
}
