import type { Shot } from '../shot/index';
import { makeTuning, type SourceTrack } from '../simulate/index';
import { fitFeel, measureFeel, type AskedFeel, type Feel, type FittedFeel } from './feel';

/** What feel is measured on: a chain of the shot as it stands in the first pose, with its settings there. */
function standard(shot: Shot, track: SourceTrack, chain: number) {
  const c = track.chains[chain]!;
  const part = shot.parts[c.layout.part.id]!;
  const tuning = makeTuning(part, shot, c.lengths);
  const width = 3 * (c.lengths.length + 1);
  const row = track.first - track.from + 1;
  return {
    matter: { lengths: c.lengths, masses: tuning.masses(track.first) },
    feel: tuning.feel(track.first),
    shape: c.points.slice(row * width, (row + 1) * width),
  };
}

/** The feel of a chain of the shot on the standard quick turn, in frames of the shot. */
export function partFeel(shot: Shot, track: SourceTrack, chain: number): Feel {
  const s = standard(shot, track, chain);
  return measureFeel(s.matter, s.feel, s.shape, shot.fps);
}

/** Settings that give chains of the shot an asked feel, one answer a chain. */
export function fitPartFeel(
  shot: Shot,
  track: SourceTrack,
  chains: readonly number[],
  asked: AskedFeel,
): FittedFeel[] {
  return chains.map((chain) => {
    const s = standard(shot, track, chain);
    return fitFeel(s.matter, s.feel, s.shape, shot.fps, asked);
  });
}
