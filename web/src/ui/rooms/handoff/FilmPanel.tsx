import { useRef, useState } from 'react';
import type { FilmRequest } from '@oscillum/core/contract';
import { call } from '../../../api/http';
import type { Picture } from '../../../sim/picture';
import { useAppSelector } from '../../../state/store';
import { SWITCHES } from '../../../state/view';
import { useDesk } from '../../kit/desk';
import { say, sentenceOfAny } from '../../kit/say';
import { ChoiceRow } from '../../kit/Rows';
import { bakeable, unmuted } from '../../../state/baking';
import { movingPicture } from '../../desk/picture';
import { filmPlan, filmView, makeFilm, type FilmKind } from './film';
import { saveFile } from '../../kit/saveFile';

/** Makes a film here, or asks for it in the queue; one at a time. */
function useFilm(kind: FilmKind, numbers: boolean, refined: Picture | undefined) {
  const { simulation, stage, character } = useDesk();
  const shot = useAppSelector((s) => s.shot.shot)!;
  const view = useAppSelector((s) => s.view);
  const [share, setShare] = useState<number | null>(null);
  const [trouble, setTrouble] = useState('');
  const stopped = useRef(false);
  // What a bake has muted moves in the film.
  const moving = unmuted(
    shot,
    bakeable(shot).map((p) => p.id),
  );
  /** Drawn by a worker's own browser, from where the camera stands now. */
  const queue = async () => {
    const drawn = stage.current;
    if (!drawn) return;
    const { target, at, zoom, width, height } = drawn.place();
    const even = (n: number, most: number) => Math.max(64, Math.min(most, Math.round(n)) & ~1);
    const film: FilmRequest = {
      ...{ kind, numbers },
      size: { width: even(width, 1920), height: even(height, 1080) },
      camera: { target: target.toArray(), at: at.toArray(), zoom },
      shown: Object.fromEntries(SWITCHES.map((k) => [k, view[k]])),
    };
    try {
      await call('createJobs', { body: { jobs: [{ shot: moving, film }] } });
      say('The film is in the queue. You can go on, or close this page.');
    } catch (e) {
      setTrouble(sentenceOfAny(e));
    }
  };
  const make = async () => {
    const drawn = stage.current;
    if (!drawn) return;
    stopped.current = false;
    setTrouble('');
    setShare(0);
    try {
      const picture = refined ?? (await movingPicture(simulation, character, moving));
      const film = await makeFilm(
        drawn,
        filmView(view, moving, picture),
        filmPlan(moving, kind, numbers),
        (done) => {
          setShare(done);
          return !stopped.current;
        },
      );
      if (film) saveFile(film.bytes, film.name, film.type);
      say(film ? `${film.name} is made.` : 'The film was stopped; nothing was written.');
    } catch (e) {
      setTrouble(sentenceOfAny(e));
    } finally {
      setShare(null);
    }
  };
  return { share, trouble, make, queue, stop: () => (stopped.current = true) };
}

/** The shot from where the camera stands now, as a film to show. */
export function FilmPanel({ refined }: { refined: Picture | undefined }) {
  const [kind, setKind] = useState<FilmKind>('webm');
  const [numbers, setNumbers] = useState(true);
  const { share, trouble, make, queue, stop } = useFilm(kind, numbers, refined);
  return (
    <>
      <h3>Film</h3>
      <ChoiceRow
        label="As"
        value={kind}
        says="From the view on the stage, with the ghost and trails it shows"
        choices={[
          ['webm', 'a film (WebM)'],
          ['png', 'PNG pictures, zipped'],
          ['sheet', 'a contact sheet'],
          ['four', 'four views at once (WebM)'],
        ]}
        onSet={setKind}
      />
      <label className="check">
        <input type="checkbox" checked={numbers} onChange={() => setNumbers(!numbers)} />
        with frame numbers
      </label>
      {share === null ? (
        <span className="pair">
          <button className="soft" onClick={() => void make()}>
            Make the film
          </button>
          <button
            className="soft"
            title="Drawn beside this page, by a worker with a browser of its own"
            onClick={() => void queue()}
          >
            Film in the queue
          </button>
        </span>
      ) : (
        <div role="status">
          <div
            className="progress"
            role="progressbar"
            aria-label="Making the film"
            aria-valuenow={Math.round(100 * share)}
          >
            <i style={{ width: `${100 * share}%` }} />
          </div>
          <span className="pair" style={{ marginTop: 6 }}>
            Drawing, {Math.round(100 * share)} %{' '}
            <button className="soft" onClick={stop}>
              Stop
            </button>
          </span>
        </div>
      )}
      {trouble && (
        <p className="trouble" role="alert">
          {trouble}
        </p>
      )}
    </>
  );
}
