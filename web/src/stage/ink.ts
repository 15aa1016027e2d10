import { alongPath } from '@oscillum/core/character';
import type { Part } from '@oscillum/core/shot';
import { framesAt } from '../sim/picture';
import { isChain } from '@oscillum/core/chain';
import { drawForces, drawPushes } from './air';
import { drawThickness } from './chainHandles';
import { inkOf } from './parts';
import { colliderOutlines, rowNow } from './outlines';
import { C, disc, dot, line, THIN, thinLines, type InkScene } from './pen';
import { TRAIL } from './view';

/** Draws the ink layer: source ghost, trails, joints, and what is selected or offered. */
export function drawInk(g: CanvasRenderingContext2D, scene: InkScene): void {
  g.lineCap = 'round';
  g.lineJoin = 'round';
  const parts = Object.values(scene.view.shot.parts).filter((p) => !p.muted);
  if (scene.view.ghost) {
    const places = parts.map((p) =>
      inkOf(p)
        .line(p)
        .map((n) => scene.project(scene.posed.source, 16 * n + 12)),
    );
    thinLines(g, places, C.graphite, [4, 4]);
  }
  if (scene.overlay && scene.view.overlay)
    for (const p of Object.values(scene.view.overlay.shot.parts)) {
      const places = inkOf(p)
        .line(p)
        .map((n) => scene.project(scene.overlay!, 16 * n + 12));
      line(g, places, C.plum, 2, [9, 4]);
    }
  if (scene.view.air) {
    drawForces(g, scene);
    drawPushes(g, scene);
  }
  if (scene.view.tint === 'cells') cells(g, scene);
  strings(g, scene);
  if (scene.view.showJoints) guides(g, scene);
  if (scene.view.onion) nearby(g, scene);
  if (scene.view.trails) trails(g, scene);
  if (scene.view.allTrails) allTrails(g, scene);
  if (scene.view.showJoints) {
    const chosen = new Set(scene.view.selectedParts);
    for (const p of Object.values(scene.view.shot.parts)) {
      const place = (n: number) => scene.project(scene.posed.simulated, 16 * n + 12);
      const points = inkOf(p).line(p).map(place);
      if (chosen.has(p.id) && isChain(p) && !p.muted) drawThickness(g, p, scene);
      line(g, points, p.muted ? C.graphite : C.verdigris, chosen.has(p.id) ? 3.2 : THIN, []);
      for (const q of [...points, ...inkOf(p).dots(p).map(place)])
        dot(g, q, chosen.has(p.id) ? 3.6 : 2.4, C.sheet, C.ink);
      if (!chosen.has(p.id) || p.muted) continue;
      const held = inkOf(p).held?.(p, { ...scene, ...scene.view }) ?? [];
      for (let o = 0; o < held.length; o += 3) dot(g, scene.project(held, o), 1.8, C.verdigris, C.sheet);
    }
  }
  if (scene.view.showJoints) springs(g, scene);
  if (scene.view.showColliders) colliders(g, scene);
  if (scene.view.stretch) stretched(g, scene);
  if (scene.view.points) points(g, scene);
  if (scene.view.contacts) contacts(g, scene);
  for (const row of scene.view.offered) {
    const points = row.map((n) => scene.project(scene.posed.simulated, 16 * n + 12));
    line(g, points, C.ochre, 3, [7, 5]);
    for (const q of points) dot(g, q, 3, C.sheet, C.ochre);
  }
  joints(g, scene);
  if (scene.view.strand) strands(g, scene, scene.view.strand);
}

/** Strokes from a place to another, 6 numbers each, as the camera sees them. */
const seen = (strokes: ArrayLike<number>, { project }: InkScene) =>
  Array.from({ length: strokes.length / 6 }, (_, e) => [
    project(strokes as Float64Array, 6 * e),
    project(strokes as Float64Array, 6 * e + 3),
  ]);

