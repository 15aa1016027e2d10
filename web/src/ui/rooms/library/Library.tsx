import { Spotlight } from '@mantine/spotlight';
import { useEffect, useState } from 'react';
import { Link, useNavigate } from 'react-router';
import type { CharacterSummary, ShotSummary } from '@oscillum/core/contract';
import { libraryApi, type Failure } from '../../../api/library';
import { say, sayTrouble } from '../../kit/say';
import { beginFrom } from './beginFrom';
import { useThumbnail } from './thumbnails';

const ACCEPT = '.glb,.gltf,.zip,.bvh,.usda,.json';

/** Begins a shot from a file, or with a character that is here already, and opens it. */
function useBegin() {
  const navigate = useNavigate();
  const [upload] = libraryApi.useUploadMutation();
  const [createShot] = libraryApi.useCreateShotMutation();
  const [busy, setBusy] = useState<string | null>(null);
  const begin = async (from: File | CharacterSummary) => {
    if (from instanceof File) setBusy(`Reading ${from.name}…`);
    try {
      const made = await beginFrom(from, {
        upload: (f) => upload(f).unwrap(),
        createShot: (s) => createShot(s).unwrap(),
      });
      void navigate(`/shot/${made.id}/prepare`);
    } catch (e) {
      const failure = e as Partial<Failure>;
      sayTrouble(failure.message ? `${failure.message} ${failure.remedy ?? ''}` : String(e));
    } finally {
      setBusy(null);
    }
  };
  return { busy, begin };
}

function DropHere({ busy, begin }: { busy: string | null; begin: (file: File) => Promise<void> }) {
  return (
    <label className="drop">
      <span style={{ flex: 1 }}>
        <b style={{ fontSize: 15 }}>{busy ?? 'Drop a character here to begin a shot'}</b>
        <br />
        <span className="muted">
          glTF 2.0 (a .glb, a .gltf, or a zip with its files), or a skeleton with its motion as .bvh or .usda.
          A shot saved as .json opens too.
        </span>
      </span>
      <span className="soft">Choose a file</span>
      <input
        type="file"
        accept={ACCEPT}
        style={{ position: 'absolute', opacity: 0, width: 1, height: 1 }}
        aria-label="Choose a character file"
        onChange={(e) => e.target.files?.[0] && void begin(e.target.files[0])}
      />
    </label>
  );
}

/** All shots and characters; drop a file anywhere to begin. */
export function Library() {
  const navigate = useNavigate();
  const shots = libraryApi.useShotsQuery(undefined, { refetchOnMountOrArgChange: true });
  const characters = libraryApi.useCharactersQuery(undefined, { refetchOnMountOrArgChange: true });
  const { busy, begin } = useBegin();
  const dropping = useFileDrop((files) => files[0] && void begin(files[0]));
  const failure = (shots.error ?? characters.error) as Failure | undefined;
  return (
    <div className="library">
      <header className="head">
        <span className="mark">Oscillum</span>
        <span className="crumb">Library</span>
      </header>
      {dropping && <div className="dropping">Let go to begin a shot</div>}
      <main>
        <DropHere busy={busy} begin={begin} />
        {failure && (
          <p className="notice bad" role="alert">
            {failure.message} {failure.remedy}{' '}
            <button className="plain" onClick={() => (void shots.refetch(), void characters.refetch())}>
              Try again
            </button>
          </p>
        )}
        <h1 style={{ fontSize: 22, marginTop: 26 }}>Shots</h1>
        <div className="shelf">
          {shots.data?.map((s) => (
            <ShotCard key={s.id} shot={s} />
          ))}
          {shots.data?.length === 0 && (
            <p className="muted">No shots yet. Drop a character file anywhere on this page.</p>
          )}
        </div>
        <h1 style={{ fontSize: 22 }}>Characters</h1>
        <Characters rows={characters.data ?? []} shots={shots.data ?? []} begin={(c) => void begin(c)} />
      </main>
      <Spotlight
        shortcut="mod + K"
        nothingFound="Nothing of that name"
        searchProps={{ placeholder: 'Find a shot', 'aria-label': 'Find anything' }}
        actions={(shots.data ?? []).map((s) => ({
          id: s.id,
          label: s.name,
          description: `${s.characterName}, ${s.clip}`,
          onClick: () => void navigate(`/shot/${s.id}/tune`),
        }))}
      />
    </div>
  );
}

