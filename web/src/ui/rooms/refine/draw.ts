import type { ReadCurve } from '@oscillum/core/refine';
import { C } from '../../../stage/pen';

/** Where frames and values stand on the canvas. */
export interface Scale {
  readonly width: number;
  readonly height: number;
  readonly from: number;
  readonly to: number;
  readonly low: number;
  readonly high: number;
}

export const xOf = (s: Scale, frame: number): number => ((frame - s.from) / (s.to - s.from)) * s.width;
export const yOf = (s: Scale, value: number): number =>
  s.height - ((value - s.low) / (s.high - s.low)) * s.height;
export const frameAt = (s: Scale, x: number): number => s.from + (x / s.width) * (s.to - s.from);
export const valueAt = (s: Scale, y: number): number =>
  s.low + ((s.height - y) / s.height) * (s.high - s.low);

export const AXES = ['x', 'y', 'z'] as const;
/** Inks and strokes of the three components. */
export const STROKES = [
  { ink: 'ochre', dash: [] },
  { ink: 'plum', dash: [7, 3] },
  { ink: 'verdigris', dash: [2, 2.5] },
] as const;

/** One joint's curve as it is drawn. */
export interface DrawnCurve {
  readonly key: string;
  readonly name: string;
  readonly now: ReadCurve;
  /** The bake with all keys, the untouched bake, and the source; null when not shown. */
  readonly every: ReadCurve | null;
  readonly bake: ReadCurve | null;
  readonly source: ReadCurve | null;
  /** Frames of its chosen keys. */
  readonly chosen: ReadonlySet<number>;
}

/** The ends of a key's slope as drawn: which key, which side, which component. */
export interface SlopeHandle {
  readonly key: string;
  readonly frame: number;
  readonly side: 'in' | 'out';
  readonly component: number;
  readonly x: number;
  readonly y: number;
  readonly atX: number;
  readonly atY: number;
}

export interface CurvePicture {
  readonly scale: Scale;
  readonly curves: readonly DrawnCurve[];
  readonly shown: readonly boolean[];
  readonly span: { readonly first: number; readonly last: number } | null;
  readonly handles: readonly SlopeHandle[];
  readonly unit: string;
  /** First frame of the shot; what is before it is pre-roll. */
  readonly first: number;
}

/** Height of the strip on which a span of frames is drawn. */
export const STRIP = 14;
const KEY = 3.4;
/** So many keys are drawn as plain squares, which is quicker. */
const MANY = 3000;
/** Of those, so many px apart at least. */
const CELL = 5;

/** Frames between keys, on average. */
function keysSpan(curves: readonly DrawnCurve[]): number | null {
  const { keys } = curves[0]?.now ?? { keys: [] };
  return keys.length > 1 ? (keys[keys.length - 1]! - keys[0]!) / (keys.length - 1) : null;
}

function path(g: CanvasRenderingContext2D, s: Scale, c: ReadCurve, component: number): void {
  const n = c.samples.length / 3;
  const first = Math.max(0, Math.floor((s.from - c.first) * c.perFrame) - 1);
  const last = Math.min(n - 1, Math.ceil((s.to - c.first) * c.perFrame) + 1);
  for (let k = first; k <= last; k++) {
    const x = xOf(s, c.first + k / c.perFrame);
    const y = yOf(s, c.samples[3 * k + component]!);
    if (k === first) g.moveTo(x, y);
    else g.lineTo(x, y);
  }
}

/** A step of 1, 2 or 5 times a power of ten that gives some six lines. */
function niceStep(range: number): number {
  const rough = range / 6;
  const power = 10 ** Math.floor(Math.log10(rough));
  const by = [1, 2, 5, 10].find((m) => m * power >= rough)!;
  return by * power;
}

type Pen = CanvasRenderingContext2D;

export function drawCurves(g: Pen, p: CurvePicture): void {
  const { curves } = p;
  drawGround(g, p);
  drawGrid(g, p);
  stroke(g, p, (c) => c.source, 0.55, 1, C.line);
  stroke(g, p, (c) => c.every, 0.7, 1, C.ink);
  stroke(g, p, (c) => c.bake, 0.35, 3);
  stroke(g, p, (c) => c.now, 1, curves.length > 6 ? 1 : 1.7);
  drawKeys(g, p);
  if (curves.length <= 3) drawNames(g, p);
}

/** What lies under all: pre-roll, and the span that is worked on. */
function drawGround(g: Pen, p: CurvePicture): void {
  const { scale: s } = p;
  g.clearRect(0, 0, s.width, s.height);
  g.fillStyle = C.preroll;
  g.fillRect(0, 0, xOf(s, p.first), s.height);
  if (p.span) {
    const [a, b] = [xOf(s, p.span.first), xOf(s, p.span.last)];
    g.fillStyle = C.picked;
    g.globalAlpha = 0.45;
    g.fillRect(a, 0, Math.max(1, b - a), s.height);
    g.globalAlpha = 1;
    g.fillStyle = C.graphite;
    g.fillRect(a, STRIP - 3, Math.max(1, b - a), 3);
  }
}

