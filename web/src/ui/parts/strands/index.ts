import { lengthText } from '@oscillum/core/model';
import type { StrandsPart } from '@oscillum/core/strands';
import type { PartUi } from '../kind';
import { CombBar } from './CombBar';
import { MakeHair } from './MakeHair';
import { StrandsPanel } from './StrandsPanel';

/** Deeper than this is said, m. */
const SHOWN = 1e-4;

export const strandsUi: PartUi<StrandsPart> = {
  laneText: (most, tip) =>
    tip === null ? `off its groom by ${most.toFixed(0)} %` : `off its groom by ${lengthText(tip)}`,
  laneMore: ({ highest, deepest }) => {
    const speed = `, up to ${(highest[0] ?? 0).toFixed(1)} m/s`;
    return deepest > SHOWN ? `${speed}, ${lengthText(deepest)} deep` : speed;
  },
  full: 30,
  Make: () => null,
  FromMesh: MakeHair,
  Panel: StrandsPanel,
  OnStage: CombBar,
};
