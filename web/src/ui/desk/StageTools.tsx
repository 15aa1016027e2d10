import { Popover } from '@mantine/core';
import { memo } from 'react';
import type { Side } from '../../stage/cameras';
import { selectShot, useAppDispatch, useAppEntries, useAppSelector } from '../../state/store';
import { viewSlice, type Switch } from '../../state/view';
import { useDesk } from '../kit/desk';
import { useOpened } from '../kit/useOpened';
import { speedName } from './commands';

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

/** What stands over the stage: views, what is shown, comparing, shaking, speed. */
export const StageTools = memo(function StageTools({ offers }: { offers: boolean }) {
  const dispatch = useAppDispatch();
  const { stage } = useDesk();
  const moves = useAppSelector((s) => Object.keys(selectShot(s)!.parts).length > 0);
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
        <Shown />
        {moves && <Compared />}
        {offers && moves && <Tried />}
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

/** What is shown or not. */
function Shown() {
  const dispatch = useAppDispatch();
  const shown = useAppEntries((s) => SHOWN.map(([key]) => s.view[key]));
  const is = (key: Switch) => shown[SHOWN.findIndex(([k]) => k === key)];
  const list = useOpened();
  return (
    <>
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
    </>
  );
}

/** The shot without what is simulated: instead of it, or beside it. */
function Compared() {
  const dispatch = useAppDispatch();
  const { stage, character } = useDesk();
  const without = useAppSelector((s) => s.view.without);
  const split = without !== null && without < 1;
  /** Share of the stage's width where the figure stands. */
  const middle = () => {
    const [joint = 0] = character.joints;
    const place = stage.current?.placeOf(joint);
    const box = stage.current?.host.getBoundingClientRect();
    return place && box ? Math.min(0.9, Math.max(0.1, (place.x - box.left) / box.width)) : 0.5;
  };
  return (
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
  );
}

/** All clips side by side, and a hand that shakes. */
function Tried() {
  const dispatch = useAppDispatch();
  const { character } = useDesk();
  const strip = useAppSelector((s) => s.view.strip?.of === 'clips');
  const shaking = useAppSelector((s) => s.view.shaking);
  return (
    <>
      {character.clips.length > 1 && (
        <button
          className="plain"
          title="The same set-up on all clips of the character, side by side"
          aria-pressed={strip}
          onClick={() => dispatch(viewSlice.actions.stripSet(strip ? null : { of: 'clips' }))}
        >
          All clips
        </button>
      )}
      <button
        className="plain"
        title="Grab a chain, hair or a cloth on the stage and shake it (H)"
        aria-pressed={shaking}
        onClick={() => dispatch(viewSlice.actions.shakingSet(!shaking))}
      >
        Shake
      </button>
    </>
  );
}
