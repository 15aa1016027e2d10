import { useEffect, useRef, useState } from 'react';
import { useNavigate } from 'react-router';
import type { Shot } from '@oscillum/core/shot';
import { lengthText } from '@oscillum/core/model';
import { libraryApi } from '../../../api/library';
import { WorkError } from '../../../sim/asks';
import { NOTHING } from '../../../sim/picture';
import { Stage } from '../../../stage/stage';
import { PLAIN } from '../../../stage/view';
import { selectShot, useAppDispatch, useAppSelector } from '../../../state/store';
import { viewSlice } from '../../../state/view';
import { useDesk, usePicture } from '../../kit/desk';
import { sayTrouble, sentenceOfAny } from '../../kit/say';
import { clipRun, shotsOnClips, type ClipRun } from './clipRuns';

/** Size of a picture, px, and time between two while the strip plays, ms: four frames of a clip a second. */
const [WIDTH, HEIGHT] = [164, 124];
const PLAYED_MS = 125;

/** The same set-up on all clips of the character, side by side, the worst frame of each. */
export function ClipStrip() {
  const open = useAppSelector((s) => s.view.strip);
  return open ? <Strip /> : null;
}

function Strip() {
  const dispatch = useAppDispatch();
  const shot = useAppSelector(selectShot)!;
  const chosen = useAppSelector((s) => s.view.parts);
  const { runs, share } = useRuns(shot, chosen);
  const [playing, setPlaying] = useState(false);
  const tick = useTicks(playing);
  return (
    <section className="clip-strip float" aria-label="All clips">
      <span className="brush-row">
        <b>On all clips</b>
        <span className="muted small">
          {share < 1
            ? `simulating, ${Math.round(100 * share)} %`
            : 'the worst frame of each; press one to go there'}
        </span>
        <span className="presses">
          <button
            className="mini"
            aria-pressed={playing}
            title="Plays all of them slowly"
            onClick={() => setPlaying(!playing)}
          >
            play slowly
          </button>
          <button className="mini" onClick={() => dispatch(viewSlice.actions.stripSet(false))}>
            close
          </button>
        </span>
      </span>
      <Pictures runs={runs} tick={playing ? tick : null} />
    </section>
  );
}

/** A number that counts up while it plays. */
function useTicks(playing: boolean): number {
  const [tick, setTick] = useState(0);
  useEffect(() => {
    if (!playing) return;
    const timer = setInterval(() => setTick((t) => t + 1), PLAYED_MS);
    return () => clearInterval(timer);
  }, [playing]);
  return tick;
}

/** Simulates a shot on all clips, one after the other, whenever it has changed and is whole on its own. */
function useRuns(shot: Shot, chosen: readonly string[]): { runs: readonly ClipRun[]; share: number } {
  const { character, simulation } = useDesk();
  const { running, frames } = usePicture();
  const [made, setMade] = useState<{ of: Shot; runs: readonly ClipRun[]; total: number } | null>(null);
  const whole = !running && frames !== null;
  useEffect(() => {
    if (!whole) return;
    let gone = false;
    const work = async () => {
      const all = shotsOnClips(character, shot);
      const runs: ClipRun[] = [];
      for (const on of all) {
        const own = on.shot === shot ? simulation.picture.frames : null;
        const done = own ?? (await simulation.simulateApart(on.shot));
        if (gone) return;
        runs.push(clipRun(on, done, chosen));
        setMade({ of: shot, runs: [...runs], total: all.length });
      }
    };
    work().catch((e: unknown) => {
      if (!(e instanceof WorkError)) throw e;
      if (!gone) sayTrouble(e.trouble.sentence);
    });
    return () => {
      gone = true;
    };
  }, [whole, shot, character, simulation, chosen]);
  // What stands is shown until the new one is there.
  return { runs: made?.runs ?? [], share: made?.of === shot ? made.runs.length / made.total : 0 };
}

/** Draws each run: its worst frame, or while it plays one after the other. */
function Pictures({ runs, tick }: { runs: readonly ClipRun[]; tick: number | null }) {
  const { character } = useDesk();
  const open = useOpen();
  const without = useAppSelector((s) => s.view.without === 1);
  const night = useAppSelector((s) => s.view.night);
  const tint = useAppSelector((s) => s.view.tint);
  const canvases = useRef(new Map<number, HTMLCanvasElement>());
  const stage = useRef<Stage | null>(null);
  useEffect(() => {
    const host = document.createElement('div');
    host.style.cssText = `position:fixed;left:-2000px;top:0;width:${WIDTH}px;height:${HEIGHT}px`;
    document.body.append(host);
    stage.current = new Stage(host);
    stage.current.setCharacter(character);
    return () => {
      stage.current?.dispose();
      stage.current = null;
      host.remove();
    };
  }, [character]);
  useEffect(() => {
    for (const { clip, shot, picture, worst } of runs) {
      const canvas = canvases.current.get(clip);
      const { first, last } = shot.range;
      const frame = tick === null ? worst : first + (tick % (last - first + 1));
      const view = { shot, picture: without ? NOTHING : picture, frame, ...PLAIN, tint, night, offered: [] };
      if (!canvas || !stage.current) continue;
      stage.current.show(view);
      stage.current.frame('three-quarter');
      stage.current.still(view, canvas);
    }
  }, [runs, tick, without, night, tint]);
  return (
    <div className="clip-pictures">
      {runs.map((r) => (
        <button
          key={r.clip}
          className="plain"
          title={`Go to frame ${r.worst} of ${r.name}`}
          onClick={() => open(r)}
        >
          <canvas
            ref={(c) => void (c ? canvases.current.set(r.clip, c) : canvases.current.delete(r.clip))}
            style={{ width: WIDTH, height: HEIGHT }}
          />
          <b>{r.name}</b>
          <span className="muted small">
            {lengthText(r.far)} off on frame {r.worst}
          </span>
        </button>
      ))}
    </div>
  );
}

/** Goes to the worst frame of a run: of the shot's own clip here, else in a shot that is made for it. */
function useOpen(): (run: ClipRun) => void {
  const dispatch = useAppDispatch();
  const navigate = useNavigate();
  const own = useAppSelector((s) => selectShot(s)!.clip?.index);
  const [createShot] = libraryApi.useCreateShotMutation();
  return ({ clip, shot, worst }) => {
    if (clip === own) return void dispatch(viewSlice.actions.frameSet(worst));
    createShot(shot)
      .unwrap()
      .then(({ id }) => {
        void navigate(`/shot/${id}/tune`);
        dispatch(viewSlice.actions.stripSet(false));
      })
      .catch((e: unknown) => sayTrouble(sentenceOfAny(e)));
  };
}
