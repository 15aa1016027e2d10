import { useEffect, useMemo, useRef, useState } from 'react';
import { asTaken, type Take } from '@oscillum/core/shot';
import { NOTHING, type Picture } from '../../sim/picture';
import { Stage } from '../../stage/stage';
import { offersFor } from '../../state/rows';
import { selectShot, store, useAppDispatch, useAppSelector } from '../../state/store';
import { viewSlice, type ViewSlice } from '../../state/view';
import type { StageView as DrawnView } from '../../stage/view';
import { HandleTool } from '../../tools/handles';
import { PickTool } from '../../tools/pick';
import { ShakeTool } from '../../tools/shake';
import { useDesk, usePicture } from '../kit/desk';
import { StageTools } from './StageTools';
import { sayTrouble } from '../kit/say';

/** The mesh under the pointer or chosen in the list of meshes, or the part of it. */
function litOf(v: ViewSlice): Pick<DrawnView, 'litMesh' | 'litRegion'> {
  const hovers = v.hoverMesh !== null;
  const node = hovers ? v.hoverMesh : v.list === 'meshes' ? v.mesh : null;
  return { litMesh: node, litRegion: node === null ? null : hovers ? v.hoverRegion : v.region };
}

/** What of the view the stage draws by. */
export const viewed = (v: ViewSlice): Omit<DrawnView, 'shot' | 'picture' | 'offered' | 'overlay'> => ({
  frame: v.frame,
  ghost: v.ghost,
  trails: v.trails,
  allTrails: v.allTrails,
  onion: v.onion,
  showJoints: v.showJoints,
  points: v.points,
  showColliders: v.showColliders,
  contacts: v.contacts,
  stretch: v.stretch,
  air: v.air,
  flat: v.flat,
  follow: v.follow,
  thing: v.thing,
  strand: v.strand,
  selectedJoints: v.joints,
  selectedParts: v.parts,
  hoverJoint: v.hoverJoint,
  tint: v.tint,
  larger: v.larger,
  without: v.without,
  ...litOf(v),
  night: v.night,
});

/**
 * The stage with what floats on it: views, ghost, trails, joints, speed. `offers` (in Tune) shows rows a chain could
 * take, and colliders can be taken.
 */
export function StageView({
  offers,
  picture: other,
  children,
}: {
  offers: boolean;
  /** What is shown instead of the simulated shot. */
  picture?: Picture;
  children?: React.ReactNode;
}) {
  const { character, simulation, stage, ends } = useDesk();
  const host = useRef<HTMLDivElement>(null);
  const shot = useAppSelector(selectShot)!;
  const view = useAppSelector((s) => s.view);
  // Drawn again with every picture.
  const picture = usePicture();
  const offered = useMemo(
    () => (offers ? offersFor(character, shot, view.joints, ends).map((o) => o.row) : []),
    [offers, character, shot, view.joints, ends],
  );

  const overlay = useOverlay();

  useEffect(() => {
    const made = new Stage(host.current!);
    made.setCharacter(character);
    stage.current = made;
    // First of all: a press that grabs a chain is nobody else's.
    const shake = new ShakeTool(host.current!, made, store);
    const handles = new HandleTool(host.current!, made, store, sayTrouble);
    const tool = new PickTool(host.current!, made, character, store, offers);
    return () => {
      shake.dispose();
      handles.dispose();
      tool.dispose();
      made.dispose();
      stage.current = null;
    };
  }, [character, stage, offers]);

  const show = useRef(() => {});
  useEffect(() => {
    show.current = () =>
      stage.current?.show({
        ...{ shot, offered, overlay },
        picture: other ?? simulation.newest,
        ...viewed(view),
      });
    show.current();
  });
  useEffect(() => simulation.watch(() => show.current()), [simulation]);

  return (
    <section className="stage" aria-label="Stage">
      <div className="stage-host" ref={host} data-testid="stage" />
      {view.without !== null && view.without < 1 && <SplitLine at={view.without} />}
      <StageTools offers={offers} />
      {!other && picture.rough && <RoughNote picture={picture} />}
      {children}
    </section>
  );
}

/** Says that what is shown is a coarse answer, and how far the whole one is. */
function RoughNote({ picture: { frames, stale } }: { picture: Picture }) {
  const dispatch = useAppDispatch();
  const share = frames && stale ? frames.done / stale.count : 0;
  return (
    <div className="float rough-note" role="status">
      Coarse answer; the whole one follows, {Math.round(100 * share)} %
      <button
        className="plain"
        title="No coarse answers: the stage keeps what it shows until the whole one is there (Show ▾)"
        onClick={() => dispatch(viewSlice.actions.toggled('waitWhole'))}
      >
        wait for it
      </button>
    </div>
  );
}

/** The line between what is shown without and with the simulation, to be dragged. */
function SplitLine({ at }: { at: number }) {
  const dispatch = useAppDispatch();
  const drag = (e: React.PointerEvent<HTMLElement>) => {
    if (!e.currentTarget.hasPointerCapture(e.pointerId)) return;
    const { left, width } = e.currentTarget.parentElement!.getBoundingClientRect();
    const share = Math.min(0.98, Math.max(0.02, (e.clientX - left) / width));
    dispatch(viewSlice.actions.withoutSet(share));
  };
  return (
    <div
      className="split-line"
      role="separator"
      aria-label="Without, and with the simulation"
      aria-orientation="vertical"
      aria-valuenow={Math.round(100 * at)}
      style={{ left: `${100 * at}%` }}
      onPointerDown={(e) => e.currentTarget.setPointerCapture(e.pointerId)}
      onPointerMove={drag}
    >
      <span>without</span>
      <span>with</span>
    </div>
  );
}

/** The take that is overlaid, simulated once, for as long as it is asked for. */
function useOverlay(): DrawnView['overlay'] {
  const { simulation } = useDesk();
  const whole = useAppSelector((s) => s.shot.shot)!;
  const take = useAppSelector((s) =>
    s.view.overlaidTake ? s.shot.shot?.takes[s.view.overlaidTake] : undefined,
  );
  const [overlay, setOverlay] = useState<{ take: Take; drawn: DrawnView['overlay'] } | null>(null);
  const latest = useRef(whole);
  useEffect(() => void (latest.current = whole));
  useEffect(() => {
    if (!take) return;
    let gone = false;
    const shot = asTaken(latest.current, take);
    simulation
      .simulateApart(shot)
      .then((frames) => {
        if (!gone) setOverlay({ take, drawn: { shot, picture: { ...NOTHING, frames } } });
      })
      .catch((e: unknown) => !gone && sayTrouble(e instanceof Error ? e.message : String(e)));
    return () => {
      gone = true;
    };
  }, [take, simulation]);
  return take && overlay?.take === take ? overlay.drawn : null;
}
