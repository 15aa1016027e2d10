import type { ClothPart, PanelPart } from '@oscillum/core/cloth';
import { lengthText } from '@oscillum/core/model';
import type { PartUi } from '../kind';
import { ClothPanel } from './ClothPanel';
import { LoopEnd } from './LoopEnd';
import { MakeCloth } from './MakeCloth';
import { MakePanel } from './MakePanel';
import { PanelPanel } from './PanelPanel';
import { ReleaseMarks } from './ReleaseMarks';

/** A force in N, in so many figures as an animator reads. */
const forceText = (newtons: number): string => `${Number(newtons.toPrecision(2))} N`;

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
