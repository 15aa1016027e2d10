import { useMemo } from 'react';
import { isRefined } from '@oscillum/core/refine';
import type { Picture } from '../../sim/picture';
import { useAppSelector } from '../../state/store';
import { useDesk } from '../kit/desk';
import { refinedPicture } from './picture';
import { useBaked } from './useBaked';

/** The shot as it leaves when something is laid on its bake; undefined when nothing is, or it is still being baked. */
export function useRefinedPicture(): Picture | undefined {
  const { character } = useDesk();
  const shot = useAppSelector((s) => s.shot.shot)!;
  const refined = isRefined(shot);
  const baked = useBaked(shot, refined);
  const { refine } = shot;
  return useMemo(() => {
    if (!refined || baked.at !== 'baked') return undefined;
    return refinedPicture(character, { ...baked.shot, refine }, baked.clip);
    // Of the bake only the clip counts: it is another whenever the rest is.
    // eslint-disable-next-line react-hooks/exhaustive-deps
  }, [refined, baked.at, baked.at === 'baked' && baked.clip, refine, character]);
}
