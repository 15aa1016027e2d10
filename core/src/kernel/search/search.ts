import { int } from '../numbers';
import type { Index } from '../numbers';
import { BODY_ROW, SURE } from './fields';
import type { SearchStep } from './fields';
import { wayBetween } from './measure';
import { searchPair } from './pair';
import { measureWay } from './way';

/**
 * Looks for what each link may touch in the step to come; what it does, and its source, stand at `makeSearch`. Returns
 * how many rows of `found` it wrote.
 */
export function searchLinks(search: SearchStep): Index {
  const bodies = int(search.bodies);
  const { out } = search;
  search.used = 0;
  search.hurry = 0;
  search.parts = 1;
  search.order = 2;
  measureWay(search);
  for (let b = 0; b < bodies; b++) searchBody(search, b);
  out[0] = search.hurry;
  out[1] = search.parts;
  out[2] = search.order;
  return int(search.used);
}

/** Looks at one body: what is too far from all links is passed by. */
function searchBody(search: SearchStep, b: Index): void {
  const links = int(search.links);
  const bodies = int(search.bodies);
  const { length, table, pressed, minded, nearby, gone, drift } = search;
  const bound = table[b * BODY_ROW + 4]!;
  search.lasting = bound >= 0 && table[b * BODY_ROW]! < 4 ? 1 : 0;
  search.turned = turnedBy(search, b);
  if (bound >= 0 && outOfReach(search, b, bound)) {
    if (minded[b]! > 0) for (let k = 0; k < links; k++) pressed[k * bodies + b] = 0;
    minded[b] = 0;
    return;
  }
  minded[b] = 1;
  search.least = Infinity;
  search.rooted = NaN;
  search.carried = -1;
  let grown: number = 0;
  for (let i = 0; i < links; i++) {
    const long = grown;
    grown += length / links;
    searchPair(search, b, i, long);
  }
  nearby[b] = search.least + gone[b]! + drift[links]!;
}

/** How much nearer a body may come by its own motion, m; keeps where it stands and how far it has gone. */
function turnedBy(search: SearchStep, b: Index): number {
  const { length, table, gone, stood } = search;
  const r = b * BODY_ROW;
  let turned: number = (1e-4 + SURE) * length;
  if (table[r + 20]! !== 0) return turned;
  const x0 = table[r + 6]!,
    y0 = table[r + 7]!,
    z0 = table[r + 8]!;
  const round =
    Math.max(search.hiX - x0, x0 - search.loX) +
    Math.max(search.hiY - y0, y0 - search.loY) +
    Math.max(search.hiZ - z0, z0 - search.loZ);
  turned += 2 * wayBetween(table, r + 6, table, r + 13, round + search.reach);
  if (search.lasting > 0) {
    gone[b] = gone[b]! + wayBetween(stood, 7 * b, table, r + 6, table[r + 4]!);
    for (let c = 0; c < 7; c++) stood[7 * b + c] = table[r + 6 + c]!;
  }
  return turned;
}

/** Whether no link can touch the body in the step: nothing farther is written down, whatever the step does. */
function outOfReach(search: SearchStep, b: Index, bound: number): boolean {
  const links = int(search.links);
  const { table, nearby, gone, drift } = search;
  const r = b * BODY_ROW;
  const enough = search.turned + 2 * search.reach + 1.02 * search.thickest;
  if (search.lasting > 0 && nearby[b]! - gone[b]! - drift[links]! > enough) return true;
  const x0 = table[r + 6]!,
    y0 = table[r + 7]!,
    z0 = table[r + 8]!;
  const outX = Math.max(Math.max(search.loX - x0, 0), x0 - search.hiX),
    outY = Math.max(Math.max(search.loY - y0, 0), y0 - search.hiY),
    outZ = Math.max(Math.max(search.loZ - z0, 0), z0 - search.hiZ);
  return outX * outX + outY * outY + outZ * outZ > (bound + enough) * (bound + enough);
}
