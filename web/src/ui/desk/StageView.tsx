import { Popover } from '@mantine/core';
import { memo, useEffect, useMemo, useRef, useState } from 'react';
import { asTaken, type Take } from '@oscillum/core/shot';
import { NOTHING, type Picture } from '../../sim/picture';
import { Stage } from '../../stage/stage';
import type { Side } from '../../stage/cameras';
import { offersFor } from '../../state/rows';
import { selectShot, store, useAppDispatch, useAppEntries, useAppSelector } from '../../state/store';
import { viewSlice, type Switch, type ViewSlice } from '../../state/view';
import type { StageView as DrawnView } from '../../stage/view';
import { HandleTool } from '../../tools/handles';
import { PickTool } from '../../tools/pick';
import { ShakeTool } from '../../tools/shake';
import { useDesk, usePicture } from '../kit/desk';
import { speedName } from './commands';
import { sayTrouble } from '../kit/say';
import { useOpened } from '../kit/useOpened';

const SIDES: [Side, string][] = [
  ['side', 'Side'],
  ['front', 'Front'],
  ['three-quarter', 'Three-quarter'],
  ['top', 'Above'],
];

const QUICK = [
  ['ghost', 'Ghost', 'The source pose of what moves, dashed (G)'],
  ['trails', 'Trails', 'Where each tip has been: one dot a frame (T)'],
  ['showJoints', 'Joints', 'Joints and chains (J)'],
] as const;

/** Everything on the stage that can be shown or not, and what it is. */
const SHOWN = [
  ['ghost', 'Ghost', 'the source pose, dashed'],
  ['trails', 'Tip trails', 'one dot a frame'],
  ['allTrails', 'Trails of every joint', 'of the selected chains'],
  ['onion', 'Nearby frames', 'chains before and after'],
  ['showJoints', 'Joints', 'and chains'],
  ['points', 'Simulated points', 'tips too'],
  ['showColliders', 'Colliders', 'outlines'],
  ['contacts', 'Contacts', 'where a chain presses'],
  ['stretch', 'Stretch', 'longer red, shorter blue'],
  ['air', 'Air', 'wind and forces as streaks'],
  ['flat', 'Without perspective', 'parallels stay parallel'],
  ['follow', 'Follow the figure', 'the camera goes along'],
  ['waitWhole', 'Whole answers only', 'no coarse cloth first'],
] as const satisfies readonly (readonly [Switch, string, string])[];

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
  without: v.without,
  litMesh: v.hoverMesh ?? (v.list === 'meshes' ? v.mesh : null),
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

/** What stands over the stage: views, what is shown, shaking, speed. */
const StageTools = memo(function StageTools({ offers }: { offers: boolean }) {
  const dispatch = useAppDispatch();
  const { stage, character } = useDesk();
  const chains = useAppSelector((s) => Object.keys(selectShot(s)!.parts).length > 0);
  const shown = useAppEntries((s) => SHOWN.map(([key]) => s.view[key]));
  const is = (key: Switch) => shown[SHOWN.findIndex(([k]) => k === key)];
  const list = useOpened();
  const shaking = useAppSelector((s) => s.view.shaking);
  const without = useAppSelector((s) => s.view.without);
  const split = without !== null && without < 1;
  /** Share of the stage's width where the figure stands. */
  const middle = () => {
    const [joint = 0] = character.joints;
    const place = stage.current?.placeOf(joint);
    const box = document.querySelector('.stage-host')?.getBoundingClientRect();
    return place && box ? Math.min(0.9, Math.max(0.1, (place.x - box.left) / box.width)) : 0.5;
  };
  const speed = useAppSelector((s) => s.view.speed);
  return (
    <div className="stage-top">
      <div className="float">
        {SIDES.map(([side, name]) => (
          <button key={side} className="plain" onClick={() => stage.current?.frame(side)}>
            {name}
          </button>
        ))}
        <span style={{ width: 8 }} />
        {QUICK.map(([key, name, title]) => (
          <button
            key={key}
            className="plain"
            title={title}
            aria-pressed={is(key)}
            onClick={() => dispatch(viewSlice.actions.toggled(key))}
          >
            {name}
          </button>
        ))}
        <Popover position="bottom-start" withinPortal trapFocus returnFocus {...list}>
          <Popover.Target>
            <button
              className="plain"
              title="All that can be shown or not"
              onClick={() => list.onChange(!list.opened)}
            >
              Show ▾
            </button>
          </Popover.Target>
          <Popover.Dropdown className="shown" aria-label="What is shown">
            {SHOWN.map(([key, name, says]) => (
              <label key={key}>
                <input
                  type="checkbox"
                  checked={is(key)}
                  onChange={() => dispatch(viewSlice.actions.toggled(key))}
                />
                {name} <span className="muted small">{says}</span>
              </label>
            ))}
          </Popover.Dropdown>
        </Popover>
        {chains && (
          <>
            <button
              className="plain"
              title="The shot without what is simulated, or with it (W)"
              aria-pressed={without === 1}
              onClick={() => dispatch(viewSlice.actions.withoutSet(without === 1 ? null : 1))}
            >
              Without
            </button>
            <button
              className="plain"
              title="Without on the left, with on the right: drag the line between"
              aria-pressed={split}
              onClick={() => dispatch(viewSlice.actions.withoutSet(split ? null : middle()))}
            >
              Split
            </button>
          </>
        )}
        {offers && chains && (
          <button
            className="plain"
            title="Grab a chain on the stage and shake it (H)"
            aria-pressed={shaking}
            onClick={() => dispatch(viewSlice.actions.shakingSet(!shaking))}
          >
            Shake
          </button>
        )}
      </div>
      <div className="float" role="group" aria-label="Speed">
        {[0.25, 0.5, 1, 2].map((s) => (
          <button
            key={s}
            className="plain"
            title={`Play at ${speedName(s)}`}
            aria-pressed={speed === s}
            onClick={() => dispatch(viewSlice.actions.speedSet(s))}
          >
            {s === 0.25 ? '¼' : s === 0.5 ? '½' : `${s}×`}
          </button>
        ))}
      </div>
    </div>
  );
});

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
