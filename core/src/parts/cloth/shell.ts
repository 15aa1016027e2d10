import { normalsOf, type Sheet } from '../../sheets/index';
import type { Cloth } from '../../solver/cloth/index';
import { makeBody, makeSurface, type Body, type Surface } from '../../solver/index';
import { boxOf } from '../../solver/soft/index';
import { GIVEN } from '../ground';
import type { Riding } from './riding';

/** How far from the sheet each side of its shell is, as a share of the distance that it keeps from things. */
const HALF = 0.25;
/** The same at least, as a share of the length of its edges. */
const LEAST = 0.01;

/** What lies on a point pushes it as if it were so many times as heavy as the point, where it is heavier. */
const HEAVIEST = 1.5;

/** A sheet as something that others touch from both sides. */
export interface Shell {
  readonly body: Body;
  /** Takes up where the sheet is after a step of the shot, or where it begins. */
  stand(begins: boolean): void;
  /** Gives its points what they were pushed by, before a step. */
  give(): void;
  readonly waits: readonly Float64Array[];
}

/**
 * Makes the shell of a sheet: its triangles on both sides, a little away from it, and a strip round its rims. An open
 * sheet has no inside; its shell has, so what touches it stays on the side it is on. Null for what has no triangles.
 */
export function makeShell(
  cloth: Cloth,
  riding: Riding,
  /** Of the sheet: whether a point is held, m that it keeps from things, and its friction. */
  firm: (point: number) => boolean,
  { thickness, friction }: { readonly thickness: number; readonly friction: number },
): Shell | null {
  const { sheet, x, mass, moving } = cloth;
  const { points } = sheet;
  if (sheet.triangles.length === 0) return null;
  const { surface, layOut } = bothSides(sheet, thickness);
  const places = new Float64Array(3 * points);
  /** N s that waits for each point, 3 numbers; and of all that meets it how much does. */
  const waiting = new Float64Array(3 * points);
  const meets = new Float64Array(points);
  /** The points of the sheet nearest to a place, with how much of each. */
  const each = (at: readonly [number, number, number], visit: (point: number, share: number) => void) => {
    const foot = surface.foot(...at);
    foot?.corners.forEach((v, c) => !firm(v % points) && visit(v % points, foot.shares[c]!));
  };
  /** The share of what pushes a point that it gets: what is much heavier would throw it. */
  const kept = (p: number) => (meets[p]! > HEAVIEST * mass[p]! ? (HEAVIEST * mass[p]!) / meets[p]! : 1);
  const lean = (...[px, py, pz, ...impulse]: [number, number, number, number, number, number]) =>
    each([px, py, pz], (p, w) => {
      for (let a = 0; a < 3; a++) waiting[3 * p + a]! += kept(p) * w * impulse[a]!;
    });
  const sum = (at: readonly [number, number, number], of: (point: number, share: number) => number) => {
    let all = 0;
    each(at, (p, w) => (all += of(p, w)));
    return all;
  };
  const box = new Float64Array(6);
  const body = makeBody({ kind: 'mesh', surface }, friction, 0, null, null, {
    ...{ box, push: lean, lean },
    gives: (...at) => sum(at, (p, w) => (w * w) / mass[p]!),
    light: {
      begin: () => void meets.fill(0),
      meet: (px, py, pz, m) => each([px, py, pz], (p, w) => (meets[p]! += w * m)),
      crosses: (list, p, q) => crossesSheet(sheet.triangles, places, list, p, q),
      gives: (px, py, pz, m) =>
        sum([px, py, pz], (p, w) => (kept(p) * w * Math.max(w, meets[p]! / m)) / mass[p]!),
    },
  });
  return {
    body,
    waits: [waiting],
    give: () => {
      const own = new Float64Array(3);
      for (let o = 0; o < waiting.length; o += 3) {
        for (let a = 0; a < 3; a++) {
          own[a] = GIVEN * waiting[o + a]!;
          waiting[o + a]! -= own[a]!;
        }
        if (riding.apart) riding.turnedInto(own, own);
        for (const speeds of moving.slice(2))
          for (let a = 0; a < 3; a++) speeds[o + a]! += own[a]! / mass[o / 3]!;
      }
    },
    stand: (begins) => {
      surface.earlier.set(surface.vertices);
      if (riding.apart) riding.out(places, x);
      else places.set(x);
      layOut(places);
      if (begins) surface.earlier.set(surface.vertices);
      surface.refit();
      body.bound = surface.bound();
      boxOf(box, surface.vertices);
    },
  };
}

