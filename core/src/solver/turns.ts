import { TurnStep, turnLinks } from '../kernel/turns';
import { numberAt, type Arena } from './arena';

const STRETCH = numberAt(new TurnStep(), 'stretch');

/** Joint rotations and places of a chain from its simulated points: one number list a kind, by link. */
export interface LinkTurns {
  /**
   * Source locals of the joints: place (3 numbers each, file units), turn (4), scale (3). To be filled in before
   * `find`.
   */
  readonly place: Float64Array;
  readonly turn: Float64Array;
  readonly scale: Float64Array;
  /** World matrices, 16 numbers each: first of what the chain hangs from (to be filled in), then of its joints. */
  readonly world: Float64Array;
  /** Found: local turns and places. */
  readonly turned: Float64Array;
  readonly placed: Float64Array;
  /** Finds turns, places and matrices; where links do not `stretch` places stay the source's. */
  find(stretch: boolean): void;
}

/**
 * Each joint gets the smallest turn, in its parent's space, from where its source points to where the simulated link
 * points, on top of its source rotation: twist follows the source, and since turns are relative to the link before,
 * they stay small and nothing flips. Non-uniform scale above a joint is respected: the turn is found in the space where
 * it will be applied. `points` (links + 1, m) are the chain's, `tip` the end of the last link in its joint's space.
 * Compiled when there is an arena, to the same bits.
 */
export function makeLinkTurns(points: Float64Array, tip: ArrayLike<number>, arena: Arena | null): LinkTurns {
  const links = points.length / 3 - 1;
  const make = (size: number) => (arena ? arena.alloc(size) : new Float64Array(size));
  // After the last joint's place stands that of the tip.
  const place = make(3 * links + 3);
  place.set(tip, 3 * links);
  const turn = make(4 * links);
  const scale = make(3 * links);
  const world = make(16 * links + 16);
  const turned = make(4 * links);
  const placed = make(3 * links);
  const fields = Object.assign(new TurnStep(), {
    ...{ links, points, place, turn, scale, world, turned, placed },
    ...{ local: make(16), aim: make(3) },
  });
  const stands = arena?.place(fields);

  return {
    place,
    turn,
    scale,
    world,
    turned,
    placed,
    find: (stretches) => {
      fields.stretch = stretches ? 1 : 0;
      if (!stands) return turnLinks(fields);
      stands.numbers[STRETCH] = fields.stretch;
      arena!.turns(stands.at);
    },
  };
}
