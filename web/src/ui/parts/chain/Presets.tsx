import { Menu } from '@mantine/core';
import { memo, useState } from 'react';
import { useStore } from 'react-redux';
import { SETTING_GROUPS, type SettingGroup } from '@oscillum/core/model';
import {
  asChain,
  initialChainSettings,
  Preset,
  PRESETS,
  suggestPreset,
  type ChainPart,
} from '@oscillum/core/chain';
import { mirrorParts, putPreset } from '../../../state/parts/chain/carry';
import { shotSlice } from '../../../state/shot';
import { selectShot, useAppDispatch, useAppSelector, type State, type Thunk } from '../../../state/store';
import { useDesk } from '../../kit/desk';
import { sayTrouble } from '../../kit/say';
import { useOpened } from '../../kit/useOpened';
import { saveFile } from '../../kit/saveFile';

const OWN = 'oscillum.presets';
const COPIED = 'oscillum.copied';

/** Reads a list of presets kept in this browser; what cannot be read is left out. */
function kept(key: string): Preset[] {
  try {
    const list: unknown = JSON.parse(localStorage.getItem(key) ?? '[]');
    return Array.isArray(list) ? list.flatMap((p) => Preset.safeParse(p).data ?? []) : [];
  } catch {
    return [];
  }
}

const presetOf = (part: ChainPart, name: string): Preset =>
  Preset.parse({ format: 'oscillum-preset', name, settings: part.settings, profiles: part.profiles });

interface PresetsProps {
  /** The first of them, by its name, is whose settings are taken along. */
  parts: readonly ChainPart[];
  run: (t: Thunk) => void;
}

/** What a chain feels like before anyone has touched it. */
const NEW = initialChainSettings();
const fresh = (part: ChainPart): boolean =>
  (['hold', 'bend', 'damping', 'overlap', 'travel', 'turn'] as const).every(
    (k) => part.settings[k] === NEW[k],
  );

/** Settings are read when they are asked for. */
const samePresets = (a: PresetsProps, b: PresetsProps): boolean =>
  a.parts.length === b.parts.length &&
  a.parts.every((p, i) => {
    const q = b.parts[i]!;
    return p.id === q.id && p.name === q.name && fresh(p) === fresh(q);
  });

/**
 * Presets for the selected chains, and carrying settings from one chain to another, to the other side, to another shot.
 */
export const Presets = memo(function Presets({ parts, run }: PresetsProps) {
  const { character } = useDesk();
  const store = useStore<State>();
  const dispatch = useAppDispatch();
  const [copied, setCopied] = useState(() => kept(COPIED)[0]);
  const [groups, setGroups] = useState<readonly SettingGroup[]>(SETTING_GROUPS);
  const ids = parts.map((p) => p.id);
  const first = parts[0]!;
  const suggested = fresh(first) ? suggestPreset(first.joints) : null;
  const ofFirst = () => presetOf(asChain(selectShot(store.getState())!.parts[first.id]), first.name);
  const mirror = () => {
    try {
      const missed = dispatch(mirrorParts(ids, character.nodes));
      if (missed.length)
        sayTrouble(
          `No joints of the other side's names for ${missed.join(', ')}: left and right must be in the names.`,
        );
    } catch (e) {
      sayTrouble(e instanceof Error ? e.message : String(e));
    }
  };
  return (
    <div className="presses" role="group" aria-label="Carrying settings">
      <PresetMenu
        id={first.id}
        name={first.name}
        groups={groups}
        setGroups={setGroups}
        settings={ofFirst}
        onPut={(p) => run(putPreset(ids, p, groups))}
        onShow={(p) =>
          p ? run(putPreset(ids, p, groups, false)) : dispatch(shotSlice.actions.previewed(null))
        }
      />
      {suggested && (
        <button
          className="mini"
          title={`${suggested.use} Its joints are named like one.`}
          onClick={() => run(putPreset(ids, suggested, SETTING_GROUPS))}
        >
          try {suggested.name}
        </button>
      )}
      <button
        className="mini"
        title="Takes these settings along, also to another shot"
        onClick={() => {
          const p = ofFirst();
          localStorage.setItem(COPIED, JSON.stringify([p]));
          setCopied(p);
        }}
      >
        copy
      </button>
      {copied && (
        <button
          className="mini"
          title={`Gives these chains the settings of ${copied.name}`}
          onClick={() => run(putPreset(ids, copied, groups))}
        >
          paste {copied.name}
        </button>
      )}
      <button
        className="mini"
        title="Gives the other side of the body the same chains and settings"
        onClick={mirror}
      >
        mirror
      </button>
    </div>
  );
}, samePresets);

