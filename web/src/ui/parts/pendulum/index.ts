import type { PendulumPart } from '@oscillum/core/pendulum';
import type { PartUi } from '../kind';
import { MakePendulum } from './MakePendulum';
import { PendulumPanel } from './PendulumPanel';

export const pendulumUi: PartUi<PendulumPart> = {
  laneText: (most) => `trails by up to ${most.toFixed(0)} %`,
  full: 100,
  Make: MakePendulum,
  Panel: PendulumPanel,
};
