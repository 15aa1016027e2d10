import { lengthText } from '@oscillum/core/model';
import type { StrandsPart } from '@oscillum/core/strands';
import type { PartUi } from '../kind';
import { CombBar } from './CombBar';
import { MakeHair } from './MakeHair';
import { StrandsPanel } from './StrandsPanel';

export const strandsUi: PartUi<StrandsPart> = {
  laneText: (most, tip) =>
    tip === null ? `off its groom by ${most.toFixed(0)} %` : `off its groom by ${lengthText(tip)}`,
  full: 30,
  Make: () => null,
  FromMesh: MakeHair,
  Panel: StrandsPanel,
  OnStage: CombBar,
};
