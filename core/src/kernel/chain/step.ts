import { copy, int } from '../numbers';
import type { Index } from '../numbers';
import { readContacts, updateFriction } from './contact';
import type { ChainStep } from './fields';
import { confine, readLinks, relay } from './links';
import { newton } from './newton';
import { carryPast, readSource } from './source';

/** Iterations of a step at most; and while something touches: a contact that comes or goes asks for one more. */
const MOST_ITERATIONS: Index = 10;
const MOST_CONTACT_ITERATIONS: Index = 24;
/** Largest relative length error left before the exact re-laying; below it a further iteration changes nothing seen. */
const LENGTH_TOLERANCE: number = 1e-4;
/** How often the most that friction holds is set anew in a step. */
const FRICTION_UPDATES: Index = 1;
/** After so many iterations it is set anew too, unless a contact has just come or gone: its load says little then. */
const EARLY_ITERATIONS: Index = 2;

/**
 * One step of a chain whose source stands at the moment being stepped to; what it is, and its sources, stand at
 * `makeChainSolver`. Returns the iterations taken, below 0 when they were not enough.
 */
export function stepChain(chain: ChainStep): Index {
  const n = int(chain.n);
  if (chain.contacts > 0) copy(chain.before, chain.state, 4 * (3 * n + 3) + 6 * n + 5 * n);
  readSource(chain);
  if (chain.damped > 0) carryPast(chain);
  predict(chain);
  const taken = solve(chain);
  if (chain.coned > 0 || chain.planar > 0) confine(chain);
  relay(chain);
  finish(chain);
  return taken;
}

/** Where the points go without forces, and where the search for the answer begins. */
function predict(chain: ChainStep): void {
  const n3 = 3 * int(chain.n);
  const { h, H, c43, c13, c89, c29, fall, x, xOld, v, vOld, source, y, target } = chain;
  const sx = source[0]!,
    sy = source[1]!,
    sz = source[2]!;
  for (let i = 0; i < n3; i += 3) {
    const j = i + 3;
    const ax = c43 * x[j]! - c13 * xOld[j]! + c89 * v[j]! - c29 * vOld[j]! + H * fall[i]! - sx;
    const ay =
      c43 * x[j + 1]! - c13 * xOld[j + 1]! + c89 * v[j + 1]! - c29 * vOld[j + 1]! + H * fall[i + 1]! - sy;
    const az =
      c43 * x[j + 2]! - c13 * xOld[j + 2]! + c89 * v[j + 2]! - c29 * vOld[j + 2]! + H * fall[i + 2]! - sz;
    target[i] = ax;
    target[i + 1] = ay;
    target[i + 2] = az;
    y[i] = ax;
    y[i + 1] = ay;
    y[i + 2] = az;
  }
  // What touches is looked for from where the chain goes on to by itself: free flight would take it deep inside.
  const w1 = c13 > 0 ? 1.5 * h : h;
  const w2 = c13 > 0 ? 0.5 * h : 0;
  if (chain.contacts > 0)
    for (let i = 0; i < n3; i += 3) {
      const j = i + 3;
      y[i] = x[j]! + w1 * v[j]! - w2 * vOld[j]! - sx;
      y[i + 1] = x[j + 1]! + w1 * v[j + 1]! - w2 * vOld[j + 1]! - sy;
      y[i + 2] = x[j + 2]! + w1 * v[j + 2]! - w2 * vOld[j + 2]! - sz;
    }
}

/** Newton's method until lengths are kept and it is known what touches. Returns what {@link stepChain} does. */
function solve(chain: ChainStep): Index {
  if (readLinks(chain) > 0.05) {
    relay(chain);
    readLinks(chain);
  }
  const touched = chain.contacts > 0;
  const soft = chain.soft > 0;
  if (touched) readContacts(chain, 1);
  const most = touched ? MOST_CONTACT_ITERATIONS : MOST_ITERATIONS;
  let updates = 0;
  for (let pass = 0; pass < most; pass++) {
    newton(chain);
    const error = readLinks(chain);
    const changed = touched ? readContacts(chain, 0) : 0;
    // Soft lengths end when the step is small; hard ones when they are kept.
    if (changed === 0 && (soft ? pass > 0 : error < LENGTH_TOLERANCE)) {
      if (touched && updates < FRICTION_UPDATES && updateFriction(chain) > 0) {
        updates++;
        readContacts(chain, 0);
        continue;
      }
      return pass + 1;
    }
    if (touched && chain.toggled === 0 && pass < EARLY_ITERATIONS && updateFriction(chain) > 0)
      readContacts(chain, 0);
  }
  return -most;
}

/** The points go on to y, their velocities with them. */
function finish(chain: ChainStep): void {
  const n3 = 3 * int(chain.n);
  const { b0, b1, b2, x, xOld, v, vOld, source, past1, past2, y } = chain;
  for (let m = 0; m < 3; m++) {
    xOld[m] = x[m]!;
    x[m] = source[m]!;
  }
  for (let c = 0; c < 3; c++) {
    const root = source[c]!;
    for (let i = c; i < n3; i += 3) {
      const j = i + 3;
      const next = y[i]! + root;
      const now = x[j]!;
      const speed = b0 * next - b1 * now + b2 * xOld[j]!;
      xOld[j] = now;
      x[j] = next;
      vOld[j] = v[j]!;
      v[j] = speed;
    }
  }
  if (chain.damped > 0) {
    // past1 has been carried to this moment already; past2 gets it as it is.
    for (let i = 0; i < n3; i++) {
      past2[i] = past1[i]!;
      past1[i] = x[i + 3]! - x[i]!;
    }
  }
}