/** The cells that soft bodies are filled with. */
function cells(g: CanvasRenderingContext2D, scene: InkScene): void {
  for (const part of chosenParts(scene)) {
    const edges = inkOf(part).cells?.(part, { ...scene, ...scene.view }) ?? [];
    thinLines(g, seen(edges, scene), C.graphite, []);
  }
}

/** The guides of chosen strands. */
function guides(g: CanvasRenderingContext2D, scene: InkScene): void {
  for (const id of scene.view.selectedParts) {
    const part = scene.view.shot.parts[id];
    if (!part || part.muted) continue;
    const own = inkOf(part).guides?.(part, { ...scene, ...scene.view });
    if (own) thinLines(g, seen(own, scene), C.verdigris, []);
  }
}

/** The strings that parts hang on. */
function strings(g: CanvasRenderingContext2D, scene: InkScene): void {
  for (const part of Object.values(scene.view.shot.parts)) {
    if (part.muted) continue;
    const own = inkOf(part).strings?.(part, { ...scene, ...scene.view });
    if (own) thinLines(g, seen(own, scene), C.ink, []);
  }
}

/** Springs between chains that are linked. */
function springs(g: CanvasRenderingContext2D, { view, posed, project }: InkScene): void {
  const { parts } = view.shot;
  for (const p of Object.values(parts)) {
    if (!isChain(p) || p.muted) continue;
    for (const { to } of p.springs) {
      const other = parts[to];
      if (!isChain(other) || other.muted) continue;
      const count = Math.min(p.joints.length, other.joints.length);
      const place = (node: number) => project(posed.simulated, 16 * node + 12);
      const rungs = Array.from({ length: count - 1 }, (_, i) => [
        place(p.joints[i + 1]!.node),
        place(other.joints[i + 1]!.node),
      ]);
      thinLines(g, rungs, C.ochre, [2, 3]);
    }
  }
}

/** Rows being laid, with the joints they will get. */
function strands(
  g: CanvasRenderingContext2D,
  { project }: InkScene,
  { rows, joints }: NonNullable<InkScene['view']['strand']>,
): void {
  for (const row of rows) {
    line(
      g,
      row.map((p) => project(p, 0)),
      C.ochre,
      2.5,
      [],
    );
    const pixel = (p: ArrayLike<number>) => project(p, 0);
    if (row.length > 1) for (const p of alongPath(row, joints)) dot(g, pixel(p), 3.4, C.sheet, C.ochre);
    else for (const p of row) dot(g, pixel(p), 4, C.ochre, C.ink);
  }
}

/** Colliders as outlines. */
function colliders(g: CanvasRenderingContext2D, scene: InkScene): void {
  const { thing } = scene.view;
  for (const { id, lines: outline } of colliderOutlines(scene)) {
    const chosen = thing?.id === id;
    g.globalAlpha = thing?.kind === 'collider' && !chosen ? 0.35 : 1;
    for (const points of outline) line(g, points, C.ochre, chosen ? 2 : THIN, []);
    g.globalAlpha = 1;
  }
}

/** Tip of each chain, one dot a frame: spacing is speed. */
function trails(g: CanvasRenderingContext2D, { view, project }: InkScene): void {
  const frames = view.picture.frames;
  if (!frames) return;
  const now = Math.round(view.frame) - frames.first;
  const chosen = frames.parts.flatMap(({ partId }, c) =>
    view.selectedParts.length === 0 || view.selectedParts.includes(partId) ? [c] : [],
  );
  const paths = chosen.map((): (readonly [number, number])[] => []);
  const ages: number[] = [];
  for (let f = Math.max(0, now - TRAIL); f <= Math.min(frames.count - 1, now + TRAIL / 2); f++) {
    const rows = framesAt(view.picture, f);
    if (!rows) continue;
    ages.push(f - now);
    chosen.forEach((c, i) => paths[i]!.push(project(rows.tips, 3 * (f * rows.parts.length + c))));
  }
  g.globalAlpha = 0.35;
  thinLines(g, paths, C.verdigris, []);
  ages.forEach((age, k) => {
    g.globalAlpha = age === 0 ? 1 : Math.max(0.15, 0.75 - Math.abs(age) / TRAIL);
    g.fillStyle = age === 0 ? C.madder : C.verdigris;
    g.strokeStyle = C.verdigris;
    g.lineWidth = THIN;
    for (const path of paths) {
      if (age <= 0) disc(g, path[k]!, age === 0 ? 3.2 : 1.9);
      else {
        // Frames to come are open dots.
        g.beginPath();
        g.arc(...path[k]!, 1.9, 0, 2 * Math.PI);
        g.stroke();
      }
    }
  });
  g.globalAlpha = 1;
}

