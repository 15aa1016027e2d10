import type { BodyPart } from '@oscillum/core/body';
import { lengthText } from '@oscillum/core/model';
import type { PartUi } from '../kind';
import { BodyPanel } from './BodyPanel';
import { MakeBody } from './MakeBody';

export const bodyUi: PartUi<BodyPart> = {
  laneText: (most, tip) =>
    tip === null ? `off its animation by ${most.toFixed(0)} %` : `off its animation by ${lengthText(tip)}`,
  full: 10,
  Make: () => null,
  FromMesh: MakeBody,
  Panel: BodyPanel,
};
