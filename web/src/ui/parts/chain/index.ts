import type { ChainPart } from '@oscillum/core/chain';
import { lengthText } from '@oscillum/core/model';
import type { PartUi } from '../kind';
import { ChainPanel } from './ChainPanel';
import { MakeChain } from './MakeChain';
import { TouchTable } from './TouchTable';

export const chainUi: PartUi<ChainPart> = {
  laneText: (most, tip) => `off source ${most.toFixed(1)}°${tip === null ? '' : `, tip ${lengthText(tip)}`}`,
  full: 30,
  Make: MakeChain,
  Panel: ChainPanel,
  World: TouchTable,
};
