import { nodesOf, partsInOrder } from '@oscillum/core/shot';
import { sentenceOf, redo, removeParts, setMuted, toggleAnchor, undo } from '../../state/edits';
import { marksOf } from '../../state/lanes';
import { copyMarks, pasteMarks, removeMarks, shiftMarks } from '../../state/marks';
import { selectShot, type Dispatch, type State } from '../../state/store';
import { viewSlice } from '../../state/view';
import type { DeskTools } from '../kit/desk';
import { sayTrouble } from '../kit/say';

const {
  bracketSet,
  marksChosen,
  marksCopied,
  shakingSet,
  takeShown,
  frameSet,
  playingSet,
  speedSet,
  toggled,
  withoutSet,
  partsSelected,
  pickSet,
  jointsSelected,
} = viewSlice.actions;

export const ROOMS = [
  ['prepare', 'Prepare'],
  ['tune', 'Tune'],
  ['refine', 'Refine'],
  ['hand-off', 'Hand off'],
] as const;

/** What the keyboard does to curves in Refine, beside all else (see useCurveKeys). */
export const CURVE_KEYS = [
  ['A key on this frame', 'I'],
  ['Choose all keys shown', 'mod+A'],
  ['Copy keys', 'mod+C'],
  ['Paste keys at this frame', 'mod+V'],
  ['Paste keys mirrored', 'mod+shift+V'],
  ['Delete keys', 'Delete'],
  ['Move keys a frame (Shift: ten)', 'ArrowRight'],
  ['Raise keys (Shift: ten times)', 'ArrowUp'],
] as const;

export interface CommandContext {
  dispatch: Dispatch;
  getState: () => State;
  desk: DeskTools;
  go: (room: string) => void;
  openKeys: () => void;
}

export interface Command {
  id: string;
  label: string;
  /** As Mantine's useHotkeys reads them. */
  keys?: string;
  /** Whether its keys are its own at the moment; always when left out. */
  when?: (c: CommandContext) => boolean;
  run: (c: CommandContext) => void;
}

const step =
  (by: number) =>
  ({ dispatch, getState }: CommandContext) => {
    const shot = selectShot(getState());
    if (!shot) return;
    dispatch(playingSet(false));
    const f = Math.round(getState().view.frame) + by;
    dispatch(frameSet(Math.min(shot.range.last, Math.max(shot.range.first, f))));
  };
const goto =
  (end: 'first' | 'last') =>
  ({ dispatch, getState }: CommandContext) => {
    const shot = selectShot(getState());
    if (!shot) return;
    dispatch(playingSet(false));
    dispatch(frameSet(shot.range[end]));
  };
/** One end of the frames that are played, at this frame. */
const bracket =
  (end: 'from' | 'to') =>
  ({ dispatch, getState }: CommandContext) => {
    const shot = selectShot(getState());
    if (!shot) return;
    const { frame, bracket: now } = getState().view;
    const f = Math.round(frame);
    const { from, to } = now ?? { from: shot.range.first, to: shot.range.last };
    dispatch(
      bracketSet(
        end === 'from'
          ? { from: f, to: to > f ? to : shot.range.last }
          : { from: from < f ? from : shot.range.first, to: f },
      ),
    );
  };
const guarded = (run: (c: CommandContext) => void) => (c: CommandContext) => {
  try {
    run(c);
  } catch (e) {
    sayTrouble(sentenceOf(e));
  }
};

