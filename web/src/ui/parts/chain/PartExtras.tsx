import { memo } from 'react';
import { inOrder, minds, withMinded, type AnchorPose } from '@oscillum/core/model';
import type { ChainPart } from '@oscillum/core/chain';
import { change, toggleAnchor } from '../../../state/edits';
import { selectShot, useAppDispatch, useAppSelector, type Thunk } from '../../../state/store';
import { viewSlice } from '../../../state/view';
import { NumberBox } from '../../kit/Fields';
import { useDesk } from '../../kit/desk';
import { Linked } from './Linked';
import { JointsRow } from './JointsRow';
import { items, ListText } from '../../kit/ListText';
import { CheckRow, ChoiceRow, jointChoices, NumberRow, Row } from '../../kit/Rows';

/** What a chain has besides its settings: profiles and keys, limits, touches, ties, anchor poses, pulls. */
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
        value={first.planeLock}
        says="Keeps the chain flat: in one plane of the joint it hangs from."
        choices={[
          ['none', 'no: free'],
          ['x', 'y–z, seen from the side'],
          ['y', 'x–z, seen from above'],
          ['z', 'x–y, seen from the front'],
        ]}
        onSet={(v) => edit('Set plane lock', (p) => void (p.planeLock = v))}
      />
      <Touches first={first} others={others} edit={edit} />
      <HeldBy first={first} edit={edit} />
      <Linked parts={parts} run={run} />
      <AnchorRows parts={parts} edit={edit} run={run} />
      {first.pulls.length > 0 && (
        <Row label={`${first.pulls.length} ${first.pulls.length === 1 ? 'pull' : 'pulls'} by hand`}>
          <button className="mini" onClick={() => edit('Let the pulls go', (p) => void (p.pulls = []))}>
            let them go
          </button>
        </Row>
      )}
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
            value={minds(first.touches.colliders, c.id)}
            onSet={(on) =>
              edit('Set what it touches', (p) => {
                p.touches.colliders = withMinded(
                  p.touches.colliders,
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
            value={minds(first.touches.parts, o.id)}
            onSet={(on) =>
              edit('Set what it touches', (p) => {
                p.touches.parts = withMinded(
                  p.touches.parts,
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
  const { character } = useDesk();
  return (
    <>
      <h3>Held by</h3>
      <CheckRow
        label="Pulls its parent"
        value={first.pullsBack}
        onSet={(v) => edit('Set pull back', (p) => void (p.pullsBack = v))}
      />
      <ChoiceRow
        label="Pin the tip to"
        value={tieValue(first)}
        choices={[
          ...jointChoices(character, 'nothing'),
          ...colliders.map((c) => [`collider ${c.id}`, `collider: ${c.name}`] as const),
        ]}
        onSet={(v) =>
          edit(v ? 'Tie the tip' : 'Untie the tip', (p) => {
            const collider = colliders.find((c) => `collider ${c.id}` === v);
            const to = collider
              ? { collider: collider.id }
              : { joint: { node: Number(v), name: character.nodes[Number(v)]?.name ?? '' } };
            p.tie = v === '' ? null : { to, t: [0, 0, 0], breakAt: 1e5 };
          })
        }
      />
      {first.tie && (
        <NumberRow
          label="Slips off at"
          unit="m"
          value={first.tie.breakAt}
          onSet={(v) => edit('Set where it slips off', (p) => void (p.tie && (p.tie.breakAt = v)))}
        />
      )}
    </>
  );
}

/** Frames at which it meets its source. */
function AnchorRows({
  parts,
  edit,
  run,
}: {
  parts: readonly ChainPart[];
  edit: Edit;
  run: (t: Thunk) => void;
}) {
  const first = parts[0]!;
  const dispatch = useAppDispatch();
  const posing = useAppSelector((s) => s.view.thing?.kind === 'pose' && s.view.thing.id === first.id);
  return (
    <>
      <h3>Anchor poses</h3>
      <div className="presses">
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
        <button
          className="mini"
          title="Meets its source exactly on this frame (P); drag the mark in its lane to move it"
          onClick={() =>
            run((dispatch, getState) => {
              dispatch(
                toggleAnchor(
                  parts.map((p) => p.id),
                  Math.round(getState().view.frame),
                ),
              );
            })
          }
        >
          match the source here
        </button>
      </div>
      {parts.length === 1 && <HandPoses part={first} edit={edit} />}
      <ListText
        label="Anchor poses"
        says="Frames at which it meets its source exactly, with frames to ease in and out: 0:0/8, 96:8/8"
        value={first.anchors
          .filter((a) => a.turns === null)
          .map((a) => `${a.frame}:${a.easeIn}/${a.easeOut}`)
          .join(', ')}
        read={(text) => {
          const anchors = items(text).map((t) => {
            const m = /^(-?\d+)(?::([\d.]+)(?:\/([\d.]+))?)?$/.exec(t);
            if (!m) throw new Error('Write a frame, or frame:ease in/ease out.');
            const easeIn = Number(m[2] ?? 8);
            return { frame: Number(m[1]), easeIn, easeOut: Number(m[3] ?? easeIn), hold: 0, turns: null };
          });
          edit('Set anchor poses', (p) => {
            p.anchors = [...p.anchors.filter((a) => a.turns !== null), ...anchors];
          });
        }}
      />
    </>
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

/** What the tip of a chain is tied to, as a choice. */
const tieValue = ({ tie }: ChainPart): string =>
  !tie ? '' : 'joint' in tie.to ? String(tie.to.joint.node) : `collider ${tie.to.collider}`;
