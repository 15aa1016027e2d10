import { useRef, useState } from 'react';
import { checkBake, defaultBake, MANY_NAMES, type BakeOptions } from '@oscillum/core/bake';
import { checkPlan, HAND_OFF_FORMATS, LABELS } from '@oscillum/core/handoff';
import { nodesOf, type Shot } from '@oscillum/core/shot';
import { isRefined } from '@oscillum/core/refine';
import type { HandOffResult } from '../../../sim/messages';
import type { Picture } from '../../../sim/picture';
import { WorkError } from '../../../sim/simulation';
import { chooseKeys } from '../../../state/refine';
import { sentenceOf, setMuted } from '../../../state/edits';
import { useAppDispatch, useAppSelector } from '../../../state/store';
import { useDesk } from '../../kit/desk';
import { NumberBox } from '../../kit/Fields';
import { say, sayTrouble } from '../../kit/say';
import { ChoiceRow } from '../../kit/Rows';
import { bakeable, unmuted, wasBaked } from '../../../state/baking';
import { NEEDS, NOTHING_CHOSEN, planOf, type Choices } from './choices';
import { PartPicks } from './PartPicks';
import { FilmPanel } from './FilmPanel';
import { OtherFiles } from './OtherFiles';
import { mutable, Queue } from './Queue';
import { Result } from './Result';
import { WhatItHolds } from './WhatItHolds';
import { ThinChoices } from '../../desk/ThinChoices';

type Bake =
  | { at: 'idle' }
  | { at: 'baking'; share: number; stop: () => void }
  | { at: 'ready'; result: HandOffResult; parts: string[] }
  | { at: 'failed'; sentence: string };

