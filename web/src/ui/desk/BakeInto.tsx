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
function useBakeInto(): { busy: boolean; bakeInto: (ids: readonly string[]) => Promise<void> } {
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
        // What was changed meanwhile is not in the keys.
        if (getState().shot.shot !== shot)
          return say('The shot was changed while it was baked, so the baked clip was left. Press again.');
        dispatch(change(`Bake ${of} into the clip`, (d) => goOnWith(d, shot, ids, hash, clip)));
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

/** A press that bakes parts, or with none what was refined of the clip, into the clip. */
export function BakeInto({ ids, title, label }: { ids: readonly string[]; title: string; label: string }) {
  const { busy, bakeInto } = useBakeInto();
  return (
    <button className="soft" disabled={busy} title={title} onClick={() => void bakeInto(ids)}>
      {busy ? 'Baking into the clip…' : label}
    </button>
  );
}
