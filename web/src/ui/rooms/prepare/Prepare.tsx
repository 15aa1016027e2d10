import { questionUnit, rigSize } from '@oscillum/core/character';
import { lengthText } from '@oscillum/core/model';
import { lastFrame } from '@oscillum/core/shot';
import { useMemo, useState } from 'react';
import { keepFeelAt, sentenceOf, setScale, setShot } from '../../../state/edits';
import { selectShot, useAppDispatch, useAppSelector, type Thunk } from '../../../state/store';
import { useDesk } from '../../kit/desk';
import { NumberBox } from '../../kit/Fields';
import { LeftPanel } from '../../desk/LeftPanel';
import { Panels } from '../../desk/Panels';
import { StageView } from '../../desk/StageView';
import { TimeBar } from '../../desk/TimeBar';
import { AddJoints } from './AddJoints';
import { BringMotion } from './BringMotion';
import { Elsewhere } from './Elsewhere';
import { PLAIN_CYCLE } from '../../../state/cycle';
import { AddedMotionList } from '../../desk/AddedMotionList';
import { CycleRows } from '../../desk/CycleRows';

/** Open and look: the character, its clip, its size, and what the file holds. */
export function Prepare() {
  return (
    <Panels
      room="prepare"
      left={<LeftPanel />}
      centre={<StageView offers={false} />}
      bottom={
        <div className="lanes">
          <TimeBar />
        </div>
      }
      bottomSize={34}
      right={<CharacterPanel />}
    />
  );
}

function CharacterPanel() {
  const dispatch = useAppDispatch();
  const shot = useAppSelector(selectShot)!;
  const [trouble, setTrouble] = useState<string | null>(null);
  const run = (thunk: Thunk) => {
    try {
      dispatch(thunk);
      setTrouble(null);
    } catch (e) {
      setTrouble(sentenceOf(e));
    }
  };
  const { fileName } = shot.character;
  return (
    <aside className="panel" aria-label="Character">
      <h2>{fileName}</h2>
      <ClipRows run={run} />
      <CycleRows run={run} />
      <AddedMotionList run={run} />
      <SizeRows run={run} />
      {trouble && (
        <p className="trouble" role="alert">
          {trouble}
        </p>
      )}
      <BringMotion />
      <AddJoints />
      <Elsewhere />
      <InTheFile />
    </aside>
  );
}

/** The clip, its rate and its range. */
function ClipRows({ run }: { run: (t: Thunk) => void }) {
  const { character } = useDesk();
  const shot = useAppSelector(selectShot)!;
  const clip = shot.clip ? character.clips[shot.clip.index] : null;
  const chooseClip = (index: number) => {
    const next = character.clips[index];
    if (!next) return;
    run(
      setShot(`Choose clip ${next.name}`, {
        clip: { index, name: next.name },
        range: { first: 0, last: lastFrame(next.duration, shot.fps) },
        settleFrames: 0,
        cycle: PLAIN_CYCLE,
      }),
    );
  };
  const setFps = (fps: number) =>
    run(
      setShot('Set frames per second', {
        fps,
        ...(clip && fps > 0
          ? { range: { first: 0, last: lastFrame(clip.duration, fps) }, settleFrames: 0, cycle: PLAIN_CYCLE }
          : {}),
      }),
    );
  return (
    <>
      <h3>Clip</h3>
      {character.clips.length === 0 ? (
        <p className="muted">
          This file has no clips; the rest pose stands still. Gravity can still be tuned on it.
        </p>
      ) : (
        <div className="field">
          <label htmlFor="clip">Clip</label>
          <select
            id="clip"
            value={shot.clip?.index ?? -1}
            onChange={(e) => chooseClip(Number(e.target.value))}
          >
            {character.clips.map((c, i) => (
              <option key={i} value={i}>
                {c.name} · {c.duration.toFixed(2)} s
              </option>
            ))}
          </select>
        </div>
      )}
      <div className="field">
        <span>Frames a second</span>
        <NumberBox label="Frames a second" value={shot.fps} onSet={setFps} />
      </div>
      <div className="field">
        <span>Range</span>
        <span className="pair">
          <NumberBox
            label="First frame"
            whole
            value={shot.range.first}
            onSet={(first) => run(setShot('Set range', { range: { ...shot.range, first } }))}
          />
          to
          <NumberBox
            label="Last frame"
            whole
            value={shot.range.last}
            onSet={(last) => run(setShot('Set range', { range: { ...shot.range, last } }))}
          />
        </span>
      </div>
    </>
  );
}