/** Both sides of a sheet that keeps `thickness` (m) from things, and how to lay them about places of its points. */
function bothSides(sheet: Sheet, thickness: number): { surface: Surface; layOut(of: Float64Array): void } {
  const { points, triangles, length } = sheet;
  const mean = length.reduce((sum, l) => sum + l, 0) / length.length;
  const half = Math.max(HALF * thickness, LEAST * mean);
  const normals = new Float64Array(3 * points);
  const both = new Float64Array(6 * points);
  const layOut = (of: Float64Array) => {
    normalsOf(normals, of, triangles);
    for (let o = 0; o < of.length; o++) {
      both[o] = of[o]! + half * normals[o]!;
      both[of.length + o] = of[o]! - half * normals[o]!;
    }
  };
  layOut(sheet.rest);
  return { surface: makeSurface(both, cornersOf(sheet)), layOut };
}

/** Triangles of both sides of a sheet, the other way round behind it, and of the strips along its rims. */
function cornersOf({ points, triangles, edges, faces }: Sheet): Uint32Array {
  const out: number[] = [];
  const rims = new Set<number>();
  faces.forEach((n, e) => n === 1 && rims.add(edges[2 * e]! * points + edges[2 * e + 1]!));
  for (let t = 0; t < triangles.length; t += 3) {
    const [a, b, c] = [triangles[t]!, triangles[t + 1]!, triangles[t + 2]!];
    out.push(a, b, c, points + a, points + c, points + b);
    const sides = [
      [a, b],
      [b, c],
      [c, a],
    ] as const;
    for (const [p, q] of sides)
      if (rims.has(Math.min(p, q) * points + Math.max(p, q)))
        out.push(q, p, points + p, q, points + p, points + q);
  }
  return Uint32Array.from(out);
}

/** Whether the way from one place of a list (at o) to another goes through a triangle (Möller and Trumbore 1997). */
function crossesSheet(
  triangles: Int32Array,
  x: Float64Array,
  list: Float64Array,
  o: number,
  to: number,
): boolean {
  const at = (p: number, a: number) => x[3 * p + a]!;
  const way = [0, 1, 2].map((a) => list[to + a]! - list[o + a]!) as V;
  for (let t = 0; t < triangles.length; t += 3) {
    const [a, b, c] = [triangles[t]!, triangles[t + 1]!, triangles[t + 2]!];
    const u = [0, 1, 2].map((k) => at(b, k) - at(a, k)) as V;
    const v = [0, 1, 2].map((k) => at(c, k) - at(a, k)) as V;
    const h = cross(way, v);
    const det = dot(u, h);
    if (det === 0) continue;
    const s = [0, 1, 2].map((k) => list[o + k]! - at(a, k)) as V;
    const p = dot(s, h) / det;
    if (p < 0 || p > 1) continue;
    const r = cross(s, u);
    const q = dot(way, r) / det;
    const far = dot(v, r) / det;
    if (q >= 0 && p + q <= 1 && far >= 0 && far <= 1) return true;
  }
  return false;
}

type V = [number, number, number];
const dot = (a: V, b: V): number => a[0] * b[0] + a[1] * b[1] + a[2] * b[2];
const cross = (a: V, b: V): V => [
  a[1] * b[2] - a[2] * b[1],
  a[2] * b[0] - a[0] * b[2],
  a[0] * b[1] - a[1] * b[0],
];
