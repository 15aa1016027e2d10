import { useRef, useState } from 'react';
import { lastFrame, type Shot } from '@oscillum/core/shot';
import { libraryApi } from '../../../api/library';
import { change } from '../../../state/edits';
import { useAppDispatch, useAppSelector, type Thunk } from '../../../state/store';
import { useDesk } from '../../kit/desk';
import { say, sentenceOfAny } from '../../kit/say';

/** A motion from a file (a body capture) as one clip more on a copy of the character; the shot goes on with it. */
export function BringMotion() {
  const dispatch = useAppDispatch();
  const { simulation, character } = useDesk();
  const shot = useAppSelector((s) => s.shot.shot)!;
  const [upload] = libraryApi.useUploadMutation();
  const [busy, setBusy] = useState(false);
  const [trouble, setTrouble] = useState('');
  const input = useRef<HTMLInputElement>(null);
  const bring = async (file: File) => {
    setBusy(true);
    setTrouble('');
    try {
      const made = await simulation.applyMotion(await file.arrayBuffer(), file.name);
      const stem = shot.character.fileName.replace(/\.[^.]*$/, '');
      const fileName = `${stem.slice(0, 200)} with ${made.name.slice(0, 60)}.glb`;
      const copy = new File([made.bytes], fileName, { type: 'model/gltf-binary' });
      const { hash } = await upload(copy).unwrap();
      dispatch(takeClip({ hash, fileName }, character.clips.length, made.name, made.duration));
      const left = made.missed.length;
      const some = `${made.missed.slice(0, 6).join(', ')}${left > 6 ? ' …' : ''}`;
      const missed = left > 0 ? ` ${left} of its joints have no like here: ${some}.` : '';
      say(`“${made.name}” moves ${made.matched} joints.${missed}`);
    } catch (e) {
      setTrouble(sentenceOfAny(e));
    } finally {
      setBusy(false);
    }
  };
  return (
    <>
      <h3>A motion from a file</h3>
      <div className="presses">
        <button
          className="soft"
          disabled={busy}
          title="BVH or USD text with joints named like these; rest poses are aligned"
          onClick={() => input.current?.click()}
        >
          {busy ? 'Importing…' : 'Import motion'}
        </button>
        <input
          ref={input}
          type="file"
          hidden
          aria-label="Choose a motion file"
          accept=".bvh,.usda"
          onChange={(e) => {
            const file = e.target.files?.[0];
            e.target.value = '';
            if (file) void bring(file);
          }}
        />
      </div>
      {trouble && (
        <p className="trouble" role="alert">
          {trouble}
        </p>
      )}
    </>
  );
}

/** The shot goes on with a copy of its character, on its new clip. One edit. */
function takeClip(
  character: Pick<Shot['character'], 'fileName'> & { hash: string },
  index: number,
  name: string,
  duration: number,
): Thunk {
  return change(`Bring motion: ${name}`, (d) => {
    Object.assign(d.character, character);
    d.clip = { index, name };
    d.settleFrames = 0;
    d.range = { first: 0, last: lastFrame(duration, d.fps) };
  });
}