/** Every command once: shortcuts, the list of them and Find anything all read this. */
export const COMMANDS: Command[] = [
  {
    id: 'play',
    label: 'Play or stop',
    keys: 'Space',
    run: ({ dispatch, getState }) => dispatch(playingSet(!getState().view.playing)),
  },
  { id: 'back', label: 'One frame back', keys: 'ArrowLeft', run: step(-1) },
  { id: 'on', label: 'One frame on', keys: 'ArrowRight', run: step(1) },
  { id: 'first', label: 'First frame', keys: 'Home', run: goto('first') },
  { id: 'last', label: 'Last frame', keys: 'End', run: goto('last') },
  { id: 'undo', label: 'Undo', keys: 'mod+Z', run: guarded(({ dispatch }) => dispatch(undo)) },
  { id: 'redo', label: 'Redo', keys: 'mod+shift+Z', run: guarded(({ dispatch }) => dispatch(redo)) },
  {
    id: 'delete',
    label: 'Remove the chosen marks, or the selected chains',
    keys: 'Delete',
    run: guarded(({ dispatch, getState }) => {
      const { marks, parts } = getState().view;
      if (marks.length === 0) return dispatch(removeParts(parts));
      dispatch(removeMarks(marks));
      dispatch(marksChosen([]));
    }),
  },
  {
    id: 'copy-marks',
    label: 'Copy the chosen anchor poses and keys',
    keys: 'mod+C',
    when: ({ getState }) => getState().view.marks.length > 0,
    run: ({ dispatch, getState }) => {
      const { view, shot } = getState();
      if (shot.shot && view.marks.length > 0) dispatch(marksCopied(copyMarks(shot.shot.parts, view.marks)));
    },
  },
  {
    id: 'paste-marks',
    label: 'Paste them on this frame',
    keys: 'mod+V',
    when: ({ getState }) => getState().view.copiedMarks !== null,
    run: guarded(({ dispatch, getState }) => {
      const { view } = getState();
      if (view.copiedMarks) dispatch(pasteMarks(view.copiedMarks, Math.round(view.frame), view.parts));
    }),
  },
  ...([-1, 1] as const).map((by): Command => ({
    id: `nudge-${by}`,
    label: `Move the chosen anchor poses and keys a frame ${by < 0 ? 'back' : 'on'}`,
    keys: by < 0 ? 'alt+ArrowLeft' : 'alt+ArrowRight',
    when: ({ getState }) => getState().view.marks.length > 0,
    run: guarded(({ dispatch, getState }) => {
      const { marks } = getState().view;
      dispatch(shiftMarks(marks, by, true));
      dispatch(marksChosen(marks.map((m) => ({ ...m, frame: m.frame + by }))));
    }),
  })),
  {
    id: 'all-marks',
    label: 'Choose all anchor poses and keys of the selected chains',
    run: ({ dispatch, getState }) => {
      const { view, shot } = getState();
      dispatch(
        marksChosen(view.parts.flatMap((id) => (shot.shot?.parts[id] ? marksOf(shot.shot.parts[id]) : []))),
      );
    },
  },
  {
    id: 'mute',
    label: 'Mute or unmute the selected chains',
    keys: 'M',
    run: guarded(({ dispatch, getState }) => {
      const { view, shot } = getState();
      const known = view.parts.filter((id) => shot.shot?.parts[id]);
      if (known.length) dispatch(setMuted(known, !known.every((id) => shot.shot!.parts[id]!.muted)));
    }),
  },
  {
    id: 'anchor',
    label: 'Anchor pose on this frame, or take it off',
    keys: 'P',
    run: guarded(({ dispatch, getState }) => {
      const { view } = getState();
      dispatch(toggleAnchor(view.parts, Math.round(view.frame)));
    }),
  },
  {
    id: 'flip',
    label: 'Flip between two takes',
    keys: 'X',
    run: ({ dispatch, getState }) => {
      const { take, takeBefore } = getState().view;
      const takes = Object.values(getState().shot.shot?.takes ?? {}).sort((a, b) => a.order - b.order);
      // The first flip goes from the present to the newest take.
      dispatch(takeShown(take === null && takeBefore === null ? (takes.at(-1)?.id ?? null) : takeBefore));
    },
  },
  {
    id: 'all',
    label: 'Select all chains',
    keys: 'mod+A',
    run: ({ dispatch, getState }) =>
      dispatch(
        partsSelected({
          parts: getState().shot.shot ? partsInOrder(getState().shot.shot!).map((p) => p.id) : [],
        }),
      ),
  },
  {
    id: 'none',
    label: 'Select nothing',
    keys: 'Escape',
    // A sheet closes by it.
    when: () => document.querySelector('[role="dialog"]') === null,
    run: ({ dispatch, getState }) => {
      // A choice that waits for a click is given up first.
      if (getState().view.pick) return void dispatch(pickSet(null));
      dispatch(partsSelected({ parts: [] }));
      dispatch(jointsSelected({ joints: [] }));
      dispatch(marksChosen([]));
    },
  },
  { id: 'bracket-from', label: 'Play from this frame', keys: '[', run: bracket('from') },
  { id: 'bracket-to', label: 'Play up to this frame', keys: ']', run: bracket('to') },
  {
    id: 'bracket-none',
    label: 'Play all frames',
    keys: 'backslash',
    run: ({ dispatch }) => dispatch(bracketSet(null)),
  },
  {
    id: 'every-frame',
    label: 'Show every frame, or keep time',
    run: ({ dispatch }) => dispatch(toggled('everyFrame')),
  },
  {
    id: 'frame-parts',
    label: 'Look at the selected chains',
    keys: 'C',
    run: ({ desk, getState }) => {
      const { view, shot } = getState();
      const parts = view.parts.flatMap((id) => shot.shot?.parts[id] ?? []);
      desk.stage.current?.frame(
        undefined,
        parts.flatMap((p) => nodesOf(p)),
      );
    },
  },
  ...(
    [
      ['all-trails', 'Trails of every joint on or off', 'allTrails'],
      ['onion', 'Nearby frames on or off', 'onion'],
      ['points', 'Simulated points on or off', 'points'],
      ['show-colliders', 'Colliders on or off', 'showColliders'],
      ['contacts', 'Contact marks on or off', 'contacts'],
      ['stretch', 'Stretch of links on or off', 'stretch'],
      ['flat', 'Without perspective, or with', 'flat'],
      ['follow', 'Follow the figure, or not', 'follow'],
    ] as const
  ).map(([id, label, key]): Command => ({ id, label, run: ({ dispatch }) => dispatch(toggled(key)) })),
  {
    id: 'frame',
    label: 'Look at the whole figure',
    keys: 'F',
    run: ({ desk }) => desk.stage.current?.frame(),
  },
  {
    id: 'side',
    label: 'Look from the side',
    keys: '1',
    run: ({ desk }) => desk.stage.current?.frame('side'),
  },
  {
    id: 'front',
    label: 'Look from the front',
    keys: '2',
    run: ({ desk }) => desk.stage.current?.frame('front'),
  },
  {
    id: 'three-quarter',
    label: 'Look at three quarters',
    keys: '3',
    run: ({ desk }) => desk.stage.current?.frame('three-quarter'),
  },
  { id: 'top', label: 'Look from above', keys: '4', run: ({ desk }) => desk.stage.current?.frame('top') },
  {
    id: 'ghost',
    label: 'Source ghost on or off',
    keys: 'G',
    run: ({ dispatch }) => dispatch(toggled('ghost')),
  },
  {
    id: 'trails',
    label: 'Tip trails on or off',
    keys: 'T',
    run: ({ dispatch }) => dispatch(toggled('trails')),
  },
  {
    id: 'joints',
    label: 'Joints on or off',
    keys: 'J',
    run: ({ dispatch }) => dispatch(toggled('showJoints')),
  },
  {
    id: 'without',
    label: 'Without what is simulated, or with it',
    keys: 'W',
    run: ({ dispatch, getState }) => dispatch(withoutSet(getState().view.without === 1 ? null : 1)),
  },
  {
    id: 'shake',
    label: 'Grab and shake chains on the stage, or not',
    keys: 'H',
    run: ({ dispatch, getState }) => dispatch(shakingSet(!getState().view.shaking)),
  },
  {
    id: 'night',
    label: 'Day or night desk',
    keys: 'N',
    run: ({ dispatch }) => dispatch(toggled('night')),
  },
  {
    id: 'air',
    label: 'Wind and forces on or off',
    keys: 'A',
    run: ({ dispatch }) => dispatch(toggled('air')),
  },
  { id: 'loop', label: 'Loop on or off', keys: 'L', run: ({ dispatch }) => dispatch(toggled('loop')) },
  ...([0.25, 0.5, 1, 2] as const).map((speed): Command => ({
    id: `speed-${speed}`,
    label: `Play at ${speedName(speed)}`,
    run: ({ dispatch }) => dispatch(speedSet(speed)),
  })),
  ...ROOMS.map(([room, name]): Command => ({
    id: `room-${room}`,
    label: `Go to ${name}`,
    run: ({ go }) => go(room),
  })),
  { id: 'keys', label: 'Keyboard shortcuts', keys: 'K', run: ({ openKeys }) => openKeys() },
];

export function speedName(speed: number): string {
  return speed === 0.25 ? '¼ speed' : speed === 0.5 ? '½ speed' : speed === 2 ? '2× speed' : 'full speed';
}

/** "mod+shift+Z" as it stands on the keys. */
export function keyNames(keys: string): string[] {
  const names: Record<string, string> = {
    mod: 'Ctrl',
    shift: 'Shift',
    alt: 'Alt',
    ArrowLeft: '←',
    ArrowRight: '→',
    ArrowUp: '↑',
    Delete: 'Del',
    Escape: 'Esc',
    backslash: '\\',
  };
  return keys.split('+').map((k) => names[k] ?? k);
}
