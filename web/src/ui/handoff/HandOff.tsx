import { useRef, useState } from 'react';
import { checkBake, defaultBake, type BakeOptions } from '@oscillum/core/bake';
import { partsInOrder } from '@oscillum/core/model';
import { addressOf } from '../../api/http';
import { WorkError } from '../../sim/simulation';
import { sentenceOf, setMuted } from '../../state/edits';
import { useAppDispatch, useAppSelector } from '../../state/store';
import { useDesk } from '../common/desk';
import { NumberBox } from '../common/Fields';
import { Panels } from '../common/Panels';
import { say, sayTrouble } from '../common/say';
import { StageView } from '../common/StageView';
import { TimeBar } from '../common/Time';
import { saveFile } from './saveFile';

/** Bake to keyframes and take the file away. */
export function HandOff() {
  return (
    <Panels
      room="hand-off"
      centre={<StageView offers={false} />}
      bottom={
        <div className="lanes">
          <TimeBar />
        </div>
      }
      bottomSize={34}
      right={<BakePanel />}
    />
  );
}

type Bake =
  | { at: 'idle' }
  | { at: 'baking'; share: number; stop: () => void }
  | {
      at: 'ready';
      bytes: Uint8Array<ArrayBuffer>;
      fileName: string;
      parts: string[];
      clip: string;
      frames: number;
    }
  | { at: 'failed'; sentence: string };