function ShotCard({ shot }: { shot: ShotSummary }) {
  const [rename] = libraryApi.useRenameShotMutation();
  const [duplicate] = libraryApi.useDuplicateShotMutation();
  const [remove] = libraryApi.useDeleteShotMutation();
  const [restore] = libraryApi.useRestoreShotMutation();
  const [typed, setTyped] = useState<string | null>(null);
  const picture = useThumbnail(shot);
  const tell = (e: unknown) => sayTrouble((e as Failure).message ?? String(e));
  const finish = () => {
    if (typed?.trim() && typed.trim() !== shot.name)
      rename({ id: shot.id, revision: shot.revision, from: shot.name, to: typed.trim() })
        .unwrap()
        .catch(tell);
    setTyped(null);
  };
  const take = () =>
    remove(shot.id)
      .unwrap()
      .then(() =>
        say(`“${shot.name}” was deleted.`, {
          label: 'Undo',
          run: () => void restore(shot.id).unwrap().catch(tell),
        }),
      )
      .catch(tell);
  return (
    <article className="card" aria-label={shot.name}>
      <Link className="picture" to={`/shot/${shot.id}/tune`} aria-label={`Open ${shot.name}`} tabIndex={-1}>
        {picture ? <img src={picture} alt="" /> : <span>…</span>}
      </Link>
      <div className="under">
        {typed === null ? (
          <b title={shot.name}>{shot.name}</b>
        ) : (
          <input
            autoFocus
            aria-label="New name"
            value={typed}
            onChange={(e) => setTyped(e.target.value)}
            onBlur={finish}
            onKeyDown={(e) =>
              e.key === 'Enter' ? e.currentTarget.blur() : e.key === 'Escape' && setTyped(null)
            }
          />
        )}
        <span className="muted">
          {shot.clip || 'no clip'} · {shot.frames} frames · {shot.parts} {shot.parts === 1 ? 'part' : 'parts'}
        </span>
        <span className="acts">
          <Link
            className="plain"
            style={{ color: 'var(--verdigris)', textDecoration: 'none', fontSize: 12 }}
            to={`/shot/${shot.id}/tune`}
          >
            Open
          </Link>
          <button className="plain" onClick={() => setTyped(shot.name)}>
            Rename
          </button>
          <button className="plain" onClick={() => void duplicate(shot.id).unwrap().catch(tell)}>
            Duplicate
          </button>
          <button className="plain" onClick={() => void take()}>
            Delete
          </button>
        </span>
      </div>
    </article>
  );
}

function Characters({
  rows,
  shots,
  begin,
}: {
  rows: CharacterSummary[];
  shots: ShotSummary[];
  begin: (c: CharacterSummary) => void;
}) {
  const [remove] = libraryApi.useDeleteCharacterMutation();
  if (rows.length === 0) return <p className="muted">None yet.</p>;
  return (
    <table className="bench">
      <thead>
        <tr>
          <th>File</th>
          <th>Joints</th>
          <th>Clips</th>
          <th>Size</th>
          <th>Shots</th>
          <th style={{ textAlign: 'right' }}>Actions</th>
        </tr>
      </thead>
      <tbody>
        {rows.map((c) => {
          const uses = shots.filter((s) => s.characterHash === c.hash).length;
          return (
            <tr key={c.hash}>
              <td>
                <b>{c.fileName}</b>
              </td>
              <td>{c.joints}</td>
              <td>{c.clips.map((k) => k.name).join(', ') || 'none'}</td>
              <td>{(c.bytes / 1024).toFixed(0)} KiB</td>
              <td>{uses}</td>
              <td style={{ textAlign: 'right' }}>
                <button className="plain" style={{ color: 'var(--verdigris)' }} onClick={() => begin(c)}>
                  New shot
                </button>
                <button
                  className="plain muted"
                  onClick={() =>
                    void remove(c.hash)
                      .unwrap()
                      .catch((e: Failure) => sayTrouble(`${e.message} ${e.remedy}`))
                  }
                >
                  Remove
                </button>
              </td>
            </tr>
          );
        })}
      </tbody>
    </table>
  );
}

/** Files dropped anywhere on the page. */
function useFileDrop(take: (files: File[]) => void): boolean {
  const [over, setOver] = useState(false);
  useEffect(() => {
    const files = (e: DragEvent) => Array.from(e.dataTransfer?.types ?? []).includes('Files');
    const enter = (e: DragEvent) => files(e) && (e.preventDefault(), setOver(true));
    const leave = (e: DragEvent) => e.relatedTarget === null && setOver(false);
    const drop = (e: DragEvent) => {
      if (!files(e)) return;
      e.preventDefault();
      setOver(false);
      take(Array.from(e.dataTransfer!.files));
    };
    const on = [
      ['dragenter', enter],
      ['dragover', enter],
      ['dragleave', leave],
      ['drop', drop],
    ] as const;
    for (const [type, f] of on) window.addEventListener(type, f);
    return () => {
      for (const [type, f] of on) window.removeEventListener(type, f);
    };
  });
  return over;
}
