import { useState } from 'react';
import { goOnWith } from '@oscillum/core/bake';
import type { Shot } from '@oscillum/core/shot';
import { libraryApi } from '../../api/library';
import { called, change } from '../../state/edits';
import { useAppDispatch, type Thunk } from '../../state/store';
import { useDesk } from '../kit/desk';
import { say, sayTrouble, sentenceOfAny } from '../kit/say';

const openShot: Thunk<Shot | null> = (_, getState) => getState().shot.shot;

/**
 * Bakes parts into the shot's clip, keeps that as a version of the character, and goes on with it. Muted parts that are
 * named are simulated for it; no part at all bakes what was refined of the clip.
 */
export function useBakeInto(): { busy: boolean; bakeInto: (ids: readonly string[]) => Promise<void> } {
  const { simulation } = useDesk();
  const dispatch = useAppDispatch();
  const [upload] = libraryApi.useUploadMutation();
  const [busy, setBusy] = useState(false);
  const bakeInto = async (ids: readonly string[]) => {
    const shot = dispatch(openShot);
    if (!shot) return;
    setBusy(true);
    try {
      const { bytes, clip } = await simulation.bakeInto(shot, ids);
      const name = `${shot.character.fileName.replace(/\.[^.]*$/, '').slice(0, 190)}.glb`;
      const file = new File([bytes], name, { type: 'model/gltf-binary' });
      const { hash } = await upload({ file, of: shot.character.hash }).unwrap();
      const of = ids.length > 0 ? called(ids.map((id) => shot.parts[id]!)) : 'refinements';
      const goOn: Thunk = (dispatch, getState) => {
        const now = getState().shot.shot;
        if (now?.character.hash !== shot.character.hash || now.clip?.index !== shot.clip?.index)
          return say('The shot has another clip by now, so the baked one was left.');
        dispatch(change(`Bake ${of} into the clip`, (d) => goOnWith(d, now, ids, hash, clip)));
        say(`The shot goes on with “${clip.name}”. Undo brings it back.`);
      };
      dispatch(goOn);
    } catch (e) {
      sayTrouble(sentenceOfAny(e));
    } finally {
      setBusy(false);
    }
  };
  return { busy, bakeInto };
}
