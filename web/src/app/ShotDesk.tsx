import { useHotkeys, useDisclosure } from '@mantine/hooks';
import { Spotlight, type SpotlightActionData } from '@mantine/spotlight';
import { memo, useCallback, useEffect, useMemo, useRef, useState } from 'react';
import { useStore } from 'react-redux';
import { Link, useNavigate, useParams, useSearchParams } from 'react-router';
import type { Character } from '@oscillum/core/character';
import { OscillumError } from '@oscillum/core/model';
import { asTaken, partsInOrder, type Shot } from '@oscillum/core/shot';
import { call, CallError } from '../api/http';
import { WorkError } from '../sim/asks';
import { Simulation } from '../sim/simulation';
import type { Stage } from '../stage/stage';
import { lastDrawn } from '../stage/view';
import { shotSlice } from '../state/shot';
import { selectShot, useAppDispatch, useAppEntries, useAppSelector, type State } from '../state/store';
import { openShot } from '../state/sync';
import { viewSlice } from '../state/view';
import { HandOff } from '../ui/rooms/handoff/HandOff';
import { Prepare } from '../ui/rooms/prepare/Prepare';
import { Refine } from '../ui/rooms/refine/Refine';
import { Tune } from '../ui/rooms/tune/Tune';
import { COMMANDS, CURVE_KEYS, keyNames, ROOMS, type CommandContext } from '../ui/desk/commands';
import { DeskContext, useDesk, type DeskTools } from '../ui/kit/desk';
import { Header } from '../ui/desk/Header';
import { Lost } from '../ui/desk/Lost';
import { Sheet } from '../ui/kit/Sheet';
import { usePlayer } from '../ui/desk/usePlayer';

type Loading =
  | { at: 'loading'; what: string }
  | { at: 'open'; character: Character; simulation: Simulation }
  | { at: 'failed'; sentence: string; remedy: string };

/** Frame and selection as an address says them. */
function lookOf(search: URLSearchParams): { frame: number; parts: string[]; joints: number[] } {
  const list = (key: string) => (search.get(key) ?? '').split(',').filter(Boolean);
  return {
    frame: Number(search.get('frame') ?? -Infinity),
    parts: list('parts'),
    joints: list('joints').map(Number),
  };
}

/** One open shot: loads it and its character, then shows the room of the address. */
export function ShotDesk() {
  const { id = '', room = '' } = useParams();
  const loading = useShot(id);
  if (loading.at === 'open')
    return <Desk key={id} room={room} character={loading.character} simulation={loading.simulation} />;
  return (
    <div className="waiting">
      {loading.at === 'loading' ? (
        <p role="status">{loading.what}</p>
      ) : (
        <div role="alert">
          <h1>{loading.sentence}</h1>
          <p className="muted">{loading.remedy}</p>
          <Link to="/">To the library</Link>
        </div>
      )}
    </div>
  );
}

function useShot(id: string): Loading {
  const dispatch = useAppDispatch();
  const [search] = useSearchParams();
  const firstSearch = useRef(search);
  const entered = useRef(false);
  const store = useStore<State>();
  const [loading, setLoading] = useState<Loading>({ at: 'loading', what: 'Opening the shot…' });
  const opened = useAppSelector((s) => (s.shot.id === id ? s.shot.shot?.character.hash : undefined));
  const fail = useCallback((e: unknown) => {
    if (e instanceof CallError) setLoading({ at: 'failed', sentence: e.message, remedy: e.remedy });
    else if (e instanceof WorkError)
      setLoading({ at: 'failed', sentence: 'This character cannot be opened', remedy: e.trouble.sentence });
    else if (e instanceof OscillumError)
      setLoading({ at: 'failed', sentence: e.message, remedy: e.remedy || 'Go back to the Library.' });
    else
      setLoading({
        at: 'failed',
        sentence: 'This shot cannot be opened',
        remedy: `${faultOf(e)} Reload the page, or go back to the Library.`,
      });
  }, []);
  useEffect(() => {
    let gone = false;
    dispatch(openShot(id)).catch((e: unknown) => !gone && fail(e));
    return () => {
      gone = true;
      dispatch(shotSlice.actions.closed());
    };
  }, [id, dispatch, fail]);
  // The character, and another one when an edit, an undo or another window takes another.
  useEffect(() => {
    if (!opened) return;
    let gone = false;
    const simulation = new Simulation();
    const load = async () => {
      const { shot } = store.getState().shot;
      if (!shot) return;
      setLoading({ at: 'loading', what: `Reading ${shot.character.fileName}…` });
      const response = await call('downloadCharacter', { params: { hash: opened } });
      const character = await simulation.open(await response.arrayBuffer(), shot.character.fileName);
      if (gone) return;
      // The first time the address says what is looked at; with another character it stays what it is.
      const { view } = store.getState();
      const look = entered.current ? view : lookOf(firstSearch.current);
      entered.current = true;
      dispatch(
        viewSlice.actions.entered({
          frame: Number.isFinite(look.frame)
            ? Math.min(shot.range.last, Math.max(shot.range.first, Math.round(look.frame)))
            : shot.range.first,
          parts: look.parts.filter((p) => shot.parts[p]),
          joints: look.joints.filter((j) => character.nodes[j]),
        }),
      );
      setLoading({ at: 'open', character, simulation });
    };
    load().catch((e: unknown) => !gone && fail(e));
    return () => {
      gone = true;
      simulation.close();
    };
  }, [opened, dispatch, store, fail]);
  return loading;
}