export function BakePanel({ refined }: { refined: Picture | undefined }) {
  const dispatch = useAppDispatch();
  const { simulation, character } = useDesk();
  const shot = useAppSelector((s) => s.shot.shot)!;
  const [left, setLeft] = useState<ReadonlySet<string>>(new Set());
  const [leftJoints, setLeftJoints] = useState<ReadonlySet<number>>(new Set());
  const [choices, setChoices] = useState<Choices>(NOTHING_CHOSEN);
  const [bake, setBake] = useState<Bake>({ at: 'idle' });
  const bracket = useAppSelector((s) => s.view.bracket);
  const [trouble, setTrouble] = useState<string | null>(null);
  const ready = useRef<HTMLDivElement>(null);
  const moving = bakeable(shot);
  const parts = moving.map((p) => p.id).filter((id) => !left.has(id));
  const nodes = moving.flatMap((p) => (left.has(p.id) ? [] : nodesOf(p)));
  const joints = nodes.some((n) => leftJoints.has(n)) ? nodes.filter((n) => !leftJoints.has(n)) : null;
  const options: BakeOptions = { ...defaultBake(shot), ...choices.bake, parts, joints };
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
  const plain = character.clips.flatMap((c, i) => (c.over ? [] : [{ ...c, index: i }]));

  const plan = planOf(shot, choices, options);

  const start = async () => {
    const asked = unmuted(shot, parts);
    try {
      checkPlan(plan);
      checkBake(
        asked,
        choices.clips
          ? { ...defaultBake(asked), ...options, first: asked.range.first, last: asked.range.last }
          : options,
      );
      setTrouble(null);
    } catch (e) {
      setTrouble(sentenceOf(e));
      return;
    }
    const job = simulation.handOff(asked, plan, (share) => setBake({ at: 'baking', share, stop: job.stop }));
    setBake({ at: 'baking', share: 0, stop: job.stop });
    try {
      const result = await job.done;
      setBake({ at: 'ready', result, parts });
      mute(parts, result.clips.map((c) => c.clip).join('”, “'));
      requestAnimationFrame(() => ready.current?.focus());
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
  const unmute = (ids: readonly string[]) => {
    try {
      dispatch(setMuted(ids, false));
    } catch (e) {
      sayTrouble(sentenceOf(e));
    }
  };
  const muted = moving.filter(wasBaked);
  return (
    <aside className="panel" aria-label="Bake">
      <h2>Bake to keyframes</h2>
      {moving.length === 0 && !isRefined(shot) && (
        <p className="notice" style={{ margin: 0 }}>
          {Object.keys(shot.parts).length
            ? 'All chains are muted. Unmute one in Tune to bake it.'
            : 'Nothing moves by simulation yet. Make a chain in Tune first.'}
        </p>
      )}
      {muted.length > 0 && (
        <p className="notice" style={{ margin: 0 }}>
          {muted.length === 1 ? 'One chain is' : `${muted.length} chains are`} muted, so that motion baked
          already is not doubled.{' '}
          <button className="soft" onClick={() => unmute(muted.map((p) => p.id))}>
            Unmute
          </button>
        </p>
      )}
      <h3>It goes to</h3>
      <div className="presses">
        {NEEDS.map(({ name, says, choices: { thin, ...more } }) => (
          <button
            key={name}
            className="soft"
            title={says}
            onClick={() => {
              choose(more);
              setKeys({ step: 1, thin });
            }}
          >
            {name}
          </button>
        ))}
      </div>
      <h3>Clips</h3>
      <ChoiceRow
        label="Bake"
        value={choices.clips === null ? 'this' : choices.clips.length === plain.length ? 'all' : 'some'}
        choices={[
          ['this', shot.clip ? `this clip, “${shot.clip.name}”` : 'the rest pose'],
          ...(plain.length > 1 ? ([['all', `all ${plain.length} clips`]] as const) : []),
          ...(choices.clips && choices.clips.length !== plain.length
            ? ([['some', 'those ticked']] as const)
            : []),
        ]}
        onSet={(v) => choose({ clips: v === 'this' ? null : plain.map((c) => c.index) })}
      />
      {choices.clips ? (
        <div className="checks">
          {plain.map((c) => (
            <label key={c.index}>
              <input
                type="checkbox"
                checked={choices.clips!.includes(c.index)}
                onChange={() => {
                  const next = choices.clips!.includes(c.index)
                    ? choices.clips!.filter((i) => i !== c.index)
                    : [...choices.clips!, c.index].sort((a, b) => a - b);
                  choose({ clips: next.length > 0 ? next : null });
                }}
              />
              {c.name}
            </label>
          ))}
        </div>
      ) : (
        <div className="field">
          <span>Frames</span>
          <span className="pair">
            <NumberBox
              label="First frame to bake"
              whole
              value={options.first}
              onSet={(first) => set({ first })}
            />
            to
            <NumberBox
              label="Last frame to bake"
              whole
              value={options.last}
              onSet={(last) => set({ last })}
            />
            {bracket && (
              <button
                className="mini"
                title="The frames that are played"
                onClick={() =>
                  set({
                    first: Math.max(shot.range.first, bracket.from),
                    last: Math.min(shot.range.last, bracket.to),
                  })
                }
              >
                bracket
              </button>
            )}
          </span>
        </div>
      )}
      {shot.preRoll > 0 && !shot.loop && (
        <label className="check">
          <input type="checkbox" checked={options.lead} onChange={() => set({ lead: !options.lead })} />
          with the {shot.preRoll} frames before, as it was run up
        </label>
      )}
      <h3>Parts</h3>
      <PartPicks
        parts={moving}
        left={left}
        leftJoints={leftJoints}
        onLeft={setLeft}
        onLeftJoints={setLeftJoints}
      />
      <h3>Keys</h3>
      <ThinChoices keys={shot.keys} onSet={setKeys} />
      <h3>Into</h3>
      <ChoiceRow
        label="Written as"
        value={options.into}
        choices={[
          ['new', 'a new clip'],
          ...(shot.clip
            ? ([
                ['replace', choices.clips ? 'each clip, in its place' : `“${shot.clip.name}”, in its place`],
                ['offset', 'a clip that adds to it'],
              ] as const)
            : []),
        ]}
        onSet={(into) => set({ into })}
      />
      {options.into !== 'replace' && (
        <input
          className="soft"
          aria-label="Name of the new clip"
          title={choices.clips ? '{clip} stands for the name of each clip' : undefined}
          value={choices.bake.name ?? (choices.clips ? MANY_NAMES : options.name)}
          onChange={(e) => set({ name: e.target.value })}
          onKeyDown={(e) => e.stopPropagation()}
        />
      )}
      <h3>Files</h3>
      <div className="presses">
        {HAND_OFF_FORMATS.map((f) => (
          <label key={f} className="check">
            <input
              type="checkbox"
              checked={choices.formats.includes(f)}
              onChange={() =>
                choose({
                  formats: HAND_OFF_FORMATS.filter((x) => (x === f) !== choices.formats.includes(x)),
                })
              }
            />
            {LABELS[f]}
          </label>
        ))}
      </div>
      {choices.formats.includes('glb') && (
        <ChoiceRow
          label="GLB packed"
          says="Smaller to send; whoever opens it must know how to unpack it"
          value={choices.pack}
          choices={[
            ['none', 'no'],
            ['meshopt', 'with meshopt, without loss'],
            ['draco', 'with Draco, meshes rounded'],
          ]}
          onSet={(pack) => choose({ pack })}
        />
      )}
      {choices.formats.some((f) => f !== 'glb') && (
        <>
          <ChoiceRow
            label="A unit is"
            says="For BVH, USD text and tables; a GLB is always in the character's own unit"
            value={choices.unit === null ? 'usual' : String(choices.unit)}
            choices={[
              ['usual', 'as usual (BVH: cm)'],
              ['1', 'a metre'],
              ['0.01', 'a centimetre'],
              ['0.0254', 'an inch'],
            ]}
            onSet={(v) => choose({ unit: v === 'usual' ? null : Number(v) })}
          />
          <ChoiceRow
            label="Up is"
            value={choices.up}
            choices={[
              ['Y', '+Y'],
              ['Z', '+Z'],
            ]}
            onSet={(up) => choose({ up })}
          />
        </>
      )}
      <div className="field">
        <span>Named</span>
        <input
          className="soft"
          aria-label="Name of the files"
          value={plan.stem}
          onChange={(e) => choose({ stem: e.target.value.replace(/[\p{Cc}/\\]/gu, '') || null })}
          onKeyDown={(e) => e.stopPropagation()}
        />
      </div>
      <WhatItHolds shot={shot} plan={plan} joints={joints?.length ?? new Set(nodes).size} />
      {trouble && (
        <p className="trouble" role="alert">
          {trouble}
        </p>
      )}
      {bake.at === 'baking' ? (
        <div role="status">
          <div
            className="progress"
            role="progressbar"
            aria-valuenow={Math.round(bake.share * 100)}
            aria-label="Baking"
          >
            <i style={{ width: `${bake.share * 100}%` }} />
          </div>
          <span className="pair" style={{ marginTop: 6 }}>
            {bake.share < 0.85 ? 'Baking' : 'Reading it back'}, {Math.round(bake.share * 100)} %{' '}
            <button className="soft" onClick={bake.stop}>
              Cancel
            </button>
          </span>
        </div>
      ) : (
        <button
          className="press"
          disabled={parts.length === 0 && !isRefined(shot)}
          onClick={() => void start()}
        >
          Bake
        </button>
      )}
      <Queue choices={choices} plan={mutable(plan)} />
      {bake.at === 'failed' && (
        <p className="notice bad" role="alert">
          {bake.sentence}
        </p>
      )}
      {bake.at === 'ready' && (
        <div ref={ready} tabIndex={-1} style={{ outline: 'none' }}>
          <Result result={bake.result} />
        </div>
      )}
      <FilmPanel refined={refined} />
      <OtherFiles />
    </aside>
  );
}
