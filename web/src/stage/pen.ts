import type { Character } from '@oscillum/core/character';
import type { Posed } from './pose';
import type { StageView } from './view';

/** What the flat layer draws from. `project` takes a point in an array to pixels. */
export interface InkScene {
  view: StageView;
  posed: Posed;
  character: Character;
  /** A ball round the figure, m. */
  ball: { centre: readonly number[]; radius: number };
  project: (array: ArrayLike<number>, offset: number) => readonly [number, number];
}

/** Inks of the stage. */
export const C = {
  ink: '#23263a',
  sheet: '#fbf8f1',
  graphite: '#77777f',
  verdigris: '#1f7a6d',
  madder: '#b5413a',
  ochre: '#b9812a',
  sky: '#3d6ea8',
};
export function line(
  g: CanvasRenderingContext2D,
  points: readonly (readonly [number, number])[],
  colour: string,
  width: number,
  dash: number[],
): void {
  g.strokeStyle = colour;
  g.lineWidth = width;
  g.setLineDash(dash);
  g.beginPath();
  points.forEach((p, i) => (i ? g.lineTo(p[0], p[1]) : g.moveTo(p[0], p[1])));
  g.stroke();
  g.setLineDash([]);
}
