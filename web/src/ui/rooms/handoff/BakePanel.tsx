import { useRef, useState } from 'react';
import { checkBake, defaultBake, type BakeOptions } from '@oscillum/core/bake';
import { checkPlan } from '@oscillum/core/handoff';
import { actionRange, movesPoints, nodesOf, type Shot } from '@oscillum/core/shot';
import { isRefined } from '@oscillum/core/refine';
import type { HandOffResult } from '../../../sim/messages';
import type { Picture } from '../../../sim/picture';
import { WorkError } from '../../../sim/asks';
import { chooseKeys } from '../../../state/refine';
import { called, sentenceOf, setMuted } from '../../../state/edits';
import { useAppDispatch, useAppSelector } from '../../../state/store';
import { useDesk } from '../../kit/desk';
import { say, sayTrouble } from '../../kit/say';
import { bakeable, unmuted, wasBaked } from '../../../state/baking';
import { NEEDS, NOTHING_CHOSEN, planOf, type Choices } from './choices';
import { ClipRows, FileRows, IntoRows, Progress } from './BakeRows';
import { PartPicks } from './PartPicks';
import { FilmPanel } from './FilmPanel';
import { OtherFiles } from './OtherFiles';
import { mutable, Queue } from './Queue';
import { Ready, Result } from './Result';
import { VertexRows } from './VertexRows';
import { WhatItHolds } from './WhatItHolds';
import { ThinChoices } from '../../desk/ThinChoices';
import { BakeInto } from '../../desk/BakeInto';

type Need = (typeof NEEDS)[number]['choices'];

type Bake =
  | { at: 'idle' }
  | { at: 'baking'; share: number; stop: () => void }
  | { at: 'ready'; result: HandOffResult }
  | { at: 'failed'; sentence: string };

/** One bake at a time: what is asked is checked, baked beside the page, and its parts are muted. */
function useBake(shot: Shot, parts: readonly string[], plan: ReturnType<typeof planOf>) {
  const dispatch = useAppDispatch();
  const { simulation } = useDesk();
  const [bake, setBake] = useState<Bake>({ at: 'idle' });
  const [trouble, setTrouble] = useState<string | null>(null);
  const start = async (options: BakeOptions, then: () => void) => {
    const asked = unmuted(shot, parts);
    try {
      checkPlan(plan);
      checkBake(asked, plan.clips ? { ...defaultBake(asked), ...options, ...actionRange(asked) } : options);
      setTrouble(null);
    } catch (e) {
      setTrouble(sentenceOf(e));
      return;
    }
    const job = simulation.handOff(asked, plan, (share) => setBake({ at: 'baking', share, stop: job.stop }));
    setBake({ at: 'baking', share: 0, stop: job.stop });
    try {
      const result = await job.done;
      setBake({ at: 'ready', result });
      // What the file does not hold goes on moving: hair is written as curves beside it.
      const held = parts.filter((id) => nodesOf(shot.parts[id]!).length > 0);
      mute(held, result.clips.map((c) => c.clip).join('”, “'));
      requestAnimationFrame(then);
    } catch (e) {
      if (!(e instanceof WorkError)) throw e;
      const stopped = e.trouble.code === 'bake.cancelled';
      setBake(stopped ? { at: 'idle' } : { at: 'failed', sentence: e.trouble.sentence });
      if (stopped) say('The bake was cancelled; nothing was written.');
    }
  };
  const mute = (ids: readonly string[], clip: string) => {
    try {
      dispatch(setMuted(ids, true, clip));
    } catch (e) {
      sayTrouble(sentenceOf(e));
    }
  };
  return { bake, trouble, setTrouble, start };
}

/** Why there is nothing to bake. */
function Nothing({ shot }: { shot: Shot }) {
  if (bakeable(shot).length > 0 || isRefined(shot)) return null;
  return (
    <p className="notice" style={{ margin: 0 }}>
      {Object.keys(shot.parts).length
        ? 'All parts are muted. Unmute one in Tune to bake it.'
        : 'Nothing moves by simulation yet. Make a part in Tune first.'}
    </p>
  );
}

/** What is muted because it was baked. */
function Muted({ shot }: { shot: Shot }) {
  const dispatch = useAppDispatch();
  const muted = bakeable(shot).filter(wasBaked);
  if (muted.length === 0) return null;
  const unmute = () => {
    try {
      dispatch(
        setMuted(
          muted.map((p) => p.id),
          false,
        ),
      );
    } catch (e) {
      sayTrouble(sentenceOf(e));
    }
  };
  return (
    <p className="notice" style={{ margin: 0 }} title={muted.map((p) => p.name).join(', ')}>
      {muted.length === 1 ? `${muted[0]!.name} is` : `${called(muted)} are`} muted, so that motion baked
      already is not doubled.{' '}
      <button className="soft" onClick={unmute}>
        Unmute
      </button>
    </p>
  );
}

