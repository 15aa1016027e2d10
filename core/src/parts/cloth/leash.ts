import { alongEdges, type Sheet } from '../../sheets/index';
import type { Simulated } from '../kind';
import type { ClothPart } from './document';
import type { ClothLayout } from './layout';
import type { SheetSource } from './source';
import { valuesOf } from './values';

/** A vertex is stopped where it has gone this share of its leash. */
const STOPPED = 0.98;
/** What share of the free vertices is stopped before it is said. */
const MANY = 0.05;
/** A patch is on a side when its middle is off that of the cloth by this share of its half width. */
const ASIDE = 0.25;

/** Where and when the leash keeps a cloth from going on. */
export interface Leashed {
  /** Largest share of the free vertices that it stops, and on which frame. */
  readonly share: number;
  readonly frame: number;
  /** First and last frame on which it stops many. */
  readonly frames: readonly [number, number];
  /** The patch, as "the back of its hem". */
  readonly where: string;
}

/** What the leash of a cloth stops; null where it stops little, or has no end in sight. */
export function leashed({ part, frames, track, index }: Simulated<ClothPart>): Leashed | null {
  const { value } = valuesOf(part);
  const { sheet, held, shares } = track.parts[index]!.layout as ClothLayout;
  const { points: source } = track.parts[index]!.source as SheetSource;
  const lead = track.first - track.from;
  const wide = frames.pointed.reduce((n, p) => n + p.vertices, 0);
  const vertexOf = new Int32Array(sheet.points);
  sheet.pointOf.forEach((p, v) => (vertexOf[p] = v));
  const free = held.reduce((n, h) => n + (h ? 0 : 1), 0);
  let worst = { share: 0, frame: 0, stopped: [] as number[] };
  const many: number[] = [];
  for (let f = 0; f < frames.done; f++) {
    const frame = frames.first + f;
    const leash = value('leash', frame);
    const shown = value('amount', frame) / 100;
    const stopped: number[] = [];
    for (let p = 0; p < sheet.points; p++) {
      const far = STOPPED * shown * leash * (shares.leash ? shares.leash[p]! : 1);
      if (held[p] || !(far > 0)) continue;
      const a = 3 * (f * wide + frames.parts[index]!.points.from + vertexOf[p]!);
      const b = 3 * ((f + lead + 1) * sheet.points + p);
      let off = 0;
      for (let k = 0; k < 3; k++) off += (frames.points[a + k]! - source[b + k]!) ** 2;
      if (off >= far * far) stopped.push(p);
    }
    const share = stopped.length / Math.max(1, free);
    if (share > MANY) many.push(frame);
    if (share > worst.share) worst = { share, frame, stopped };
  }
  if (many.length === 0) return null;
  const { share, frame, stopped } = worst;
  return { share, frame, frames: [many[0]!, many.at(-1)!], where: patchOf(sheet, held, stopped) };
}

/** Names a patch by how far along the cloth it is, and on which side of it at rest. */
function patchOf(sheet: Sheet, held: Uint8Array, patch: readonly number[]): string {
  const along = alongEdges(sheet, held);
  const longest = along.reduce((m, d) => (d < Infinity ? Math.max(m, d) : m), 0) || 1;
  const mean = (of: (p: number) => number, all: Iterable<number>): number => {
    let [sum, n] = [0, 0];
    for (const p of all) {
      sum += of(p);
      n++;
    }
    return sum / Math.max(1, n);
  };
  const down = mean((p) => (along[p]! < Infinity ? along[p]! / longest : 1), patch);
  const part = down > 0.66 ? 'its hem' : down < 0.33 ? 'its top' : 'its middle';
  const every = [...held.keys()];
  const sides = [0, 2].map((a) => {
    const at = (p: number) => sheet.rest[3 * p + a]!;
    const middle = mean(at, every);
    const half = every.reduce((m, p) => Math.max(m, Math.abs(at(p) - middle)), 0) || 1;
    return (mean(at, patch) - middle) / half;
  }) as [number, number];
  const [x, z] = sides;
  if (Math.max(Math.abs(x), Math.abs(z)) < ASIDE) return part;
  if (Math.abs(x) > Math.abs(z)) return `the ${x > 0 ? 'left' : 'right'} of ${part}`;
  return `the ${z > 0 ? 'front' : 'back'} of ${part}`;
}