function BakePanel() {
  const dispatch = useAppDispatch();
  const { simulation } = useDesk();
  const shot = useAppSelector((s) => s.shot.shot)!;
  const moving = partsInOrder(shot).filter((p) => !p.muted);
  const [left, setLeft] = useState<ReadonlySet<string>>(new Set());
  const [chosen, setChosen] = useState<Partial<BakeOptions>>({});
  const [bake, setBake] = useState<Bake>({ at: 'idle' });
  const [trouble, setTrouble] = useState<string | null>(null);
  const download = useRef<HTMLButtonElement>(null);
  const parts = moving.map((p) => p.id).filter((id) => !left.has(id));
  const options: BakeOptions = { ...defaultBake(shot), ...chosen, parts };
  const set = (values: Partial<BakeOptions>) => {
    setChosen((c) => ({ ...c, ...values }));
    setTrouble(null);
  };
  const stem = shot.character.fileName.replace(/\.[^.]+$/, '');

  const start = async () => {
    try {
      checkBake(shot, options);
      setTrouble(null);
    } catch (e) {
      setTrouble(sentenceOf(e));
      return;
    }
    const job = simulation.bake(shot, options, (share) => setBake({ at: 'baking', share, stop: job.stop }));
    setBake({ at: 'baking', share: 0, stop: job.stop });
    try {
      const bytes = await job.done;
      setBake({
        at: 'ready',
        bytes,
        fileName: `${stem}-baked.glb`,
        parts,
        clip: options.replace ? shot.clip!.name : options.name,
        frames: Math.floor((options.last - options.first) / options.step) + 1,
      });
      requestAnimationFrame(() => download.current?.focus());
    } catch (e) {
      if (!(e instanceof WorkError)) throw e;
      setBake(
        e.trouble.code === 'bake.cancelled' ? { at: 'idle' } : { at: 'failed', sentence: e.trouble.sentence },
      );
      if (e.trouble.code === 'bake.cancelled') say('The bake was cancelled; nothing was written.');
    }
  };
  const muteBaked = (ids: string[], clip: string) => {
    try {
      dispatch(
        setMuted(ids, true, `Muted because its motion was baked into “${clip}”. Unmute to simulate again.`),
      );
      say(
        `${ids.length === 1 ? 'One chain is' : `${ids.length} chains are`} muted, so the baked motion is not doubled.`,
      );
    } catch (e) {
      sayTrouble(sentenceOf(e));
    }
  };
  return (
    <aside className="panel" aria-label="Bake">
      <h2>Bake to keyframes</h2>
      {moving.length === 0 && (
        <p className="notice" style={{ margin: 0 }}>
          {Object.keys(shot.parts).length
            ? 'All chains are muted. Unmute one in Tune to bake it.'
            : 'Nothing moves by simulation yet. Make a chain in Tune first.'}
        </p>
      )}
      <h3>Frames</h3>
      <div className="field">
        <span>From, to</span>
        <span className="pair">
          <NumberBox
            label="First frame to bake"
            whole
            value={options.first}
            onSet={(first) => set({ first })}
          />
          to
          <NumberBox label="Last frame to bake" whole value={options.last} onSet={(last) => set({ last })} />
        </span>
      </div>
      <div className="field">
        <span>A key every</span>
        <span className="pair">
          <NumberBox
            label="A key every so many frames"
            whole
            value={options.step}
            onSet={(step) => set({ step })}
          />
          {options.step === 1 ? 'frame' : 'frames'}
        </span>
      </div>
      <h3>Chains</h3>
      <div className="checks">
        {moving.map((p) => (
          <label key={p.id}>
            <input
              type="checkbox"
              checked={!left.has(p.id)}
              onChange={() =>
                setLeft((l) => {
                  const next = new Set(l);
                  if (!next.delete(p.id)) next.add(p.id);
                  return next;
                })
              }
            />
            {p.name} <span className="muted">{p.joints.length} joints</span>
          </label>
        ))}
      </div>
      <h3>Into</h3>
      <div className="checks">
        <label>
          <input
            type="radio"
            name="into"
            checked={!options.replace}
            onChange={() => set({ replace: false })}
          />{' '}
          a new clip
        </label>
        {!options.replace && (
          <input
            className="soft"
            aria-label="Name of the new clip"
            value={options.name}
            onChange={(e) => set({ name: e.target.value })}
            onKeyDown={(e) => e.stopPropagation()}
          />
        )}
        <label>
          <input
            type="radio"
            name="into"
            disabled={!shot.clip}
            checked={options.replace}
            onChange={() => set({ replace: true })}
          />{' '}
          {shot.clip ? `“${shot.clip.name}”, in its place` : 'its place (there is no clip)'}
        </label>
      </div>
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
            Baking, {Math.round(bake.share * 100)} %{' '}
            <button className="soft" onClick={bake.stop}>
              Cancel
            </button>
          </span>
        </div>
      ) : (
        <button className="press" disabled={parts.length === 0} onClick={() => void start()}>
          Bake
        </button>
      )}
      {bake.at === 'failed' && (
        <p className="notice bad" role="alert">
          {bake.sentence}
        </p>
      )}
      {bake.at === 'ready' && (
        <div
          className="notice"
          style={{ borderLeftColor: 'var(--verdigris)', display: 'flex', flexDirection: 'column', gap: 7 }}
          role="status"
        >
          <b>Ready: {bake.fileName}</b>
          <span className="muted">
            “{bake.clip}”, {bake.frames} frames, {(bake.bytes.length / 1024).toFixed(0)} KiB
          </span>
          <span className="pair" style={{ flexWrap: 'wrap' }}>
            <button
              ref={download}
              className="press"
              onClick={() => saveFile(bake.bytes, bake.fileName, 'model/gltf-binary')}
            >
              Download GLB
            </button>
            {bake.parts.some((id) => shot.parts[id] && !shot.parts[id].muted) && (
              <button
                className="soft"
                title="So that playing the baked clip does not move them twice"
                onClick={() =>
                  muteBaked(
                    bake.parts.filter((id) => shot.parts[id]),
                    bake.clip,
                  )
                }
              >
                Mute what was baked
              </button>
            )}
          </span>
        </div>
      )}
      <h3 style={{ marginTop: 10 }}>Other files</h3>
      <span className="pair" style={{ flexWrap: 'wrap' }}>
        <button
          className="soft"
          onClick={() =>
            saveFile(
              JSON.stringify(shot, null, 1),
              `${shot.name.replace(/[^\w .,-]/g, '')}.shot.json`,
              'application/json',
            )
          }
        >
          Shot as JSON
        </button>
        <a
          className="soft"
          style={{ color: 'inherit', textDecoration: 'none' }}
          href={addressOf('downloadCharacter', { params: { hash: shot.character.hash } })}
          download={shot.character.fileName}
        >
          Character file
        </a>
      </span>
    </aside>
  );
}
