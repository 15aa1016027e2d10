import type { Shot } from '../../shot/index';
import type { AskedFeel, Feel, FittedFeel } from '../diagnosis';
import type { SourceTrack } from '../kind';
import type { ChainPart } from './document';
import { fitDroop, fitFeel, measureFeel, restDroop } from './feel';
import type { ChainSource } from './source';
import { makeTuning } from './tuning';

/** What feel is measured on: a chain of the shot as it stands in the first pose, with its settings there. */
function standard(shot: Shot, track: SourceTrack, chain: number) {
  const { layout, source } = track.parts[chain]!;
  const { lengths, points } = source as ChainSource;
  const tuning = makeTuning(shot.parts[layout.part.id] as ChainPart, shot, lengths);
  const width = 3 * (lengths.length + 1);
  const row = track.first - track.from + 1;
  return {
    matter: { lengths, masses: tuning.masses(track.first) },
    h: 1 / (shot.fps * shot.substeps),
    feel: tuning.feel(track.first),
    shape: points.slice(row * width, (row + 1) * width),
  };
}

/** The feel of a chain of the shot on the standard quick turn, in frames of the shot. */
export function chainFeel(shot: Shot, track: SourceTrack, chain: number): Feel {
  const s = standard(shot, track, chain);
  const droop = restDroop(s.matter, s.feel, s.shape, s.h);
  return { ...measureFeel(s.matter, s.feel, s.shape, shot.fps), droop };
}

/** Settings that give a chain of the shot an asked feel. */
export function fitChainFeel(shot: Shot, track: SourceTrack, chain: number, asked: AskedFeel): FittedFeel {
  const s = standard(shot, track, chain);
  if (asked.droop === undefined) return fitFeel(s.matter, s.feel, s.shape, shot.fps, asked);
  const { hold, droop } = fitDroop(s.matter, s.feel, s.shape, s.h, asked.droop);
  const feel = { ...measureFeel(s.matter, { ...s.feel, hold }, s.shape, shot.fps), droop };
  const why = Math.abs(droop - asked.droop) > 1 ? `it droops ${droop.toFixed(0)}°, not ${asked.droop}°` : '';
  return { settings: { hold }, feel, why };
}
