import type { PartBase } from '@oscillum/core/model';
import { quatAngle } from '@oscillum/core/math';
import { framesAt, type Picture } from '../../../sim/picture';
import { C, clearLane, THIN, type Strip } from '../../../stage/pen';
import { keyedFrames } from '../../../state/lanes';

export interface LaneData {
  /** Degrees by frame of the range; NaN where nothing is known. */
  offSource: Float32Array;
  /** Links that press on something, by frame. */
  contacts: Uint16Array;
  /** How many frames from the first are of the present settings. */
  fresh: number;
  most: number;
  tip: number;
  /** The lowest and the highest of each of the part's own readouts, and the deepest it stands in what it touches, m. */
  lowest: Float32Array;
  highest: Float32Array;
  deepest: number;
  /** From this frame on every frame is as it was one time of the clip before; null when it never is, or none is. */
  agrees: number | null;
}

/** Largest angle between two frames of a part's joints for them to agree, radians. */
const AGREES = 0.1 * (Math.PI / 180);

/** The first frame of the range from which a part repeats what it did `period` frames before. */
function agreesFrom({ frames }: Picture, c: number, period: number): number | null {
  if (!frames || period < 1 || frames.done < frames.count || frames.count <= period) return null;
  const wide = 4 * frames.joints.length;
  const { from, length } = frames.parts[c]!.joints;
  const same = (f: number) => {
    for (let q = 4 * from; q < 4 * (from + length); q += 4)
      if (quatAngle(frames.rotations, f * wide + q, frames.rotations, (f - period) * wide + q) > AGREES)
        return false;
    return true;
  };
  let f = frames.count;
  while (f > period && same(f - 1)) f--;
  return f < frames.count ? f : null;
}

/** `period`: frames of one time of a clip that is repeated; 0 where it is not. */
export function laneData(picture: Picture, partId: string, period = 0): LaneData | null {
  const { frames } = picture;
  const c = frames?.parts.findIndex((x) => x.partId === partId) ?? -1;
  if (!frames || c < 0) return null;
  const offSource = new Float32Array(frames.count).fill(NaN);
  const contacts = new Uint16Array(frames.count);
  const { from, length } = frames.parts[c]!.readouts;
  const lowest = new Float32Array(length).fill(Infinity);
  const highest = new Float32Array(length).fill(-Infinity);
  let [most, tip, deepest] = [0, 0, 0];
  for (let f = 0; f < frames.count; f++) {
    const rows = framesAt(picture, f);
    if (!rows) continue;
    offSource[f] = rows.offSource[f * rows.parts.length + c]!;
    contacts[f] = rows.contacts[f * rows.parts.length + c]!;
    most = Math.max(most, offSource[f]!);
    tip = Math.max(tip, rows.tipOffSource[f * rows.parts.length + c]!);
    deepest = Math.max(deepest, rows.depth[f * rows.parts.length + c]!);
    const wide = rows.readoutNames.length;
    for (let k = 0; k < length; k++) {
      const value = rows.readouts[f * wide + from + k]!;
      lowest[k] = Math.min(lowest[k]!, value);
      highest[k] = Math.max(highest[k]!, value);
    }
  }
  return {
    offSource,
    contacts,
    fresh: frames.done,
    most,
    tip,
    lowest,
    highest,
    deepest,
    agrees: agreesFrom(picture, c, period),
  };
}

/** What is drawn in a lane. */
export interface LaneDrawing extends Strip {
  readonly part: Pick<PartBase, 'anchors' | 'keys'>;
  readonly data: LaneData | null;
  /** Frames of its keys when it was baked into the clip. */
  readonly baked: readonly number[] | null;
  /** Frames of the marks that are chosen, and spans of frames with trouble. */
  readonly picked: readonly number[];
  readonly troubles: readonly (readonly [number, number])[];
  /** What the part strays by at the top, at least. */
  readonly full: number;
}

