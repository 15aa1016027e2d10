import { lengthText } from '@oscillum/core/model';
import type { StrandsPart } from '@oscillum/core/strands';
import { forceText } from '../forceText';
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
    const [speed, tension] = [highest[0] ?? 0, highest[1] ?? 0];
    const moves = `, up to ${speed.toFixed(1)} m/s, pulled with up to ${forceText(tension)}`;
    return deepest > SHOWN ? `${moves}, ${lengthText(deepest)} deep` : moves;
  },
  full: 30,
  Make: () => null,
  FromMesh: MakeHair,
  Panel: StrandsPanel,
  OnStage: CombBar,
};
