import { memo } from 'react';
import { ColliderId, inOrder, minds, withMinded, type AnchorPose } from '@oscillum/core/model';
import type { ChainPart } from '@oscillum/core/chain';
import { change } from '../../../state/edits';
import { selectShot, useAppDispatch, useAppSelector, type Thunk } from '../../../state/store';
import { viewSlice } from '../../../state/view';
import { NumberBox } from '../../kit/Fields';
import { Linked } from './Linked';
import { JointsRow } from './JointsRow';
import { AnchorRows } from '../AnchorRows';
import { JointRow } from '../../kit/JointRow';
import { PullsRow } from '../PullsRow';
import { CheckRow, ChoiceRow, NumberRow } from '../../kit/Rows';

/** What a chain has besides its settings: profiles and keys, limits, collidesWith, ties, anchor poses, pulls. */
interface PartExtrasProps {
  parts: readonly ChainPart[];
  /** The parts that are not selected. */
  others: readonly ChainPart[];
  run: (t: Thunk) => void;
}

/** Nothing here changes while a slider moves: all but the settings is what it was. */
const sameExtras = (a: PartExtrasProps, b: PartExtrasProps): boolean =>
  a.parts.length === b.parts.length &&
  a.parts.every((p, i) => {
    const q = b.parts[i]!;
    return (Object.keys(p) as (keyof ChainPart)[]).every((k) => k === 'settings' || p[k] === q[k]);
  }) &&
  a.others.length === b.others.length &&
  a.others.every((p, i) => p.id === b.others[i]!.id && p.name === b.others[i]!.name);

export const PartExtras = memo(function PartExtras({ parts, others, run }: PartExtrasProps) {
  const first = parts[0]!;
  const edit: Edit = (name, recipe) =>
    run(
      change(name, (d) => {
        for (const { id } of parts) if (d.parts[id]) recipe(d.parts[id] as ChainPart);
      }),
    );
  return (
    <>
      {parts.length === 1 && <JointsRow part={first} run={run} />}
      <ChoiceRow
        label="Stays in plane"
        value={first.staysInPlane}
        says="Keeps the chain flat: in one plane of the joint it hangs from."
        choices={[
          ['none', 'no: free'],
          ['x', 'y–z, seen from the side'],
          ['y', 'x–z, seen from above'],
          ['z', 'x–y, seen from the front'],
        ]}
        onSet={(v) => edit('Set plane lock', (p) => void (p.staysInPlane = v))}
      />
      <Touches first={first} others={others} edit={edit} />
      <HeldBy first={first} edit={edit} />
      <Linked parts={parts} run={run} />
      <Anchors parts={parts} edit={edit} run={run} />
      <PullsRow parts={parts} run={run} />
    </>
  );
}, sameExtras);

type Edit = (name: string, recipe: (p: ChainPart) => void) => void;

/** The colliders and other chains it touches. */
function Touches({ first, others, edit }: { first: ChainPart; others: readonly ChainPart[]; edit: Edit }) {
  const colliders = inOrder(useAppSelector((s) => selectShot(s)!.colliders));
  return (
    <>
      <h3>Collides with</h3>
      {colliders.length + others.length === 0 && (
        <p className="muted small">There is nothing to touch: add colliders with no chain selected.</p>
      )}
      <div className="minds">
        {colliders.map((c) => (
          <CheckRow
            key={c.id}
            label={c.name}
            value={minds(first.collidesWith.colliders, c.id)}
            onSet={(on) =>
              edit('Set what it touches', (p) => {
                p.collidesWith.colliders = withMinded(
                  p.collidesWith.colliders,
                  colliders.map((x) => x.id),
                  c.id,
                  on,
                );
              })
            }
          />
        ))}
        {others.map((o) => (
          <CheckRow
            key={o.id}
            label={o.name}
            value={minds(first.collidesWith.parts, o.id)}
            onSet={(on) =>
              edit('Set what it touches', (p) => {
                p.collidesWith.parts = withMinded(
                  p.collidesWith.parts,
                  others.map((x) => x.id),
                  o.id,
                  on,
                );
              })
            }
          />
        ))}
      </div>
    </>
  );
}

