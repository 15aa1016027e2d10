import { useState } from 'react';
import { defaultBake } from '@oscillum/core/bake';
import type { BakeJob, CharacterSummary, Job } from '@oscillum/core/contract';
import { LABELS, troubleIn } from '@oscillum/core/handoff';
import { inOrder } from '@oscillum/core/model';
import { asTaken, type Shot } from '@oscillum/core/shot';
import { addressOf, call, CallError } from '../../../api/http';
import { useJobs } from '../../../api/jobs';
import { libraryApi } from '../../../api/library';
import { sentenceOf } from '../../../state/edits';
import { useAppSelector } from '../../../state/store';
import { say, sayTrouble } from '../../kit/say';
import { bakeable, unmuted } from '../../../state/baking';
import { planOf, type Choices } from './choices';

/** Bakes that go on without this page: of this shot, of its takes and of other shots, in one action. */
export function Queue({ choices, plan }: { choices: Choices; plan: BakeJob['plan'] }) {
  const shot = useAppSelector((s) => s.shot.shot)!;
  const id = useAppSelector((s) => s.shot.id);
  const { data: others } = libraryApi.useShotsQuery({ count: 200 });
  const { data: characters = [] } = libraryApi.useCharactersQuery();
  const [takes, setTakes] = useState<readonly string[]>([]);
  const [shots, setShots] = useState<readonly string[]>([]);
  const [figures, setFigures] = useState<readonly string[]>([]);
  const [busy, setBusy] = useState(false);
  const kept = inOrder(shot.takes);
  const rest = (others?.shots ?? []).filter((s) => s.id !== id && s.parts > 0);
  const alike = characters.filter((c) => c.hash !== shot.character.hash && c.clips.length > 0);
  const send = async () => {
    setBusy(true);
    try {
      const list = [{ shot: allMoving(shot), plan }, ...(await requests())];
      const made = await call('createJobs', { body: { jobs: list } });
      const old = made.filter((j) => j.state === 'done').length;
      say(
        old === made.length
          ? 'All of it was baked before: the files are below.'
          : `${made.length === 1 ? 'A bake is' : `${made.length} bakes are`} in the queue. You can go on, or close this page.`,
      );
    } catch (e) {
      sayTrouble(e instanceof CallError ? `${e.message} ${e.remedy}` : sentenceOf(e));
    } finally {
      setBusy(false);
    }
  };
  /** The takes, shots and characters that are chosen beside this shot. */
  const requests = async (): Promise<BakeJob[]> => {
    const like = kept
      .filter((t) => takes.includes(t.id))
      .map((t): Shot => ({ ...asTaken(shot, t), name: `${shot.name}, ${t.name}`.slice(0, 200) }));
    for (const one of shots) like.push((await call('getShot', { params: { id: one } })).shot);
    return [
      ...like.map((other) => requestFor(shot, other, choices, characters)),
      ...alike.filter((c) => figures.includes(c.hash)).map((c) => requestOn(shot, c, choices)),
    ];
  };
  const count = 1 + takes.length + shots.length + figures.length;
  return (
    <section aria-label="Queue">
      <button
        className="soft"
        disabled={busy || plan.formats.length === 0}
        title="Baked beside this page: it can be closed meanwhile"
        onClick={() => void send()}
      >
        {count === 1 ? 'Put in the queue' : `Put ${count} in the queue`}
      </button>
      {kept.length + rest.length + alike.length > 0 && (
        <details>
          <summary>with takes, other shots and characters</summary>
          <div className="checks">
            {kept.map((t) => (
              <Pick key={t.id} list={takes} one={t.id} onSet={setTakes} label={`take ${t.name}`} />
            ))}
            {rest.map((s) => (
              <Pick key={s.id} list={shots} one={s.id} onSet={setShots} label={s.name} />
            ))}
            {alike.map((c) => (
              <Pick
                key={c.hash}
                list={figures}
                one={c.hash}
                onSet={setFigures}
                label={`on ${c.fileName}`}
                says="This set-up on joints of the same names, on all its clips"
              />
            ))}
          </div>
        </details>
      )}
      <Jobs />
    </section>
  );
}

/** A shot with everything moving that a bake has muted. */
const allMoving = (shot: Shot): Shot =>
  unmuted(
    shot,
    bakeable(shot).map((p) => p.id),
  );

/** The choices made for a shot, for another shot or for a take of it. */
function requestFor(
  shot: Shot,
  other: Shot,
  choices: Choices,
  characters: readonly CharacterSummary[],
): BakeJob {
  const moving = allMoving(other);
  const { clips } = choices;
  const of = characters.find((c) => c.hash === other.character.hash);
  // All clips stay all of them, whatever the character; a choice of some is this character's own.
  const all =
    clips && (of?.hash !== shot.character.hash || clips.length === of.clips.length)
      ? (of?.clips.map((_, k) => k) ?? null)
      : clips;
  // A name of one's own holds for many clips, with {clip} in it; a single one is named after its clip.
  const usual = defaultBake(moving);
  const { into = usual.into, lead = usual.lead } = choices.bake;
  const name = (all && choices.bake.name) || usual.name;
  return {
    shot: moving,
    plan: mutable(planOf(moving, { ...choices, clips: all }, { ...usual, into, lead, name })),
  };
}