/** How large the character is, and which way is up. */
function SizeRows({ run }: { run: (t: Thunk) => void }) {
  const { character } = useDesk();
  const shot = useAppSelector(selectShot)!;
  const { metresPerUnit, upAxis } = shot.character;
  const rig = useMemo(() => rigSize(character), [character]);
  const size = rig * metresPerUnit;
  const likely = questionUnit(rig, metresPerUnit);
  /** The size at which it had its feel. */
  const [felt, setFelt] = useState(metresPerUnit);
  return (
    <>
      <h3>Size</h3>
      <div className="field">
        <span>One unit is</span>
        <span className="pair">
          <NumberBox
            label="Metres per unit"
            digits={6}
            value={metresPerUnit}
            unit="m"
            onSet={(v) => run(setScale(v))}
          />{' '}
          m
        </span>
      </div>
      <div className="field">
        <label htmlFor="up">Up in the file</label>
        <select
          id="up"
          value={upAxis}
          onChange={(e) =>
            run(setShot('Set up axis', { character: { upAxis: e.target.value as 'Y' | 'Z' } }))
          }
        >
          <option value="Y">Y, as glTF says</option>
          <option value="Z">Z</option>
        </select>
      </div>
      <p className="muted" style={{ margin: 0 }}>
        The rig measures <b style={{ color: 'var(--ink)' }}>{lengthText(size)}</b> across.{' '}
        {likely ? 'That is unusual: gravity would have the wrong weight.' : 'Gravity pulls at that size.'}
      </p>
      {metresPerUnit !== felt && (
        <div className="presses">
          <button
            className="mini"
            title="Gravity, winds and weights go with the size: what moves takes the same shapes at the same times"
            onClick={() => {
              run(keepFeelAt(metresPerUnit / felt));
              setFelt(metresPerUnit);
            }}
          >
            keep the feel at this size
          </button>
          <span className="muted small">{Number((metresPerUnit / felt).toPrecision(3))} times as large</span>
        </div>
      )}
      {likely && (
        <div className="presses">
          <button className="press" onClick={() => run(setScale(likely.metres))}>
            One unit is {likely.name}
          </button>
        </div>
      )}
    </>
  );
}

function InTheFile() {
  const { character } = useDesk();
  const vertices = useMemo(
    () =>
      character.meshes.reduce((n, m) => n + m.primitives.reduce((k, p) => k + p.positions.length / 3, 0), 0),
    [character],
  );
  return (
    <>
      <h3>In the file</h3>
      <dl className="facts">
        <dt>Joints</dt>
        <dd>{character.joints.length}</dd>
        <dt>Skins</dt>
        <dd>{character.skins.length}</dd>
        <dt>Meshes</dt>
        <dd>{character.meshes.length}</dd>
        <dt>Vertices</dt>
        <dd>{vertices.toLocaleString('en')}</dd>
        <dt>Clips</dt>
        <dd>{character.clips.length}</dd>
      </dl>
      {character.notes.length > 0 && (
        <ul className="notes" aria-label="What was found and repaired">
          {character.notes.map((n, i) => (
            <li key={i} data-kind={n.kind}>
              {n.text}
            </li>
          ))}
        </ul>
      )}
    </>
  );
}
