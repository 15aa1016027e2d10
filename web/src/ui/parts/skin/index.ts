import { lengthText } from '@oscillum/core/model';
import type { SkinPart } from '@oscillum/core/skin';
import type { PartUi } from '../kind';
import { MakeSkin } from './MakeSkin';
import { SkinPanel } from './SkinPanel';

export const skinUi: PartUi<SkinPart> = {
  laneText: (most, tip) =>
    tip === null ? `goes along by ${most.toFixed(0)} %` : `goes along by ${lengthText(tip)}`,
  full: 10,
  Make: () => null,
  FromMesh: MakeSkin,
  Panel: SkinPanel,
};
