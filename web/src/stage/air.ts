import { inOrder } from '@oscillum/core/model';
import { forceField } from '@oscillum/core/simulate';
import { inkOf } from './parts';
import { C, line, type InkScene } from './pen';

/** Streaks across the figure's ball, each way; and how long a way of the air one streak is, s. */
const ACROSS = 5;
const STREAK = 0.03;
const felt = new Float64Array(6);
const ends = new Float64Array(6);

/** What the air does to the parts that say so, as strokes on them. */
export function drawPushes(g: CanvasRenderingContext2D, scene: InkScene): void {
  for (const part of Object.values(scene.view.shot.parts)) {
    if (part.muted) continue;
    const strokes = inkOf(part).air?.(part, { ...scene, ...scene.view }) ?? [];
    for (let o = 0; o < strokes.length; o += 6)
      line(g, [scene.project(strokes, o), scene.project(strokes, o + 3)], C.ink, 1.1, []);
  }
}

/**
 * Air and attractors about the figure, as streaks along what they do there: longer is stronger, and they move with it.
 */
export function drawForces(g: CanvasRenderingContext2D, scene: InkScene): void {
  const { view, ball } = scene;
  const { shot, frame } = view;
  for (const force of inOrder(shot.forces)) {
    if (force.muted) continue;
    const field = forceField(force, shot.fps);
    field.at(frame);
    const local = force.kind !== 'wind';
    const centre = local ? force.t : ball.centre;
    const reach = local ? force.radius : 1.3 * ball.radius;
    const step = (2 * reach) / ACROSS;
    // Streaks of a wind are carried along by it; what leaves at one side comes in at the other.
    const drift = [0, 0, 0];
    if (force.kind === 'wind') {
      const l = Math.hypot(...force.direction) || 1;
      for (let a = 0; a < 3; a++)
        drift[a] = (((((force.direction[a]! / l) * force.speed * frame) / shot.fps) % step) + step) % step;
    }
    g.globalAlpha = 0.55;
    for (let n = 0; n < ACROSS ** 3; n++) {
      const cell = [n % ACROSS, Math.floor(n / ACROSS) % ACROSS, Math.floor(n / ACROSS ** 2)];
      for (let a = 0; a < 3; a++) {
        // Rows are set off against each other, or they would stand behind one another like a fence.
        const off = ((cell[(a + 1) % 3]! + cell[(a + 2) % 3]!) % 2) / 2;
        ends[a] = centre[a]! - reach + (cell[a]! + off) * step + drift[a]!;
      }
      felt.fill(0);
      field.add(felt, ends[0]!, ends[1]!, ends[2]!);
      const o = force.kind === 'attractor' ? 3 : 0;
      const strength = Math.hypot(felt[o]!, felt[o + 1]!, felt[o + 2]!);
      if (strength < 1e-3) continue;
      for (let a = 0; a < 3; a++) ends[3 + a] = ends[a]! + felt[o + a]! * STREAK;
      arrow(g, scene.project(ends, 0), scene.project(ends, 3));
    }
    g.globalAlpha = 1;
  }
}

function arrow(
  g: CanvasRenderingContext2D,
  from: readonly [number, number],
  to: readonly [number, number],
): void {
  line(g, [from, to], C.sky, 1.2, []);
  const [dx, dy] = [to[0] - from[0], to[1] - from[1]];
  const l = Math.hypot(dx, dy);
  if (l < 6) return;
  const head = Math.min(4, l / 3) / l;
  line(
    g,
    [
      [to[0] - head * (dx - dy * 0.7), to[1] - head * (dy + dx * 0.7)],
      to,
      [to[0] - head * (dx + dy * 0.7), to[1] - head * (dy - dx * 0.7)],
    ],
    C.sky,
    1.2,
    [],
  );
}
