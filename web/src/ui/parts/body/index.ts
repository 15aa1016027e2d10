import type { BodyPart } from '@oscillum/core/body';
import { lengthText } from '@oscillum/core/model';
import type { PartUi } from '../kind';
import { BodyPanel } from './BodyPanel';
import { MakeBody } from './MakeBody';

/** Deeper than this is said, m. */
const SHOWN = 1e-4;

export const bodyUi: PartUi<BodyPart> = {
  laneText: (most, tip) =>
    tip === null ? `off its animation by ${most.toFixed(0)} %` : `off its animation by ${lengthText(tip)}`,
  laneMore: ({ lowest, deepest }) => {
    const volume = `, volume ≥ ${(100 * (lowest[0] ?? 1)).toFixed(0)} %`;
    return deepest > SHOWN ? `${volume}, ${lengthText(deepest)} deep` : volume;
  },
  full: 10,
  Make: () => null,
  FromMesh: MakeBody,
  Panel: BodyPanel,
};