function Desk({
  room,
  character,
  simulation,
}: {
  room: string;
  character: Character;
  simulation: Simulation;
}) {
  const stage = useRef<Stage | null>(null);
  const [ends, setEnds] = useState<Record<number, number>>({});
  const desk = useMemo<DeskTools>(
    () => ({
      character,
      simulation,
      stage,
      ends,
      setEnd: (first, last) => setEnds((e) => ({ ...e, [first]: last })),
    }),
    [character, simulation, ends],
  );
  const shot = useAppSelector(selectShot);
  useSimulated(simulation);
  usePlayer();
  useAddress();
  useDroppedSelections();
  return (
    <DeskContext.Provider value={desk}>
      <Keys />
      <div className="desk">
        <Header room={room} />
        <main className="room">
          {shot && (
            <h1 className="unseen">
              {shot.name}: {ROOMS.find(([path]) => path === room)?.[1] ?? 'no such room'}
            </h1>
          )}
          {shot &&
            (room === 'prepare' ? (
              <Prepare />
            ) : room === 'tune' ? (
              <Tune />
            ) : room === 'refine' ? (
              <Refine />
            ) : room === 'hand-off' ? (
              <HandOff />
            ) : (
              <Lost />
            ))}
        </main>
      </div>
    </DeskContext.Provider>
  );
}

/** What is wrong, of an error that is none of ours: of an answer that does not fit its schema, its first fault. */
function faultOf(e: unknown): string {
  const issue = (e as { issues?: { message: string; path: PropertyKey[] }[] }).issues?.[0];
  if (issue) return `${issue.message} (at ${issue.path.map(String).join('/')}).`;
  return e instanceof Error ? e.message : String(e);
}

/** Simulates again whenever anything that moves has changed: at once, before the page is drawn anew. */
function useSimulated(simulation: Simulation): void {
  const store = useStore<State>();
  useEffect(() => {
    let seen: readonly unknown[] = [];
    let last = '';
    const look = () => {
      const state = store.getState();
      const { solo } = state.view;
      const whole = selectShot(state);
      const take = state.view.take ? whole?.takes[state.view.take] : undefined;
      const now = [whole, solo, take];
      if (!whole || now.every((x, i) => x === seen[i])) return;
      seen = now;
      const shot = soloed(take ? asTaken(whole, take) : whole, solo);
      // The shot's own name, what is kept beside it and what is done to its bake move nothing.
      const key = JSON.stringify({ ...shot, name: '', takes: {}, keys: null, refine: null });
      if (key === last) return;
      last = key;
      simulation.simulate(shot, lastDrawn(state.view.frame), !state.view.waitWhole);
    };
    look();
    return store.subscribe(look);
  }, [simulation, store]);
}

/** The shot with all parts muted but those looked at alone; what was muted stays so. */
function soloed(shot: Shot, solo: readonly string[]): Shot {
  if (!solo.some((id) => shot.parts[id])) return shot;
  const parts = Object.entries(shot.parts).map(([id, p]) => [
    id,
    solo.includes(id) ? p : { ...p, muted: true },
  ]);
  return { ...shot, parts: Object.fromEntries(parts) as Shot['parts'] };
}

/** Keeps frame and selection in the address, so that a reload or a shared link comes back to them. */
function useAddress(): void {
  const { frame, playing, parts, joints } = useAppSelector((s) => s.view);
  const [, setSearch] = useSearchParams();
  useEffect(() => {
    if (playing) return;
    const timer = setTimeout(() => {
      const next = new URLSearchParams({ frame: String(Math.round(frame)) });
      if (parts.length) next.set('parts', parts.join(','));
      if (joints.length) next.set('joints', joints.join(','));
      setSearch(next, { replace: true });
    }, 150);
    return () => clearTimeout(timer);
  }, [frame, playing, parts, joints, setSearch]);
}