/** The selected parts that move, or all of them. */
const chosenParts = ({ view }: InkScene): Part[] =>
  Object.values(view.shot.parts).filter(
    (p) => !p.muted && (view.selectedParts.length === 0 || view.selectedParts.includes(p.id)),
  );

/** Frames between two drawn nearby, and how many each way. */
const NEARBY = 3;
const NEARBY_EACH = 3;

/** Chains as they stand before (thin) and after (dotted) this frame, fainter the farther. */
function nearby(g: CanvasRenderingContext2D, scene: InkScene): void {
  const { view, project } = scene;
  const { range } = view.shot;
  const now = Math.round(view.frame);
  for (let k = -NEARBY_EACH; k <= NEARBY_EACH; k++) {
    const frame = now + k * NEARBY;
    if (k === 0 || frame < range.first || frame > range.last) continue;
    const world = scene.elsewhere(frame);
    g.globalAlpha = 0.6 - 0.15 * Math.abs(k);
    const paths = chosenParts(scene).map((p) =>
      inkOf(p)
        .line(p)
        .map((n) => project(world, 16 * n + 12)),
    );
    thinLines(g, paths, C.verdigris, k > 0 ? [2, 4] : []);
  }
  g.globalAlpha = 1;
}

/** Where every joint of the selected chains has been and will be. */
function allTrails(g: CanvasRenderingContext2D, scene: InkScene): void {
  const { view, project } = scene;
  const now = Math.round(view.frame);
  const first = Math.max(view.shot.range.first, now - TRAIL);
  const last = Math.min(view.shot.range.last, now + TRAIL / 2);
  const nodes = chosenParts(scene).flatMap((p) => inkOf(p).line(p));
  const paths = nodes.map((): (readonly [number, number])[] => []);
  for (let f = first; f <= last; f++) {
    const world = scene.elsewhere(f);
    nodes.forEach((node, i) => paths[i]!.push(project(world, 16 * node + 12)));
  }
  g.globalAlpha = 0.5;
  thinLines(g, paths, C.verdigris, []);
  g.globalAlpha = 1;
}

/** What is simulated: every joint of a chain and its tip, as small squares. */
function points(g: CanvasRenderingContext2D, scene: InkScene): void {
  const now = rowNow(scene);
  g.strokeStyle = C.ink;
  g.fillStyle = C.sheet;
  g.lineWidth = 1.2;
  const square = ([x, y]: readonly [number, number]) => {
    g.fillRect(x - 2.5, y - 2.5, 5, 5);
    g.strokeRect(x - 2.5, y - 2.5, 5, 5);
  };
  for (const p of chosenParts(scene)) {
    for (const n of inkOf(p).line(p)) square(scene.project(scene.posed.simulated, 16 * n + 12));
    const c = now?.rows.parts.findIndex((x) => x.partId === p.id) ?? -1;
    if (now && c >= 0) square(scene.project(now.rows.tips, 3 * (now.at * now.rows.parts.length + c)));
  }
}

/** Links longer (red, thick) or shorter (blue, dotted) than their source by more than this share. */
const STRETCHED = 0.005;