/** Lines of even values, with their numbers. */
function drawGrid(g: Pen, { scale: s, unit }: CurvePicture): void {
  g.lineWidth = 1;
  g.font = '11px "Atkinson Hyperlegible Next Variable", sans-serif';
  const step = niceStep(s.high - s.low);
  for (let v = Math.ceil(s.low / step) * step; v <= s.high; v += step) {
    const y = Math.round(yOf(s, v)) + 0.5;
    g.strokeStyle = C.rule;
    g.globalAlpha = Math.abs(v) < step / 2 ? 1 : 0.5;
    g.beginPath();
    g.moveTo(0, y);
    g.lineTo(s.width, y);
    g.stroke();
    g.globalAlpha = 1;
    if (y > STRIP + 8 && y < s.height - 4) {
      g.fillStyle = C['ink-2'];
      g.fillText(`${Number(v.toPrecision(6))}${unit}`, 4, y - 2);
    }
  }
}

/** One kind of line of all curves. A stroke a curve: one path of many is much slower to fill in. */
function stroke(
  g: Pen,
  { scale: s, curves, shown }: CurvePicture,
  of: (c: DrawnCurve) => ReadCurve | null,
  alpha: number,
  width: number,
  ink?: string,
): void {
  shown.forEach((visible, component) => {
    if (!visible) return;
    const { ink: own, dash } = STROKES[component]!;
    g.strokeStyle = ink ?? C[own];
    g.globalAlpha = alpha;
    g.lineWidth = width;
    g.setLineDash(curves.length > 4 ? [] : [...dash]);
    for (const c of curves) {
      const r = of(c);
      if (!r) continue;
      g.beginPath();
      path(g, s, r, component);
      g.stroke();
    }
  });
  g.globalAlpha = 1;
  g.setLineDash([]);
}

/** Keys with their slopes' handles; those chosen on top. */
function drawKeys(g: Pen, p: CurvePicture): void {
  const { scale: s, curves, shown } = p;
  // Keys on every frame are small, so that the curve is seen between them.
  const count = curves.reduce((n, c) => n + c.now.keys.length, 0);
  const apart = (s.width / (s.to - s.from)) * (keysSpan(curves) ?? 1);
  const radius = apart < 9 ? 1.6 : KEY;
  const dots = (at: readonly number[], r: number) => drawDots(g, s, at, r, count > MANY);
  const chosen: number[] = [];
  shown.forEach((visible, component) => {
    if (!visible) return;
    const list: number[] = [];
    for (const { now, chosen: picked } of curves)
      for (let k = 0; k < now.keys.length; k++) {
        const x = xOf(s, now.keys[k]!);
        if (x < -KEY || x > s.width + KEY) continue;
        const into = picked.size > 0 && picked.has(now.keys[k]!) ? chosen : list;
        into.push(x, yOf(s, now.values[3 * k + component]!));
      }
    g.fillStyle = C[STROKES[component]!.ink];
    dots(list, radius);
    if (radius < KEY) return;
    g.fillStyle = C.sheet;
    dots(list, radius - 1.4);
  });
  drawHandles(g, p.handles);
  g.fillStyle = C.ink;
  dots(chosen, radius + 1);
}

/** Dots at places, x and y by turns; many of them as plain squares, and those that would lie on one another once. */
function drawDots(g: Pen, s: Scale, at: readonly number[], r: number, many: boolean): void {
  if (many) {
    const across = Math.ceil(s.width / CELL) + 2;
    const taken = new Uint8Array(across * (Math.ceil(s.height / CELL) + 2));
    for (let i = 0; i < at.length; i += 2) {
      const [x, y] = [at[i]!, at[i + 1]!];
      const cell = across * (Math.floor(y / CELL) + 1) + Math.floor(x / CELL) + 1;
      if (y < 0 || y > s.height || taken[cell]) continue;
      taken[cell] = 1;
      g.fillRect(Math.round(x - r), Math.round(y - r), 2 * r, 2 * r);
    }
    return;
  }
  g.beginPath();
  for (let i = 0; i < at.length; i += 2) {
    const [x, y] = [at[i]!, at[i + 1]!];
    g.moveTo(x + r, y);
    g.arc(x, y, r, 0, 2 * Math.PI);
  }
  g.fill();
}

function drawHandles(g: Pen, handles: readonly SlopeHandle[]): void {
  g.strokeStyle = C.ink;
  g.beginPath();
  for (const h of handles) {
    g.moveTo(h.atX, h.atY);
    g.lineTo(h.x, h.y);
  }
  g.stroke();
  g.fillStyle = C.sheet;
  g.beginPath();
  for (const h of handles) {
    g.moveTo(h.x + 4, h.y);
    g.arc(h.x, h.y, 4, 0, 2 * Math.PI);
  }
  g.fill();
  g.stroke();
}

/** What a few curves are called, at their right ends. */
function drawNames(g: Pen, { scale: s, curves, shown }: CurvePicture): void {
  for (const c of curves)
    shown.forEach((visible, component) => {
      if (!visible) return;
      const { now } = c;
      const k = Math.min(now.samples.length / 3 - 1, Math.floor((s.to - now.first) * now.perFrame));
      if (k < 0) return;
      g.fillStyle = C[STROKES[component]!.ink];
      const text = curves.length > 1 ? `${c.name} ${AXES[component]}` : AXES[component]!;
      const x = Math.min(s.width, xOf(s, now.first + k / now.perFrame)) - g.measureText(text).width - 6;
      g.fillText(text, x, yOf(s, now.samples[3 * k + component]!) - 5);
    });
}
