import { useRef, useState } from 'react';
import { NOTHING, type Picture } from '../../sim/simulation';
import { useAppSelector } from '../../state/store';
import { useDesk } from '../common/desk';
import { say, sentenceOfAny } from '../common/say';
import { viewed } from '../common/StageView';
import { ChoiceRow } from '../tune/Rows';
import { bakeable, unmuted } from './choices';
import { makeFilm, type FilmKind } from './film';
import { saveFile } from './saveFile';

/** The shot from where the camera stands now, as a film to show. */
export function FilmPanel({ refined }: { refined: Picture | undefined }) {
  const { simulation, stage } = useDesk();
  const shot = useAppSelector((s) => s.shot.shot)!;
  const view = useAppSelector((s) => s.view);
  const [kind, setKind] = useState<FilmKind>('webm');
  const [numbers, setNumbers] = useState(true);
  const [share, setShare] = useState<number | null>(null);
  const [trouble, setTrouble] = useState('');
  const stopped = useRef(false);
  const make = async () => {
    const drawn = stage.current;
    if (!drawn) return;
    stopped.current = false;
    setTrouble('');
    setShare(0);
    try {
      // What a bake has muted moves in the film.
      const moving = unmuted(
        shot,
        bakeable(shot).map((p) => p.id),
      );
      const picture = refined ?? { ...NOTHING, frames: await simulation.simulateApart(moving) };
      const { first, last } = shot.range;
      const film = await makeFilm(
        drawn,
        {
          ...viewed(view),
          ...{ shot: moving, picture, beside: null, offered: [] },
          ...{ thing: null, strand: null, selectedJoints: [], hoverJoint: null },
        },
        {
          ...{ kind, numbers, first, last, fps: shot.fps },
          name: shot.name.replace(/[^\w .,-]/g, '').trim() || 'film',
        },
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
        <button className="soft" onClick={() => void make()}>
          Make the film
        </button>
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
            <button className="soft" onClick={() => (stopped.current = true)}>
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
