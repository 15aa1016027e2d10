import { IconChevronDown, IconChevronRight } from '@tabler/icons-react';
import { useState, type ReactNode } from 'react';
import { SETTING_GROUPS, type PartBase, type SettingGroup, type SettingTable } from '@oscillum/core/model';
import type { Thunk } from '../../state/store';
import type { JointPlace } from './ProfileEditor';
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

/** Groups that were opened or folded by hand, remembered in this browser. */
const KEY = 'oscillum.groups';
const remembered = (): Record<string, boolean> => {
  try {
    const saved: unknown = JSON.parse(localStorage.getItem(KEY) ?? '{}');
    return saved !== null && typeof saved === 'object' ? (saved as Record<string, boolean>) : {};
  } catch {
    return {};
  }
};

/** A group of settings; one that is not in use stays folded until it is opened. */
function Group({ name, used, children }: { name: string; used: boolean; children: ReactNode }) {
  const [wanted, setWanted] = useState<boolean | null>(() => remembered()[name] ?? null);
  const open = wanted ?? used;
  const toggle = () => {
    setWanted(!open);
    localStorage.setItem(KEY, JSON.stringify({ ...remembered(), [name]: !open }));
  };
  return (
    <div>
      <h3>
        <button className="plain fold" aria-expanded={open} onClick={toggle}>
          {open ? <IconChevronDown size={13} /> : <IconChevronRight size={13} />}
          {name}
          {!open && !used && <span className="muted small"> not in use</span>}
        </button>
      </h3>
      {open && children}
    </div>
  );
}

interface SettingGroupsProps {
  table: SettingTable;
  /** What a new part of this size has. */
  initial: Readonly<Record<string, number>>;
  parts: readonly PartBase[];
  /** Length of the longest of them, m; 0 where lengths do not matter. */
  length: number;
  sketch?: (name: string) => ReactNode;
  /** Settings that stand above the groups, and what stands among them. */
  first?: readonly string[];
  firstOf?: ReactNode;
  /** Groups that are in use whatever their settings are. */
  uses?: readonly SettingGroup[];
  /** What a group has beside its settings. */
  extras?: Partial<Record<SettingGroup, ReactNode>>;
  /** Why a setting has no effect, or null. */
  inert?: (name: string) => string | null;
  /** The joints that settings are shared out over. */
  joints?: readonly JointPlace[];
  run: (t: Thunk) => void;
}

const NO_JOINTS: readonly JointPlace[] = [];

/** All settings of some parts of one kind: what is reached for first, then group by group, in working order. */
export function SettingGroups(props: SettingGroupsProps) {
  const { table, initial, parts, length, sketch, first = [], uses = [] } = props;
  const { extras, inert, joints = NO_JOINTS, run } = props;
  const [open, setOpen] = useState<string | null>(null);
  const [apart, setApart] = useState(true);
  const [wanted, setWanted] = useState('');
  const row = (k: string) => (
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
      inert={inert?.(k) ?? null}
      joints={joints}
      run={run}
    />
  );
  const names = Object.keys(table);
  const text = wanted.trim().toLowerCase();
  const found = names.filter((k) => {
    const { label, says, group } = table[k]!;
    return `${label} ${group} ${says}`.toLowerCase().includes(text);
  });
  return (
    <>
      {parts.length > 1 && <Together apart={apart} setApart={setApart} />}
      {first.length > 0 && (
        <div>
          {first.map(row)}
          {props.firstOf}
        </div>
      )}
      <input
        className="find"
        type="search"
        aria-label="Find a setting"
        placeholder="Find a setting"
        value={wanted}
        onChange={(e) => setWanted(e.target.value)}
        onKeyDown={(e) => e.stopPropagation()}
      />
      {text ? (
        <div>
          {found.map(row)}
          {found.length === 0 && <p className="muted small">No setting is called that.</p>}
        </div>
      ) : (
        SETTING_GROUPS.filter((g) => names.some((k) => table[k]!.group === g && !first.includes(k))).map(
          (group) => (
            <Group key={group} name={group} used={uses.includes(group) || inUse(table, group, parts)}>
              {names.filter((k) => table[k]!.group === group && !first.includes(k)).map(row)}
              {extras?.[group]}
            </Group>
          ),
        )
      )}
    </>
  );
}

/** How several parts are set at once. */
function Together({ apart, setApart }: { apart: boolean; setApart: (apart: boolean) => void }) {
  return (
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
  );
}
