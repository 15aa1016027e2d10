import type { ClothPart, PanelPart } from '@oscillum/core/cloth';
import { lengthText } from '@oscillum/core/model';
import { forceText } from '../forceText';
import type { PartUi } from '../kind';
import { ClothPanel } from './ClothPanel';
import { LoopEnd } from './LoopEnd';
import { MakeCloth } from './MakeCloth';
import { MakePanel } from './MakePanel';
import { PanelPanel } from './PanelPanel';
import { ReleaseMarks } from './ReleaseMarks';

export const clothUi: PartUi<ClothPart> = {
  laneText: (most, tip) =>
    tip === null ? `off its skin by ${most.toFixed(0)} %` : `off its skin by ${lengthText(tip)}`,
  laneMore: ({ highest }) => (highest[0]! >= 0 ? `, pulls with up to ${forceText(highest[0]!)}` : ''),
  full: 40,
  Make: () => null,
  FromMesh: MakeCloth,
  fromLines: true,
  InLane: ReleaseMarks,
  Panel: ClothPanel,
};

export const panelUi: PartUi<PanelPart> = {
  laneText: (most, tip) =>
    tip === null ? `off its source by ${most.toFixed(0)} %` : `off its source by ${lengthText(tip)}`,
  full: 40,
  Make: MakePanel,
  InLane: LoopEnd,
  Panel: PanelPanel,
};