/** What the files are for, each with its choices in one press. */
function Needs({ onChoose }: { onChoose: (choices: Omit<Need, 'thin'>, thin: Need['thin']) => void }) {
  return (
    <>
      <h3>Made for</h3>
      <div className="presses">
        {NEEDS.map(({ name, says, choices: { thin, ...more } }) => (
          <button key={name} className="soft" title={says} onClick={() => onChoose(more, thin)}>
            {name}
          </button>
        ))}
      </div>
    </>
  );
}

export function BakePanel({ refined }: { refined: Picture | undefined }) {
  const dispatch = useAppDispatch();
  const shot = useAppSelector((s) => s.shot.shot)!;
  const [left, setLeft] = useState<ReadonlySet<string>>(new Set());
  const [leftJoints, setLeftJoints] = useState<ReadonlySet<number>>(new Set());
  const [choices, setChoices] = useState<Choices>(NOTHING_CHOSEN);
  const ready = useRef<HTMLDivElement>(null);
  const moving = bakeable(shot);
  const parts = moving.map((p) => p.id).filter((id) => !left.has(id));
  const nodes = moving.flatMap((p) => (left.has(p.id) ? [] : nodesOf(p)));
  const joints = nodes.some((n) => leftJoints.has(n)) ? nodes.filter((n) => !leftJoints.has(n)) : null;
  const options: BakeOptions = { ...defaultBake(shot), ...choices.bake, parts, joints };
  const plan = planOf(shot, choices, options);
  const { bake, trouble, setTrouble, start } = useBake(shot, parts, plan);
  const choose = (more: Partial<Choices>) => {
    setChoices((c) => ({ ...c, ...more }));
    setTrouble(null);
  };
  /** With the shot, since its refinements are laid on these keys. */
  const setKeys = (keys: Shot['keys']) => {
    try {
      dispatch(chooseKeys(keys));
      setTrouble(null);
    } catch (e) {
      sayTrouble(sentenceOf(e));
    }
  };
  const set = (values: Partial<BakeOptions>) => choose({ bake: { ...choices.bake, ...values } });

  return (
    <aside className="panel" aria-label="Bake">
      <h2>Bake to keyframes</h2>
      <Nothing shot={shot} />
      {bake.at !== 'ready' && <Muted shot={shot} />}
      <Needs
        onChoose={(more, thin) => {
          choose(more);
          setKeys({ step: 1, thin });
        }}
      />
      <ClipRows shot={shot} choices={choices} options={options} choose={choose} set={set} />
      <h3>Parts</h3>
      <PartPicks
        parts={moving}
        left={left}
        leftJoints={leftJoints}
        onLeft={setLeft}
        onLeftJoints={setLeftJoints}
      />
      {moving.some((p) => !left.has(p.id) && movesPoints(p)) && (
        <VertexRows shot={shot} options={options} set={set} />
      )}
      <h3>Keys</h3>
      <ThinChoices keys={shot.keys} onSet={setKeys} />
      <IntoRows shot={shot} choices={choices} options={options} set={set} />
      <FileRows choices={choices} stem={plan.stem} choose={choose} />
      <WhatItHolds shot={shot} plan={plan} joints={joints?.length ?? new Set(nodes).size} />
      {bake.at === 'ready' && (
        <div ref={ready} tabIndex={-1} style={{ outline: 'none' }}>
          <Result result={bake.result} />
        </div>
      )}
      <Queue choices={choices} plan={mutable(plan)} />
      <FilmPanel refined={refined} />
      <OtherFiles />
      <Foot
        {...{ shot, bake, trouble }}
        nothing={parts.length === 0 && !isRefined(shot)}
        onBake={() => void start(options, () => ready.current?.focus({ preventScroll: true }))}
      />
    </aside>
  );
}

/** The press that bakes and what comes of it, always in sight. */
function Foot({
  shot,
  bake,
  trouble,
  nothing,
  onBake,
}: {
  shot: Shot;
  bake: Bake;
  trouble: string | null;
  nothing: boolean;
  onBake: () => void;
}) {
  return (
    <div className="panel-foot">
      {trouble && (
        <p className="trouble" role="alert">
          {trouble}
        </p>
      )}
      {bake.at === 'baking' ? (
        <Progress share={bake.share} onStop={bake.stop} />
      ) : (
        <button className="press" disabled={nothing} onClick={onBake}>
          Bake
        </button>
      )}
      <BakeEnd bake={bake} shot={shot} />
    </div>
  );
}

/** What came of a bake: why it failed, or its files, what it has muted, and how the shot may go on. */
function BakeEnd({ bake, shot }: { bake: Bake; shot: Shot }) {
  if (bake.at === 'failed')
    return (
      <p className="notice bad" role="alert">
        {bake.sentence}
      </p>
    );
  if (bake.at !== 'ready') return null;
  const muted = bakeable(shot).filter(wasBaked);
  return (
    <>
      <Ready result={bake.result} />
      <Muted shot={shot} />
      {muted.length > 0 && (
        <BakeInto
          ids={muted.map((p) => p.id)}
          title="The shot plays the baked keys; the other parts go on moving on top of them"
          label="Continue on the baked clip"
        />
      )}
    </>
  );
}
