import { IconChartLine, IconFocus2, IconVolume, IconVolumeOff } from '@tabler/icons-react';
import { memo, useCallback, useEffect, useMemo, useRef, useState } from 'react';
import { channelsOf, playsKeys, type Part } from '@oscillum/core/shot';
import type { Picture } from '../../../sim/picture';
import { timeOf } from '../../../state/cycle';
import { sentenceOf, setMuted } from '../../../state/edits';
import { useAppDispatch, useAppSelector } from '../../../state/store';
import { viewSlice } from '../../../state/view';
import { Drawn, Playhead, useScrub, useShotTime, useSpan } from '../../desk/Time';
import { useDesk } from '../../kit/desk';
import { sayTrouble } from '../../kit/say';
import { uiOf } from '../../parts';
import { BurstMarks } from './BurstMarks';
import { drawLane, laneData } from './laneDrawing';
import { LaneKeys } from './LaneKeys';
import { useMarkDrag } from './laneMarks';

interface LaneProps {
  part: Part;
  picture: Picture;
}

/** Of the settings a lane shows the amount alone. */
const sameLane = (a: LaneProps, b: LaneProps): boolean =>
  a.picture === b.picture &&
  a.part.settings.amount === b.part.settings.amount &&
  (Object.keys(a.part) as (keyof Part)[]).every((k) => k === 'settings' || a.part[k] === b.part[k]);

/** One part on the shared ruler. */
export const Lane = memo(function Lane({ part, picture }: LaneProps) {
  const chosen = useAppSelector((s) => s.view.parts.includes(part.id));
  const { range, preRoll, acts } = useShotTime();
  const { from, to } = useSpan();
  const scrub = useScrub();
  const period = usePeriod();
  const data = useMemo(
    () => (part.muted ? null : laneData(picture, part.id, period)),
    [picture, part.id, part.muted, period],
  );
  const troubles = useMemo(
    () => (picture.advice?.diagnoses ?? []).filter((d) => d.partId === part.id).map((d) => d.frames),
    [picture.advice, part.id],
  );
  const alone = useAppSelector((s) => (s.view.solo.length === 0 ? null : s.view.solo.includes(part.id)));
  const night = useAppSelector((s) => s.view.night);
  const marks = useMarkDrag(part, scrub);
  const chosenMarks = useAppSelector((s) => s.view.marks);
  const picked = useMemo(
    () => chosenMarks.filter((m) => m.part === part.id).map((m) => m.frame),
    [chosenMarks, part.id],
  );
  const { first } = range;
  const baked = useBakedKeys(part);
  const { anchors, keys } = part;
  const { full, InLane } = uiOf(part);

  const draw = useCallback(
    (g: CanvasRenderingContext2D, w: number, h: number) => {
      drawLane(g, w, h, { part, data, baked, first, preRoll, acts, from, to, picked, troubles, full });
    },
    // Night and day draw in other inks.
    // eslint-disable-next-line react-hooks/exhaustive-deps
    [data, baked, first, preRoll, acts, from, to, anchors, keys, picked, troubles, night, full],
  );
  // The one part that was just made or chosen elsewhere is brought into sight.
  const lane = useRef<HTMLDivElement>(null);
  const [curve, setCurve] = useState(false);
  const keyed = Object.values(keys).some((k) => k?.length);
  const only = useAppSelector((s) => chosen && s.view.parts.length === 1);
  useEffect(() => {
    if (only) lane.current?.scrollIntoView({ block: 'nearest' });
  }, [only]);
  const row = (
    <div
      ref={lane}
      className="lane"
      data-chosen={chosen}
      data-muted={part.muted}
      data-testid={`lane-${part.name}`}
    >
      <LaneHead part={part} chosen={chosen} alone={alone} data={data} keys={baked}>
        {keyed && (
          <button
            className="mini"
            aria-expanded={curve}
            aria-label={`Keys of ${part.name} as a curve`}
            title="Its keyed settings as curves under the lane"
            onClick={(e) => (e.stopPropagation(), setCurve(!curve))}
          >
            <IconChartLine size={14} />
          </button>
        )}
      </LaneHead>
      <div className="lane-body" data-part={part.id} data-muted={alone === false} {...marks}>
        <Drawn draw={draw} />
        <Playhead />
        {!part.muted && <BurstMarks part={part} />}
        {InLane && !part.muted && <InLane part={part} />}
      </div>
    </div>
  );
  return (
    <>
      {row}
      {curve && keyed && <LaneKeys part={part} onClose={() => setCurve(false)} />}
    </>
  );
}, sameLane);