/** Draws a lane: how far the part strays, its contacts, anchor poses, keys and troubles; what is stale is hatched. */
export function drawLane(
  g: CanvasRenderingContext2D,
  w: number,
  h: number,
  { part, data, baked, picked, troubles, full, ...strip }: LaneDrawing,
): void {
  const { first } = strip;
  const at = clearLane(g, w, h, strip);
  if (baked)
    bakedKeys(
      g,
      baked.map((f) => at(f) * w),
      h,
    );
  if (!data) return;
  const top = Math.max(full, data.most * 1.08);
  const x = (f: number) => at(first + f) * w;
  const y = (v: number) => h - 3 - (Math.min(v, top) / top) * (h - 8);
  const path = new Path2D();
  let open = false;
  data.offSource.forEach((v, f) => {
    if (Number.isNaN(v)) return;
    if (open) path.lineTo(x(f), y(v));
    else path.moveTo(x(f), y(v));
    open = true;
  });
  const area = new Path2D(path);
  area.lineTo(x(data.offSource.length - 1), h);
  area.lineTo(x(0), h);
  g.fillStyle = g.strokeStyle = C.verdigris;
  g.globalAlpha = 0.16;
  g.fill(area);
  g.globalAlpha = 1;
  g.lineWidth = THIN;
  g.stroke(path);
  g.fillStyle = C.madder;
  // Contacts on frames that follow one another are one bar.
  for (let f = 0, since = -1; f <= data.contacts.length; f++) {
    const presses = f < data.contacts.length && data.contacts[f]! > 0;
    if (presses && since < 0) since = f;
    if (presses || since < 0) continue;
    g.fillRect(x(since) - 1, h - 4, x(f - 1) - x(since) + 2, 4);
    since = -1;
  }
  if (data.agrees !== null) agreesMark(g, x(data.agrees), h);
  for (const a of part.anchors)
    anchorMark(
      g,
      [a.frame - a.easeIn, a.frame, a.frame + a.hold, a.frame + a.hold + a.easeOut].map((f) => at(f) * w),
      h,
      a.turns === null ? C.ochre : C.plum,
    );
  for (const f of keyedFrames(part.keys)) keyMark(g, at(f) * w, h);
  g.strokeStyle = C.ink;
  g.lineWidth = 1.5;
  for (const f of picked) g.strokeRect(at(f) * w - 6, 2, 12, h - 4);
  g.fillStyle = C.madder;
  for (const [a, b] of troubles) g.fillRect(at(a) * w, 0, Math.max(3, (at(b) - at(a)) * w), 2.5);
  if (data.fresh < data.offSource.length) hatch(g, x(Math.max(0, data.fresh - 1)), w, h);
}

/** From here on the cycles agree. */
function agreesMark(g: CanvasRenderingContext2D, x: number, h: number): void {
  g.strokeStyle = g.fillStyle = C.ink;
  g.globalAlpha = 0.7;
  g.setLineDash([2, 3]);
  g.beginPath();
  g.moveTo(x, 2);
  g.lineTo(x, h - 2);
  g.stroke();
  g.setLineDash([]);
  g.font = '11px "Atkinson Hyperlegible Next Variable", sans-serif';
  g.fillText('cycles agree from here', x + 5, 12);
  g.globalAlpha = 1;
}

/** An anchor pose: a line, as long as it is held, and the ease to either side of it with its grips. */
function anchorMark(g: CanvasRenderingContext2D, xs: readonly number[], h: number, ink: string): void {
  const [from, x, held, to] = xs as [number, number, number, number];
  g.fillStyle = ink;
  g.globalAlpha = 0.25;
  g.beginPath();
  g.moveTo(from, h);
  g.quadraticCurveTo(x, h, x, 6);
  g.lineTo(held, 6);
  g.quadraticCurveTo(held, h, to, h);
  g.fill();
  g.globalAlpha = 1;
  g.fillRect(x - 1, 4, Math.max(2, held - x), h - 4);
  for (const end of [from, to]) g.fillRect(end - 1.5, h - 8, 3, 8);
}

/** Keys that play: a stroke each on a line, thinner where they stand close. */
function bakedKeys(g: CanvasRenderingContext2D, xs: readonly number[], h: number): void {
  if (xs.length === 0) return;
  g.fillStyle = C.ink;
  g.globalAlpha = 0.45;
  g.fillRect(xs[0]!, h / 2 - 0.5, xs.at(-1)! - xs[0]!, 1);
  g.globalAlpha = 0.8;
  const gap = (xs.at(-1)! - xs[0]!) / Math.max(1, xs.length - 1);
  for (const x of xs) g.fillRect(x - (gap > 5 ? 1 : 0.5), h / 2 - 6, gap > 5 ? 2 : 1, 12);
  g.globalAlpha = 1;
}

function keyMark(g: CanvasRenderingContext2D, x: number, h: number): void {
  g.fillStyle = C.plum;
  g.beginPath();
  g.moveTo(x, h - 10);
  g.lineTo(x + 4, h - 6);
  g.lineTo(x, h - 2);
  g.lineTo(x - 4, h - 6);
  g.fill();
}

function hatch(g: CanvasRenderingContext2D, from: number, to: number, h: number): void {
  g.save();
  g.beginPath();
  g.rect(from, 0, to - from, h);
  g.clip();
  g.globalAlpha = 0.6;
  g.fillStyle = C.sheet;
  g.fillRect(from, 0, to - from, h);
  g.globalAlpha = 0.45;
  g.strokeStyle = C.line;
  g.lineWidth = 1;
  g.beginPath();
  for (let x = from - h; x < to; x += 7) {
    g.moveTo(x, h);
    g.lineTo(x + h, 0);
  }
  g.stroke();
  g.restore();
}
