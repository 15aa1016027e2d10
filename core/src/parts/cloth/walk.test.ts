import { beforeAll, describe, expect, it } from 'vitest';
import { brindle } from '../../../test/bakes';
import { meshTriangles, skinVertices } from '../../character/index';
import { readGltf } from '../../formats/gltf/index';
import type { Frames } from '../../frames/index';
import { editShot, type Shot } from '../../shot/index';
import { simulateAll, type TrackCache } from '../../simulate/index';
import { heldPoints, lengthOf, sheetOf } from '../../sheets/index';
import { makeSurface } from '../../solver/index';
import type { ClothPart } from './document';

const character = readGltf(brindle!.bytes, 'brindle.glb');
const find = (name: RegExp) => character.nodes.findIndex((n) => n.mesh >= 0 && name.test(n.name));
const [BODY, PONCHO] = [find(/body/i), find(/poncho/)];
const walk = brindle!.shots.find((s) => s.name === 'Brindle, Walk in a poncho')!;
const sheet = sheetOf(character, PONCHO);
const held = heldPoints(character, PONCHO, (walk.parts.poncho as ClothPart).holds, sheet);
const length = lengthOf(sheet, held);
const vertexOf = new Int32Array(sheet.points);
sheet.pointOf.forEach((p, v) => (vertexOf[p] = v));
const EVERY = 4;

interface Walked {
  readonly frames: Frames;
  readonly cache: TrackCache;
}
const walked = new Map<string, Walked>();
function walkWith(name: string, change: (s: Shot) => void = () => undefined): Walked {
  const shot = editShot(walk, `edit-${name}`, name, (s) => change(s as Shot)).shot;
  const cache: TrackCache = {};
  const made = { frames: simulateAll(character, shot, cache), cache };
  walked.set(name, made);
  return made;
}

/** Places of the sheet's points on a frame. */
function placesAt({ points, count }: Frames, f: number): Float64Array {
  const wide = points.length / count;
  const out = new Float64Array(3 * sheet.points);
  vertexOf.forEach((v, p) => out.set(points.subarray(f * wide + 3 * v, f * wide + 3 * v + 3), 3 * p));
  return out;
}

/** Deepest that free points and the middles of edges stand inside the body as it is drawn, m. */
function inside({ frames, cache }: Walked): { point: number; middle: number } {
  const { vertices, indices } = meshTriangles(character, BODY);
  const { track } = cache.entry!;
  const skin = new Float64Array(3 * vertices);
  skinVertices(skin, character, BODY, track.poseAt(0).world);
  const body = makeSurface(Float64Array.from(skin), indices);
  const out = new Float64Array(4);
  const found = { point: 0, middle: 0 };
  for (let f = 0; f < frames.count; f += EVERY) {
    skinVertices(body.vertices, character, BODY, track.poseAt(f).world);
    body.refit();
    const x = placesAt(frames, f);
    const depth = (at: readonly number[]) => {
      body.nearest(out, at[0]!, at[1]!, at[2]!);
      return Math.max(0, -out[0]!);
    };
    for (let p = 0; p < sheet.points; p++)
      if (!held[p]) found.point = Math.max(found.point, depth([...x.subarray(3 * p, 3 * p + 3)]));
    for (let e = 0; e < sheet.length.length; e++) {
      const [i, j] = [sheet.edges[2 * e]!, sheet.edges[2 * e + 1]!];
      if (held[i] && held[j]) continue;
      found.middle = Math.max(found.middle, depth([0, 1, 2].map((a) => (x[3 * i + a]! + x[3 * j + a]!) / 2)));
    }
  }
  return found;
}

/** Mean over the frames of where the cloth's middle is and how high its lowest point, m. */
function course({ frames }: Walked): number[] {
  const out = [0, 0, 0, 0];
  for (let f = 0; f < frames.count; f += EVERY) {
    const x = placesAt(frames, f);
    let low = Infinity;
    for (let o = 0; o < x.length; o += 3) {
      for (let a = 0; a < 3; a++) out[a]! += x[o + a]! / sheet.points;
      low = Math.min(low, x[o + 1]!);
    }
    out[3]! += low;
  }
  return out.map((v) => v / Math.ceil(frames.count / EVERY));
}

describe('the poncho on a walk', () => {
  beforeAll(() => {
    walkWith('plain');
    walkWith('finer', (s) => void (s.substeps *= 2));
    walkWith(
      'smooth',
      (s) => void (s.parts.poncho!.settings = { ...s.parts.poncho!.settings, friction: 0 } as never),
    );
  }, 120_000);

  it('stays out of the body as it is drawn: points within 1 mm, the middles of edges within 3', () => {
    const { point, middle } = inside(walked.get('plain')!);
    expect(point).toBeLessThan(1e-3);
    expect(middle).toBeLessThan(3e-3);
  });
  it('lengthens by less than 1 % on the mean, no edge by more than 20 % in motion', () => {
    const { frames } = walked.get('plain')!;
    expect(Math.max(...frames.stretch)).toBeLessThan(0.01);
    let worst = 0;
    for (let f = 0; f < frames.count; f++) {
      const x = placesAt(frames, f);
      sheet.length.forEach((l, e) => {
        const [i, j] = [3 * sheet.edges[2 * e]!, 3 * sheet.edges[2 * e + 1]!];
        if (held[i / 3] && held[j / 3]) return;
        const d = Math.hypot(x[i]! - x[j]!, x[i + 1]! - x[j + 1]!, x[i + 2]! - x[j + 2]!);
        worst = Math.max(worst, d / l - 1);
      });
    }
    expect(worst).toBeLessThan(0.2);
  });
  it('with twice the steps has its middle and its hem where it has them, within 3 % of its length', () => {
    const [a, b] = [course(walked.get('plain')!), course(walked.get('finer')!)];
    a.forEach((v, k) => expect(Math.abs(v - b[k]!)).toBeLessThan(0.03 * length));
  });
  it('slips less on what it touches with friction than without', () => {
    const slip = (name: string) => {
      const list = walked.get(name)!.frames.slip;
      return list.reduce((sum, v) => sum + v, 0) / list.length;
    };
    expect(slip('plain')).toBeLessThan(0.95 * slip('smooth'));
  });
});
