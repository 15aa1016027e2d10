import { createContext, useContext, useSyncExternalStore } from 'react';
import type { Character } from '@oscillum/core/character';
import type { Simulation } from '../../sim/simulation';
import type { Picture } from '../../sim/picture';
import type { Stage } from '../../stage/stage';

/** What the rooms of one open shot share beside the store. */
export interface DeskTools {
  character: Character;
  simulation: Simulation;
  /** Filled while a stage is on screen. */
  stage: { current: Stage | null };
  /** Ends chosen for rows at forks, by first joint. */
  ends: Record<number, number>;
  setEnd: (first: number, last: number) => void;
}

export const DeskContext = createContext<DeskTools | null>(null);

export function useDesk(): DeskTools {
  const desk = useContext(DeskContext);
  if (!desk) throw new Error('No shot is open');
  return desk;
}

/** The simulated shot as far as it is known, or something of it; renders again when that is another. */
export function usePicture(): Picture;
export function usePicture<T>(select: (picture: Picture) => T): T;
export function usePicture(select: (picture: Picture) => unknown = (p) => p): unknown {
  const { simulation } = useDesk();
  return useSyncExternalStore(simulation.subscribe, () => select(simulation.picture));
}