/** What pulls on it beside what it touches. */
function HeldBy({ first, edit }: { first: ChainPart; edit: Edit }) {
  const colliders = inOrder(useAppSelector((s) => selectShot(s)!.colliders));
  const to = first.tipPin?.to;
  const pin = (to: NonNullable<ChainPart['tipPin']>['to']) =>
    edit('Pin the tip', (p) => void (p.tipPin = { to, t: [0, 0, 0], breakAt: 1e5 }));
  return (
    <>
      <h3>Held by</h3>
      <CheckRow
        label="Pulls its parent"
        value={first.pullsParent}
        onSet={(v) => edit('Set pull back', (p) => void (p.pullsParent = v))}
      />
      <JointRow
        label="Pin the tip to"
        none="nothing"
        value={to && 'joint' in to ? to.joint.node : null}
        onSet={(joint) => (joint ? pin({ joint }) : edit('Let the tip go', (p) => void (p.tipPin = null)))}
        colliders={colliders}
        collider={to && 'collider' in to ? to.collider : null}
        onCollider={(id) => pin({ collider: ColliderId.parse(id) })}
      />
      {first.tipPin && (
        <NumberRow
          label="Slips off at"
          unit="m"
          value={first.tipPin.breakAt}
          onSet={(v) => edit('Set where it slips off', (p) => void (p.tipPin && (p.tipPin.breakAt = v)))}
        />
      )}
    </>
  );
}

/** Frames at which it meets its source, or a pose by hand. */
function Anchors({ parts, edit, run }: { parts: readonly ChainPart[]; edit: Edit; run: (t: Thunk) => void }) {
  const first = parts[0]!;
  const dispatch = useAppDispatch();
  const posing = useAppSelector((s) => s.view.thing?.kind === 'pose' && s.view.thing.id === first.id);
  return (
    <AnchorRows
      parts={parts}
      run={run}
      presses={
        <button
          className="mini"
          aria-pressed={posing}
          title="Rings at the ends of its links: drag them, and the chain meets that pose on this frame"
          onClick={() =>
            dispatch(viewSlice.actions.thingChosen(posing ? null : { kind: 'pose', id: first.id }))
          }
        >
          pose by hand
        </button>
      }
    >
      {parts.length === 1 && <HandPoses part={first} edit={edit} />}
    </AnchorRows>
  );
}

/** The poses by hand of a chain: how long each is held, and how it is come to and left. */
function HandPoses({ part, edit }: { part: ChainPart; edit: Edit }) {
  const poses = part.anchors.filter((a) => a.turns !== null);
  const set = (frame: number, change: Partial<AnchorPose>) =>
    edit('Set a pose by hand', (p) => {
      p.anchors = p.anchors.map((a) => (a.frame === frame && a.turns ? { ...a, ...change } : a));
    });
  return poses.map((a) => (
    <div
      key={a.frame}
      className="presses value-keys"
      role="group"
      aria-label={`Pose by hand on frame ${a.frame}`}
    >
      <b className="small">frame {a.frame}</b>
      {(
        [
          ['hold', 'held', 'Frames it is held'],
          ['easeIn', 'in', 'Frames in which it is come to'],
          ['easeOut', 'out', 'Frames in which it is left'],
        ] as const
      ).map(([key, name, says]) => (
        <label key={key} className="muted small presses" title={says}>
          {name}
          <NumberBox
            label={says}
            whole
            value={a[key]}
            onSet={(v) => set(a.frame, { [key]: Math.max(0, v) })}
          />
        </label>
      ))}
      <button
        className="mini"
        onClick={() =>
          edit(
            'Remove a pose by hand',
            (p) => void (p.anchors = p.anchors.filter((x) => x.frame !== a.frame)),
          )
        }
      >
        remove
      </button>
    </div>
  ));
}
