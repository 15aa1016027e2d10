import { Select } from '@mantine/core';
import { IconPointer } from '@tabler/icons-react';
import { useEffect, useId, useMemo, useRef } from 'react';
import type { Character } from '@oscillum/core/character';
import type { JointRef } from '@oscillum/core/model';
import { useAppDispatch, useAppSelector } from '../../state/store';
import { viewSlice } from '../../state/view';
import { useDesk } from './desk';
import { Row } from './Rows';

/** Joints shown at once: a search finds the others. */
const SHOWN = 300;

interface Props {
  label: string;
  /** The node of the joint that is chosen. */
  value: number | null;
  /** What no joint is called; left out, there must be one. */
  none?: string;
  says?: string;
  onSet: (joint: JointRef | null) => void;
  /** Colliders that may be chosen instead, and the one that is. */
  colliders?: readonly { readonly id: string; readonly name: string }[];
  collider?: string | null;
  onCollider?: (id: string) => void;
}

/** How far below its root each joint stands. */
function depths({ joints, nodes }: Character): Map<number, number> {
  const out = new Map<number, number>();
  for (const j of joints) out.set(j, (out.get(nodes[j]!.parent) ?? -1) + 1);
  return out;
}

/** A joint (or a collider) chosen from a tree that can be searched, or by a click on the stage. */
export function JointRow({ label, value, none, says, onSet, colliders = [], collider, onCollider }: Props) {
  const { character } = useDesk();
  const deep = useMemo(() => depths(character), [character]);
  const data = [
    ...(none === undefined ? [] : [{ value: '', label: none }]),
    ...(colliders.length === 0
      ? []
      : [
          { group: 'Colliders', items: colliders.map((c) => ({ value: `collider ${c.id}`, label: c.name })) },
        ]),
    {
      group: 'Joints',
      items: Array.from(character.joints, (n) => ({
        value: String(n),
        label: character.nodes[n]!.name || `joint ${n}`,
      })),
    },
  ];
  const take = (chosen: string) => {
    const of = colliders.find((c) => `collider ${c.id}` === chosen);
    if (of) onCollider?.(of.id);
    else onSet(chosen === '' ? null : { node: Number(chosen), name: character.nodes[Number(chosen)]!.name });
  };
  return (
    <Row label={label} {...(says && { says })}>
      <span className="joint-row">
        <Select
          aria-label={label}
          size="xs"
          searchable
          allowDeselect={false}
          limit={SHOWN}
          maxDropdownHeight={300}
          nothingFoundMessage="No joint of that name"
          placeholder={none ?? 'choose a joint'}
          comboboxProps={{ width: 230, position: 'bottom-end' }}
          data={data}
          value={
            collider
              ? `collider ${collider}`
              : value === null
                ? none === undefined
                  ? null
                  : ''
                : String(value)
          }
          onChange={(v) => v !== null && take(String(v))}
          renderOption={({ option }) => (
            <span style={{ paddingLeft: 8 * (deep.get(Number(option.value || -1)) ?? 0) }}>
              {option.label}
            </span>
          )}
        />
        <OnStage label={label} takes={colliders.length > 0} onPicked={take} />
      </span>
    </Row>
  );
}

/** Waits for a click on the stage or in the list of joints. */
function OnStage({
  label,
  takes,
  onPicked,
}: {
  label: string;
  takes: boolean;
  onPicked: (chosen: string) => void;
}) {
  const dispatch = useAppDispatch();
  const asks = useId();
  const pick = useAppSelector((s) => (s.view.pick?.asks === asks ? s.view.pick : null));
  const picked = useRef(onPicked);
  useEffect(() => {
    picked.current = onPicked;
  });
  const got = pick?.got ?? null;
  useEffect(() => {
    if (!got) return;
    dispatch(viewSlice.actions.pickSet(null));
    if ('joint' in got) picked.current(String(got.joint));
    else if (takes) picked.current(`collider ${got.collider}`);
  }, [got, takes, dispatch]);
  return (
    <button
      className="mini"
      aria-label={`${label}: choose on the stage`}
      title={`Click ${takes ? 'a joint or a collider' : 'a joint'} on the stage or in the list of joints (Esc gives up)`}
      aria-pressed={pick !== null}
      onClick={() => dispatch(viewSlice.actions.pickSet(pick ? null : { asks, got: null }))}
    >
      <IconPointer size={14} aria-hidden />
    </button>
  );
}