/** Parts that an undo or another window took away are not selected any more; the frame stays in the range. */
function useDroppedSelections(): void {
  const dispatch = useAppDispatch();
  const shot = useAppSelector((s) => s.shot.shot);
  const { parts, frame } = useAppSelector((s) => s.view);
  useEffect(() => {
    if (!shot) return;
    const kept = parts.filter((p) => shot.parts[p]);
    if (kept.length < parts.length) dispatch(viewSlice.actions.partsSelected({ parts: kept }));
    const inside = Math.min(shot.range.last, Math.max(shot.range.first, frame));
    if (inside !== frame) dispatch(viewSlice.actions.frameSet(inside));
  }, [shot, parts, frame, dispatch]);
}

/** Whether what has the focus uses a key itself: text is typed, a list is walked, Space presses a button. */
function keepsKey(target: EventTarget | null, keys: string): boolean {
  if (!(target instanceof HTMLElement)) return false;
  if (target.matches('textarea, input:not([type=range], [type=checkbox], [type=radio])')) return true;
  if (target.matches('select')) return !keys.startsWith('mod');
  // What was only clicked does not keep Space from playing; what the keyboard went to does.
  return (
    keys === 'Space' &&
    target.matches(':focus-visible') &&
    target.closest('button, a, [role="button"], summary, input') !== null
  );
}

/** Shortcuts, the list of them, and Find anything. */
const Keys = memo(function Keys() {
  const [keysOpen, keys] = useDisclosure(false);
  const context = useCommands(keys.open);
  // Ids and names in turn: while a slider moves they stay.
  const parts = useAppEntries((s) =>
    s.shot.shot ? partsInOrder(s.shot.shot).flatMap((p) => [p.id, p.name]) : [],
  );
  const actions = useMemo(() => actionsOf(context, parts), [context, parts]);
  useHotkeys(
    COMMANDS.filter((c) => c.keys).map((c) => [
      c.keys!,
      (event: KeyboardEvent) => {
        if (keepsKey(event.target, c.keys!) || c.when?.(context) === false) return;
        event.preventDefault();
        c.run(context);
      },
      { preventDefault: false },
    ]),
    [],
  );
  return (
    <>
      <Spotlight
        shortcut="mod + K"
        nothingFound="Nothing of that name"
        highlightQuery
        limit={12}
        searchProps={{ placeholder: 'Find a command, a chain or a joint', 'aria-label': 'Find anything' }}
        actions={actions}
      />
      <Sheet opened={keysOpen} onClose={keys.close} title="Keyboard">
        <div className="keys">
          {[
            ...COMMANDS.filter((c) => c.keys),
            { id: 'find', label: 'Find anything', keys: 'mod+K' },
            ...CURVE_KEYS.map(([label, keys]) => ({
              id: `curves ${label}`,
              label: `In Refine: ${label}`,
              keys,
            })),
          ].map((c) => (
            <div key={c.id} style={{ display: 'contents' }}>
              <span>{c.label}</span>
              <span>
                {keyNames(c.keys!).map((k) => (
                  <kbd key={k}>{k}</kbd>
                ))}
              </span>
            </div>
          ))}
        </div>
      </Sheet>
    </>
  );
});

/** What can be found: commands, parts (ids and names in turn) and joints. */
function actionsOf(context: CommandContext, parts: readonly string[]): SpotlightActionData[] {
  const { dispatch, desk } = context;
  const part = (id: string, name: string) => ({
    id: `part-${id}`,
    label: name,
    description: 'Select this chain',
    onClick: () => dispatch(viewSlice.actions.partsSelected({ parts: [id] })),
  });
  return [
    ...COMMANDS.map((c) => ({
      id: c.id,
      label: c.label,
      onClick: () => c.run(context),
      rightSection: c.keys ? <kbd>{keyNames(c.keys).join(' ')}</kbd> : undefined,
    })),
    ...parts.flatMap((id, i) => (i % 2 === 0 ? [part(id, parts[i + 1]!)] : [])),
    ...Array.from(desk.character.joints, (j) => ({
      id: `joint-${j}`,
      label: desk.character.nodes[j]!.name,
      description: 'Select this joint',
      onClick: () => dispatch(viewSlice.actions.jointsSelected({ joints: [j] })),
    })),
  ];
}

function useCommands(openKeys: () => void): CommandContext {
  const dispatch = useAppDispatch();
  const { getState } = useStore<State>();
  const navigate = useNavigate();
  const { id = '' } = useParams();
  const desk = useDesk();
  const [search] = useSearchParams();
  return useMemo(
    () => ({
      dispatch,
      getState,
      desk,
      go: (to: string) => void navigate(`/shot/${id}/${to}?${search.toString()}`),
      openKeys,
    }),
    [dispatch, getState, desk, navigate, id, search, openKeys],
  );
}
