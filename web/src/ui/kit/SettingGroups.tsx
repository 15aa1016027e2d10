import { useState, type ReactNode } from 'react';
import { SETTING_GROUPS, type PartBase, type SettingGroup, type SettingTable } from '@oscillum/core/model';
import type { Thunk } from '../../state/store';
import { SettingRow } from './SettingRow';

/** Groups that every part is tuned by or that always act on it: they stand open. */
const ALWAYS: readonly SettingGroup[] = ['Follow', 'Swing', 'Weight and air'];

/** Whether a part has anything in a group that a new one does not have. */
const inUse = (table: SettingTable, group: SettingGroup, parts: readonly PartBase[]): boolean =>
  ALWAYS.includes(group) ||
  Object.entries(table).some(
    ([k, info]) =>
      info.group === group &&
      parts.some((p) => p.settings[k] !== info.initial || p.keys[k]?.length || profilesOf(p)[k]?.length),
  );

const profilesOf = (part: PartBase) =>
  (part as { profiles?: Record<string, readonly unknown[] | undefined> }).profiles ?? {};

/** A group of settings; one that is not in use stays folded until it is opened. */
function Group({ name, used, children }: { name: string; used: boolean; children: ReactNode }) {
  const [wanted, setWanted] = useState<boolean | null>(null);
  const open = wanted ?? used;
  return (
    <div>
      <h3>
        <button className="plain fold" aria-expanded={open} onClick={() => setWanted(!open)}>
          {name}
          {!open && <span className="muted small"> not in use</span>}
        </button>
      </h3>
      {open && children}
    </div>
  );
}

/** All settings of some parts of one kind, group by group, in working order. */
export function SettingGroups({
  table,
  initial,
  parts,
  length,
  sketch,
  run,
}: {
  table: SettingTable;
  /** What a new part of this size has. */
  initial: Readonly<Record<string, number>>;
  parts: readonly PartBase[];
  /** Length of the longest of them, m; 0 where lengths do not matter. */
  length: number;
  sketch?: (name: string) => ReactNode;
  run: (t: Thunk) => void;
}) {
  const [open, setOpen] = useState<string | null>(null);
  const [apart, setApart] = useState(true);
  return (
    <>
      {parts.length > 1 && (
        <div className="presses" role="group" aria-label="Several at once">
          {(
            [
              [true, 'keep differences', 'All move by as much; what sets them apart stays.'],
              [false, 'make equal', 'All get the same value.'],
            ] as const
          ).map(([value, name, says]) => (
            <button
              key={name}
              className="mini"
              aria-pressed={apart === value}
              title={says}
              onClick={() => setApart(value)}
            >
              {name}
            </button>
          ))}
        </div>
      )}
      {SETTING_GROUPS.filter((g) => Object.values(table).some((s) => s.group === g)).map((group) => (
        <Group key={group} name={group} used={inUse(table, group, parts)}>
          {Object.keys(table)
            .filter((k) => table[k]!.group === group)
            .map((k) => (
              <SettingRow
                key={k}
                name={k}
                info={table[k]!}
                initial={initial[k]!}
                parts={parts}
                longest={length}
                apart={apart}
                open={open === k}
                onOpen={setOpen}
                sketch={sketch?.(k)}
                run={run}
              />
            ))}
        </Group>
      ))}
    </>
  );
}
