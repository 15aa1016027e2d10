import { useEffect, useMemo, useRef } from 'react';
import { Stage, type Side } from '../../stage/stage';
import { offersFor } from '../../state/rows';
import { selectShot, store, useAppDispatch, useAppSelector } from '../../state/store';
import { viewSlice } from '../../state/view';
import { PickTool } from '../../tools/pick';
import { ShakeTool } from '../../tools/shake';
import { useDesk, usePicture } from './desk';
import { speedName } from './commands';

const SIDES: [Side, string][] = [
  ['side', 'Side'],
  ['front', 'Front'],
  ['three-quarter', 'Three-quarter'],
  ['top', 'Above'],
];

/** The stage with what floats on it: views, ghost, trails, joints, speed. `offers` shows rows a chain could take. */
export function StageView({ offers, children }: { offers: boolean; children?: React.ReactNode }) {
  const dispatch = useAppDispatch();
  const { character, stage, ends } = useDesk();
  const host = useRef<HTMLDivElement>(null);
  const shot = useAppSelector(selectShot)!;
  const view = useAppSelector((s) => s.view);
  const picture = usePicture();
  const offered = useMemo(
    () => (offers ? offersFor(character, shot, view.joints, ends).map((o) => o.row) : []),
    [offers, character, shot, view.joints, ends],
  );

  useEffect(() => {
    const made = new Stage(host.current!);
    made.setCharacter(character);
    stage.current = made;
    // First of all: a press that grabs a chain is nobody else's.
    const shake = new ShakeTool(host.current!, made, store);
    const tool = new PickTool(host.current!, made, store);
    return () => {
      shake.dispose();
      tool.dispose();
      made.dispose();
      stage.current = null;
    };
  }, [character, stage]);

  useEffect(() => {
    stage.current?.show({
      shot,
      picture,
      frame: view.frame,
      ghost: view.ghost,
      trails: view.trails,
      showJoints: view.showJoints,
      air: view.air,
      selectedJoints: view.joints,
      selectedParts: view.parts,
      hoverJoint: view.hoverJoint,
      offered,
    });
  });

  const toggles = [
    ['ghost', 'Ghost', 'The source pose of what moves, dashed (G)'],
    ['trails', 'Trails', 'Where each tip has been: one dot a frame (T)'],
    ['showJoints', 'Joints', 'Joints and chains (J)'],
    ['air', 'Air', 'Wind and other forces, as streaks (A)'],
  ] as const;
  return (
    <section className="stage" aria-label="Stage">
      <div className="stage-host" ref={host} data-testid="stage" />
      <div className="float" style={{ left: 14, top: 12 }}>
        {SIDES.map(([side, name]) => (
          <button key={side} className="plain" onClick={() => stage.current?.frame(side)}>
            {name}
          </button>
        ))}
        <span style={{ width: 8 }} />
        {toggles
          .filter(([key]) => key !== 'air' || Object.keys(shot.forces).length > 0)
          .map(([key, name, title]) => (
            <button
              key={key}
              className="plain"
              title={title}
              aria-pressed={view[key]}
              onClick={() => dispatch(viewSlice.actions.toggled(key))}
            >
              {name}
            </button>
          ))}
        {offers && Object.keys(shot.parts).length > 0 && (
          <button
            className="plain"
            title="Grab a chain on the stage and shake it (H)"
            aria-pressed={view.shaking}
            onClick={() => dispatch(viewSlice.actions.shakingSet(!view.shaking))}
          >
            Shake
          </button>
        )}
      </div>
      <div className="float" style={{ right: 14, top: 12 }} role="group" aria-label="Speed">
        {[0.25, 0.5, 1, 2].map((s) => (
          <button
            key={s}
            className="plain"
            title={`Play at ${speedName(s)}`}
            aria-pressed={view.speed === s}
            onClick={() => dispatch(viewSlice.actions.speedSet(s))}
          >
            {s === 0.25 ? '¼' : s === 0.5 ? '½' : `${s}×`}
          </button>
        ))}
      </div>
      {children}
    </section>
  );
}