interface MenuProps {
  /** The chain whose settings are saved, and on which presets are tried. */
  id: string;
  name: string;
  /** Which groups of settings a preset sets. */
  groups: readonly SettingGroup[];
  setGroups: (groups: readonly SettingGroup[]) => void;
  settings: () => Preset;
  onPut: (p: Preset) => void;
  /** Shows one while the pointer is on it; null shows none. */
  onShow: (p: Preset | null) => void;
}

/** All presets, each with its answer to a quick turn on this chain. */
function PresetMenu({ id, name, groups, setGroups, settings, onPut, onShow }: MenuProps) {
  const { simulation } = useDesk();
  const store = useStore<State>();
  const fps = useAppSelector((s) => selectShot(s)!.fps);
  const menu = useOpened();
  const [own, setOwn] = useState(() => kept(OWN));
  const [curves, setCurves] = useState<readonly Float64Array[]>([]);
  const listed = [...PRESETS, ...own];
  const keep = (list: Preset[]) => {
    localStorage.setItem(OWN, JSON.stringify(list));
    setOwn(list);
  };
  const opened = () =>
    void simulation
      .tryPresets(selectShot(store.getState())!, id, listed)
      .then(setCurves)
      .catch(() => setCurves([]));
  return (
    <Menu width={340} position="bottom-start" onOpen={opened} onClose={() => onShow(null)} {...menu}>
      <Menu.Target>
        <button className="mini">presets ▾</button>
      </Menu.Target>
      <Menu.Dropdown mah={460} style={{ overflow: 'auto' }}>
        <div className="only">
          {SETTING_GROUPS.map((g) => (
            <button
              key={g}
              className="mini"
              aria-pressed={groups.includes(g)}
              title={`Whether a preset sets ${g}`}
              onClick={() => setGroups(groups.includes(g) ? groups.filter((x) => x !== g) : [...groups, g])}
            >
              {g}
            </button>
          ))}
        </div>
        {listed.map((p, i) => (
          <Menu.Item
            key={p.name}
            leftSection={<Answer curve={curves[i]} fps={fps} />}
            onPointerEnter={() => onShow(p)}
            onPointerLeave={() => onShow(null)}
            onClick={() => onPut(p)}
          >
            <b>{p.name}</b>
            <span className="muted small" style={{ display: 'block' }}>
              {p.use || 'Your own'}
            </span>
          </Menu.Item>
        ))}
        <Menu.Divider />
        <OwnPresets own={own} keep={keep} name={name} settings={settings} />
      </Menu.Dropdown>
    </Menu>
  );
}

/** The presets of this browser: saved, written to a file, read from one, forgotten. */
function OwnPresets({
  own,
  keep,
  name,
  settings,
}: {
  own: readonly Preset[];
  keep: (list: Preset[]) => void;
  name: string;
  settings: () => Preset;
}) {
  const read = async (file: File) => {
    try {
      const found = Preset.parse(JSON.parse(await file.text()));
      keep([...own.filter((p) => p.name !== found.name), found]);
    } catch {
      sayTrouble(`${file.name} is not an Oscillum preset. Choose a .json file saved from this menu.`);
    }
  };
  return (
    <>
      <Menu.Item onClick={() => keep([...own.filter((p) => p.name !== name), settings()])}>
        Save these settings as “{name}”
      </Menu.Item>
      <Menu.Item
        onClick={() =>
          saveFile(
            new TextEncoder().encode(JSON.stringify(settings(), null, 1)),
            `${name}.preset.json`,
            'application/json',
          )
        }
      >
        Save them to a file
      </Menu.Item>
      <Menu.Item component="label">
        Read a preset from a file
        <input
          type="file"
          accept=".json"
          aria-label="Read a preset from a file"
          hidden
          onChange={(e) => e.target.files?.[0] && void read(e.target.files[0])}
        />
      </Menu.Item>
      {own.map((p) => (
        <Menu.Item key={p.name} color="red" onClick={() => keep(own.filter((x) => x !== p))}>
          Forget “{p.name}”
        </Menu.Item>
      ))}
    </>
  );
}

/** Seconds of an answer that are drawn. */
const SHOWN = 1.5;

/** How the first selected chain would answer a quick turn with a preset. */
function Answer({ curve, fps }: { curve: Float64Array | undefined; fps: number }) {
  const count = Math.min(curve?.length ?? 0, Math.ceil(SHOWN * fps));
  const points = Array.from(
    { length: count },
    (_, k) =>
      `${((k / (count - 1)) * 58 + 1).toFixed(1)} ${(26 - 15 * Math.min(1.6, curve![k]!)).toFixed(1)}`,
  );
  return (
    <svg className="answer" viewBox="0 0 60 28" width={60} height={28} aria-hidden>
      <path className="pose" d="M1 11H59" />
      {count > 1 && <path d={`M${points.join('L')}`} />}
    </svg>
  );
}
