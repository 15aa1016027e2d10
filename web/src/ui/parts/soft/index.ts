import { lengthText } from '@oscillum/core/model';
import type { RegionPart } from '@oscillum/core/soft';
import type { PartUi } from '../kind';
import { MakeRegion } from './MakeRegion';
import { RegionPanel } from './RegionPanel';

export const regionUi: PartUi<RegionPart> = {
  laneText: (most, tip) =>
    tip === null ? `off its skin by ${most.toFixed(0)} %` : `off its skin by ${lengthText(tip)}`,
  full: 10,
  Make: () => null,
  FromMesh: MakeRegion,
  Panel: RegionPanel,
};
