import type { ChainPart } from '@oscillum/core/chain';
import type { StagePart } from '../kind';

export const chainInk: StagePart<ChainPart> = {
  line: (part) => part.joints.map((j) => j.node),
  dots: () => [],
};
