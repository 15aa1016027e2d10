import { useEffect, useRef, useState } from 'react';
import { useNavigate } from 'react-router';
import type { Shot } from '@oscillum/core/shot';
import { lengthText } from '@oscillum/core/model';
import { libraryApi } from '../../../api/library';
import { WorkError } from '../../../sim/asks';
import { NOTHING } from '../../../sim/picture';
import { PLAIN } from '../../../stage/view';
import { selectShot, useAppDispatch, useAppSelector } from '../../../state/store';
import { viewSlice, type Strip } from '../../../state/view';
import { change, infoOf } from '../../../state/edits';
import { useDesk, usePicture } from '../../kit/desk';
import { useHiddenStage } from '../../kit/useHiddenStage';
import { sayTrouble, sentenceOfAny } from '../../kit/say';
import { runOf, shotsOnClips, shotsWithSetting, type VariantRun } from './variants';

/** Size of a picture, px, and time between two while the strip plays, ms: four frames of a clip a second. */
const [WIDTH, HEIGHT] = [164, 124];
const PLAYED_MS = 125;

/** Runs side by side: the set-up on all clips with the worst frame of each, or a setting at half, now and double. */
export function RunStrip() {
  const strip = useAppSelector((s) => s.view.strip);
  const parts = useAppSelector((s) => selectShot(s)!.parts);
  if (!strip || (strip.of === 'setting' && !strip.ids.some((id) => parts[id]))) return null;
  return <Runs key={strip.of === 'clips' ? '' : strip.key} strip={strip} />;
}

function Runs({ strip }: { strip: Strip }) {
  const dispatch = useAppDispatch();
  const shot = useAppSelector(selectShot)!;
  const chosen = useAppSelector((s) => s.view.parts);
  const { runs, share } = useRuns(strip, shot, strip.of === 'clips' ? chosen : strip.ids);
  const now = runs.find((r) => r.shot === shot);
  const title =
    strip.of === 'clips'
      ? 'On all clips'
      : infoOf(shot.parts[strip.ids.find((id) => shot.parts[id])!]!, strip.key).label;
  const [playing, setPlaying] = useState(false);
  const tick = useTicks(playing);
  return (
    <section className="clip-strip float" aria-label={title}>
      <span className="brush-row">
        <b>{title}</b>
        <span className="muted small">
          {share < 1
            ? `simulating, ${Math.round(100 * share)} %`
            : strip.of === 'clips'
              ? 'the worst frame of each; press one to go there'
              : 'half, now and double on one frame; press one to take it'}
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
          <button className="mini" onClick={() => dispatch(viewSlice.actions.stripSet(null))}>
            close
          </button>
        </span>
      </span>
      <Pictures
        runs={runs}
        strip={strip}
        still={strip.of === 'setting' ? now?.worst : undefined}
        tick={playing ? tick : null}
      />
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

/** Simulates all of them, one after the other, whenever the shot has changed and is whole on its own. */
function useRuns(
  strip: Strip,
  shot: Shot,
  chosen: readonly string[],
): { runs: readonly VariantRun[]; share: number } {
  const { character, simulation } = useDesk();
  const { running, frames } = usePicture();
  const [made, setMade] = useState<{ of: Shot; runs: readonly VariantRun[]; total: number } | null>(null);
  const whole = !running && frames !== null;
  useEffect(() => {
    if (!whole) return;
    const gone = new AbortController();
    const work = async () => {
      const all =
        strip.of === 'clips' ? shotsOnClips(character, shot) : shotsWithSetting(shot, strip.ids, strip.key);
      const runs: VariantRun[] = [];
      for (const on of all) {
        const own = on.shot === shot ? simulation.picture.frames : null;
        const done = own ?? (await simulation.simulateApart(on.shot, gone.signal));
        if (gone.signal.aborted) return;
        runs.push(runOf(on, done, chosen));
        setMade({ of: shot, runs: [...runs], total: all.length });
      }
    };
    work().catch((e: unknown) => {
      if (!(e instanceof WorkError)) throw e;
      if (!gone.signal.aborted) sayTrouble(e.trouble.sentence);
    });
    return () => gone.abort();
  }, [whole, strip, shot, character, simulation, chosen]);
  // What stands is shown until the new one is there.
  return { runs: made?.runs ?? [], share: made?.of === shot ? made.runs.length / made.total : 0 };
}

/** Draws each run: one frame for all or the worst of each, or while it plays one after the other. */
function Pictures({
  runs,
  strip,
  still,
  tick,
}: {
  runs: readonly VariantRun[];
  strip: Strip;
  still: number | undefined;
  tick: number | null;
}) {
  const open = useOpen(strip);
  const without = useAppSelector((s) => s.view.without === 1);
  const night = useAppSelector((s) => s.view.night);
  const tint = useAppSelector((s) => s.view.tint);
  const canvases = useRef(new Map<string, HTMLCanvasElement>());
  const stage = useHiddenStage(WIDTH, HEIGHT);
  useEffect(() => {
    for (const { id, shot, picture, worst } of runs) {
      const canvas = canvases.current.get(id);
      const { first, last } = shot.range;
      const frame = tick === null ? (still ?? worst) : first + (tick % (last - first + 1));
      const view = { shot, picture: without ? NOTHING : picture, frame, ...PLAIN, tint, night, offered: [] };
      if (!canvas || !stage.current) continue;
      stage.current.show(view);
      stage.current.frame('three-quarter');
      stage.current.still(view, canvas);
    }
  }, [stage, runs, still, tick, without, night, tint]);
  return (
    <div className="clip-pictures">
      {runs.map((r) => (
        <button key={r.id} className="plain" onClick={() => open(r)}>
          <canvas
            ref={(c) => void (c ? canvases.current.set(r.id, c) : canvases.current.delete(r.id))}
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

/** Goes to the worst frame of a run, in a shot that is made for its clip where it is another; or takes the setting. */
function useOpen(strip: Strip): (run: VariantRun) => void {
  const dispatch = useAppDispatch();
  const navigate = useNavigate();
  const own = useAppSelector((s) => selectShot(s)!);
  const [createShot] = libraryApi.useCreateShotMutation();
  return ({ shot, worst, name }) => {
    if (strip.of === 'setting') {
      const { key, ids } = strip;
      const taken = change(`Take ${infoOf(own.parts[ids[0]!]!, key).label.toLowerCase()}: ${name}`, (d) => {
        for (const id of ids) if (d.parts[id]) Object.assign(d.parts, { [id]: shot.parts[id] });
      });
      return void dispatch(taken);
    }
    if (shot === own) return void dispatch(viewSlice.actions.frameSet(worst));
    createShot(shot)
      .unwrap()
      .then(({ id }) => {
        void navigate(`/shot/${id}/tune?frame=${worst}`);
        dispatch(viewSlice.actions.stripSet(null));
      })
      .catch((e: unknown) => sayTrouble(sentenceOfAny(e)));
  };
}
