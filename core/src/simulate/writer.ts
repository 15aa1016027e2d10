import { makePose, rootMatrix, worldMatrices, type Character } from '../character/index';
import { repeatRow, sizesOf, type Columns, type Frames } from '../frames/index';
import type { MomentRow, Posed } from '../parts/index';
import type { Shot } from '../shot/index';
import { drivenSource } from './drive';
import type { World } from './engine';

/** Writes the columns of a world's parts and free colliders in the frames of a simulation, from its state. */
export interface Writer {
  /** Takes note of the contacts of a substep. */
  gather(): void;
  /** Says that the simulation goes on from a checkpoint: what it began in is known already. */
  goOn(): void;
  /** Writes frame f of the range. */
  frame(f: number): void;
  /** Joints and weights at any moment (a frame before the range, or between two): the world has to stand there. */
  between(frame: number): MomentRow;
  /** Makes frame f of some columns an earlier one again, carried by a travel. */
  repeat(earlier: number, f: number, travel: Float64Array, columns: Columns): void;
}

export function makeWriter(character: Character, shot: Shot, world: World, frames: Frames): Writer {
  /** World matrices of joints that others hang from, as they are shown. */
  const shown = new Float64Array(16 * character.nodes.length);
  const free = world.colliders.flatMap(({ body, collider }) =>
    body.free ? [{ body, column: frames.colliders.indexOf(collider.id) }] : [],
  );
  let begun = false;

  /** The source at any frame, posed whole: made when it is first asked for. */
  let sampled: ((frame: number) => Posed) | null = null;
  const sourceAt = (): ((frame: number) => Posed) => {
    const source = drivenSource(character, shot);
    const root = rootMatrix(shot.character.metresPerUnit, shot.character.upAxis);
    const posed: Posed = { pose: makePose(character), world: new Float64Array(16 * character.nodes.length) };
    return (frame) => {
      source.at(frame, posed.pose);
      worldMatrices(character, posed.pose, root, posed.world);
      return posed;
    };
  };

  return {
    gather: () => {
      for (const r of world.runs) r.note(frames, !begun);
      begun = true;
    },
    goOn: () => void (begun = true),
    between: (frame) => {
      const posed = (sampled ??= sourceAt())(frame);
      const sizes = sizesOf(frames);
      const row: MomentRow = {
        frame,
        rotations: new Float64Array(4 * sizes.joints),
        translations: new Float64Array(3 * sizes.joints),
        scales: new Float64Array(3 * sizes.scaled),
        weights: new Float64Array(sizes.morphs),
      };
      for (const r of world.runs) r.writeAt(row, frames, frame, posed, shown);
      return row;
    },
    frame: (f) => {
      for (const r of world.runs) r.write(frames, f, shown);
      for (const { body, column } of free)
        frames.placements.set(body.now, 7 * (f * frames.colliders.length + column));
    },
    repeat: (earlier, f, travel, columns) => repeatRow(frames, columns, earlier, f, travel),
  };
}