function stretched(g: CanvasRenderingContext2D, scene: InkScene): void {
  const { posed, project } = scene;
  const length = (world: Float64Array, a: number, b: number) =>
    Math.hypot(...[12, 13, 14].map((k) => world[16 * a + k]! - world[16 * b + k]!));
  for (const p of chosenParts(scene)) {
    const nodes = inkOf(p).line(p);
    for (let i = 1; i < nodes.length; i++) {
      const [a, b] = [nodes[i - 1]!, nodes[i]!];
      const source = length(posed.source, a, b);
      const by = source > 0 ? length(posed.simulated, a, b) / source - 1 : 0;
      if (Math.abs(by) < STRETCHED) continue;
      const ends = [a, b].map((n) => project(posed.simulated, 16 * n + 12));
      g.globalAlpha = Math.min(1, 0.35 + 4 * Math.abs(by));
      line(g, ends, by > 0 ? C.madder : C.sky, by > 0 ? 5 : 4, by > 0 ? [] : [2, 6]);
    }
  }
  g.globalAlpha = 1;
}

/** A small mark where a chain presses hardest on something on this frame. */
function contacts(g: CanvasRenderingContext2D, scene: InkScene): void {
  const now = rowNow(scene);
  if (!now) return;
  const { at, rows } = now;
  g.strokeStyle = C.madder;
  g.lineWidth = 2;
  rows.parts.forEach(({ partId }, c) => {
    const cell = at * rows.parts.length + c;
    const part = scene.view.shot.parts[partId];
    const nodes = part ? inkOf(part).line(part) : [];
    if (nodes.length === 0 || rows.contacts[cell] === 0) return;
    const along = rows.contactAt[cell]!;
    const i = Math.min(nodes.length - 1, Math.floor(along));
    const a = scene.project(scene.posed.simulated, 16 * nodes[i]! + 12);
    const b =
      i + 1 < nodes.length
        ? scene.project(scene.posed.simulated, 16 * nodes[i + 1]! + 12)
        : scene.project(rows.tips, 3 * cell);
    const [x, y] = [0, 1].map((k) => a[k]! + (along - i) * (b[k]! - a[k]!)) as [number, number];
    g.beginPath();
    for (const [dx, dy] of [
      [5, 5],
      [5, -5],
    ] as const) {
      g.moveTo(x - dx, y - dy);
      g.lineTo(x + dx, y + dy);
    }
    g.stroke();
  });
}

function joints(g: CanvasRenderingContext2D, { view, posed, character, project }: InkScene): void {
  const selected = new Set(view.selectedJoints);
  if (view.showJoints) {
    const set = new Set(character.joints);
    const place = (j: number) => project(posed.simulated, 16 * j + 12);
    const all = Array.from(character.joints);
    const parent = (j: number) => character.nodes[j]!.parent;
    g.globalAlpha = 0.3;
    thinLines(
      g,
      all.filter((j) => set.has(parent(j))).map((j) => [place(parent(j)), place(j)]),
      C.ink,
      [],
    );
    g.globalAlpha = 1;
    for (const j of all) dot(g, place(j), 1.7, C.ink, C.ink);
  }
  for (const j of selected) dot(g, project(posed.simulated, 16 * j + 12), 6, C.ochre, C.ink);
  const hover = view.hoverJoint;
  if (hover !== null && character.nodes[hover]) {
    const p = project(posed.simulated, 16 * hover + 12);
    dot(g, p, 5, C.sheet, C.ink);
    const name = character.nodes[hover].name;
    g.font = '600 12px "Atkinson Hyperlegible Next Variable", sans-serif';
    const w = g.measureText(name).width;
    g.fillStyle = C.sheet;
    g.strokeStyle = C.rule;
    g.lineWidth = 1;
    g.beginPath();
    g.roundRect(p[0] + 10, p[1] - 22, w + 12, 20, 5);
    g.fill();
    g.stroke();
    g.fillStyle = C.ink;
    g.fillText(name, p[0] + 16, p[1] - 8);
  }
}
