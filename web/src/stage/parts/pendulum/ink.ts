import type { PendulumPart } from '@oscillum/core/pendulum';
import type { StagePart } from '../kind';

/** A pendulum is no row: the joints that it drives, and the one it follows, are marked. */
export const pendulumInk: StagePart<PendulumPart> = {
  line: () => [],
  dots: ({ input, outputs }) => [
    ...(input.from === 'turn' || input.from === 'place' ? [input.joint.node] : []),
    ...outputs.flatMap(({ target }) => ('joint' in target ? [target.joint.node] : [])),
  ],
};