/**
 * The same set-up on another character, on joints of like names, all its clips. What belongs to frames stays behind.
 */
function requestOn(shot: Shot, { hash, fileName, clips }: CharacterSummary, choices: Choices): BakeJob {
  const moving = allMoving(shot);
  const parts = Object.fromEntries(
    Object.entries(moving.parts).map(([k, p]) => [k, { ...p, keys: {}, anchors: [], pulls: [] }]),
  );
  const other: Shot = {
    ...{ ...moving, parts, clip: null, takes: {} },
    character: { ...moving.character, hash, fileName },
    refine: { muted: false, steps: [], seen: {} },
    name: `${shot.name} on ${fileName}`.slice(0, 200),
  };
  const all = { ...choices, clips: clips.map((_, k) => k) };
  return {
    shot: other,
    plan: mutable(planOf(other, all, { ...defaultBake(other), ...choices.bake, parts: null, joints: null })),
  };
}

/** One of what can be put in the queue too. */
function Pick({
  list,
  one,
  label,
  says,
  onSet,
}: {
  list: readonly string[];
  one: string;
  label: string;
  says?: string;
  onSet: (list: readonly string[]) => void;
}) {
  const chosen = list.includes(one);
  return (
    <label title={says}>
      <input
        type="checkbox"
        checked={chosen}
        onChange={() => onSet(chosen ? list.filter((x) => x !== one) : [...list, one])}
      />
      {label}
    </label>
  );
}

const ENDINGS: Readonly<Record<string, string>> = {
  ...LABELS,
  webm: 'WebM',
  zip: 'Pictures, zipped',
  png: 'Contact sheet',
};

const STATES: Record<Job['state'], string> = {
  waiting: 'waits',
  running: 'baking',
  done: 'ready',
  failed: 'failed',
  cancelled: 'cancelled',
};

/** What is in the queue, and what came of it. */
function Jobs() {
  const { jobs, trouble } = useJobs();
  return (
    <>
      {trouble && <p className="trouble">{trouble}</p>}
      {jobs.length > 0 && (
        <ul className="jobs" aria-label="Jobs">
          {jobs.map((job) => (
            <JobRow key={job.id} job={job} />
          ))}
        </ul>
      )}
    </>
  );
}

function JobRow({ job }: { job: Job }) {
  const [gone, setGone] = useState(false);
  const does = (what: 'cancelJob' | 'retryJob' | 'deleteJob') =>
    call(what, { params: { id: job.id }, ...(what === 'deleteJob' ? {} : { body: {} }) })
      .then(() => setGone(what === 'deleteJob'))
      .catch((e: unknown) => sayTrouble(e instanceof CallError ? e.message : String(e)));
  const { id, state, result } = job;
  if (gone) return null;
  const off = result?.checks.filter((c) => !c.fine) ?? [];
  const fine = result !== null && off.length === 0 && result.faults.length === 0;
  return (
    <li data-state={state}>
      <div className="job-line">
        <b title={job.title}>{job.title}</b>
        <span className="muted">
          {state === 'running'
            ? `${Math.round(100 * job.progress)} %`
            : state === 'done' && !fine
              ? 'not as it should be'
              : result && result.checks.length > 0
                ? `${STATES[state]}, ${result.checks.length} ${result.checks.length === 1 ? 'check' : 'checks'} passed`
                : STATES[state]}
        </span>
        {(state === 'waiting' || state === 'running') && (
          <button className="mini" onClick={() => void does('cancelJob')}>
            Cancel
          </button>
        )}
        {(state === 'failed' || state === 'cancelled') && (
          <button className="mini" onClick={() => void does('retryJob')}>
            Again
          </button>
        )}
        {state !== 'waiting' && state !== 'running' && (
          <button className="plain" aria-label={`Remove ${job.title}`} onClick={() => void does('deleteJob')}>
            ×
          </button>
        )}
      </div>
      {state === 'running' && (
        <div
          className="progress"
          role="progressbar"
          aria-label={job.title}
          aria-valuenow={Math.round(100 * job.progress)}
        >
          <i style={{ width: `${100 * job.progress}%` }} />
        </div>
      )}
      {job.error && <p className="trouble small">{job.error}</p>}
      {off.map((c) => (
        <p key={`${c.file} ${c.by}`} className="trouble small">
          {c.file} by {c.by}: {troubleIn(c, true)}
        </p>
      ))}
      {result && (
        <div className="job-files">
          {result.files.length > 1 && result.clips.length > 0 && (
            <a href={addressOf('downloadJobFile', { params: { id, name: 'all.zip' } })} download>
              all {result.files.length} as zip
            </a>
          )}
          {result.files.slice(0, 6).map((f) => (
            <a
              key={f.name}
              title={`${f.name}: ${f.clips.join(', ')}`}
              href={addressOf('downloadJobFile', { params: { id, name: f.name } })}
              download={f.name}
            >
              {ENDINGS[f.format] ?? f.format}
            </a>
          ))}
        </div>
      )}
    </li>
  );
}

/** A plan as the queue takes it. */
export const mutable = (plan: ReturnType<typeof planOf>): BakeJob['plan'] =>
  structuredClone(plan) as BakeJob['plan'];