/** Frames of one time of the clip where it is repeated and begins from rest; else 0. */
function usePeriod(): number {
  const { character } = useDesk();
  return useAppSelector((s) => {
    const shot = s.shot.shot!;
    return shot.cycle.repeats > 1 && !shot.loop ? Math.round(timeOf(character, shot)) : 0;
  });
}

/** Frames of a part's keys in the clip it was baked into; null when it moves by simulation or not at all. */
function useBakedKeys(part: Part): readonly number[] | null {
  const { character } = useDesk();
  const clip = useAppSelector((s) => s.shot.shot?.clip ?? null);
  const fps = useAppSelector((s) => s.shot.shot?.fps ?? 30);
  return useMemo(() => {
    if (!playsKeys({ clip }, part)) return null;
    const theirs = channelsOf([part]);
    const times = (character.clips[clip!.index]?.channels ?? []).filter(theirs).flatMap((c) => [...c.times]);
    return [...new Set(times.map((t) => Number((t * fps).toFixed(2))))].sort((a, b) => a - b);
  }, [character, clip, fps, part]);
}

/** What a lane says under the name of its part. */
function laneText(
  part: Part,
  alone: boolean | null,
  data: ReturnType<typeof laneData> | null,
  keys: readonly number[] | null,
): string {
  if (keys !== null) return `baked: ${keys.length} keys`;
  if (part.muted) return part.bakedInto !== null ? 'muted: baked already' : 'muted';
  if (alone === false) return 'waits: another is alone';
  if (!data) return '…';
  const ui = uiOf(part);
  return `${ui.laneText(data.most, data.tip)}${ui.laneMore?.(data) ?? ''}`;
}

/** The part's name and numbers, and what it does in the shot: muted, or alone. */
function LaneHead({
  part,
  chosen,
  alone,
  data,
  keys,
  children,
}: {
  part: Part;
  chosen: boolean;
  /** Whether it is looked at alone, or another is; null when all move. */
  alone: boolean | null;
  data: ReturnType<typeof laneData> | null;
  /** Frames of its keys when it was baked into the clip. */
  keys: readonly number[] | null;
  children: React.ReactNode;
}) {
  const dispatch = useAppDispatch();
  const select = (add: boolean) => dispatch(viewSlice.actions.partsSelected({ parts: [part.id], add }));
  const mute = () => {
    try {
      dispatch(setMuted([part.id], !part.muted));
    } catch (e) {
      sayTrouble(sentenceOf(e));
    }
  };
  return (
    <div className="lane-head" onClick={(e) => select(e.shiftKey || e.ctrlKey || e.metaKey)}>
      <span className="dot" />
      <button
        className="name"
        aria-pressed={chosen}
        aria-label={`Select ${part.name}`}
        onClick={(e) => (e.stopPropagation(), select(e.shiftKey || e.ctrlKey || e.metaKey))}
      >
        <b>{part.name}</b>
        <span data-testid="lane-numbers" title={laneText(part, alone, data, keys)}>
          {laneText(part, alone, data, keys)}
        </span>
      </button>
      {children}
      <button
        className="mini"
        aria-pressed={part.muted}
        aria-label={`${part.muted ? 'Unmute' : 'Mute'} ${part.name}`}
        title={
          keys !== null
            ? 'Simulate it again, with its settings as they were (M)'
            : part.muted
              ? 'Unmute (M)'
              : 'Mute: follow the source (M)'
        }
        onClick={(e) => (e.stopPropagation(), mute())}
      >
        {part.muted ? <IconVolumeOff size={14} /> : <IconVolume size={14} />}
      </button>
      <button
        className="mini"
        aria-pressed={alone === true}
        aria-label={`${alone ? 'Not only' : 'Only'} ${part.name}`}
        title="Look at this one alone: the others follow their source meanwhile"
        onClick={(e) => (e.stopPropagation(), dispatch(viewSlice.actions.soloed(part.id)))}
      >
        <IconFocus2 size={14} />
      </button>
      {part.settings.amount !== 100 && !part.keys.amount?.length && (
        <span className="muted" style={{ fontSize: 11 }} title="Amount">
          {Number(part.settings.amount.toFixed(0))}%
        </span>
      )}
    </div>
  );
}
