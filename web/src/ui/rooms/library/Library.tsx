import { Spotlight } from '@mantine/spotlight';
import { useDeferredValue, useEffect, useState } from 'react';
import { useNavigate } from 'react-router';
import type { CharacterSummary, ShotsAsked } from '@oscillum/core/contract';
import { libraryApi, type Failure } from '../../../api/library';
import { say, sayTrouble } from '../../kit/say';
import { beginFrom } from './beginFrom';
import { pageOf, Shelf } from './Shelf';

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
        tell: say,
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
  const [search, setSearch] = useState('');
  const [sort, setSort] = useState<ShotsAsked['sort']>('changed');
  const asked = { search: useDeferredValue(search), sort };
  const shots = libraryApi.useShotsQuery(pageOf(asked, 0), { refetchOnMountOrArgChange: true });
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
        <ShelfHead
          search={search}
          sort={sort}
          total={shots.data?.total ?? null}
          onSearch={setSearch}
          onSort={setSort}
        />
        <Shelf asked={asked} total={shots.data?.total ?? 0} />
        {shots.data?.total === 0 && (
          <p className="muted">
            {search
              ? 'No shot has all these words in its name, character or clip.'
              : 'No shots yet. Drop a character file anywhere on this page.'}
          </p>
        )}
        <h1 style={{ fontSize: 22 }}>Characters</h1>
        <Characters rows={characters.data ?? []} begin={(c) => void begin(c)} />
      </main>
      <FindShot />
    </div>
  );
}

/** Search and order of the shots, and how many there are. */
function ShelfHead({
  search,
  sort,
  total,
  onSearch,
  onSort,
}: {
  search: string;
  sort: ShotsAsked['sort'];
  total: number | null;
  onSearch: (text: string) => void;
  onSort: (sort: ShotsAsked['sort']) => void;
}) {
  return (
    <div className="shelf-head">
      <h1>Shots</h1>
      <span className="muted">{total ?? ''}</span>
      <input
        type="search"
        placeholder="Search shots"
        aria-label="Search shots"
        value={search}
        maxLength={200}
        onChange={(e) => onSearch(e.target.value)}
      />
      <select
        aria-label="Order of the shots"
        value={sort}
        onChange={(e) => onSort(e.target.value as ShotsAsked['sort'])}
      >
        <option value="changed">last changed first</option>
        <option value="name">by name</option>
        <option value="character">by character</option>
      </select>
    </div>
  );
}

/** Any shot by a word of its name, its character or its clip. */
function FindShot() {
  const navigate = useNavigate();
  const [query, setQuery] = useState('');
  const { data } = libraryApi.useShotsQuery({ search: useDeferredValue(query), count: 20 });
  return (
    <Spotlight
      shortcut="mod + K"
      nothingFound="Nothing of that name"
      query={query}
      onQueryChange={setQuery}
      // The server has looked already.
      filter={(_, actions) => actions}
      searchProps={{ placeholder: 'Find a shot', 'aria-label': 'Find anything' }}
      actions={(data?.shots ?? []).map((s) => ({
        id: s.id,
        label: s.name,
        description: `${s.characterName}, ${s.clip}`,
        onClick: () => void navigate(`/shot/${s.id}/tune`),
      }))}
    />
  );
}

function Characters({ rows, begin }: { rows: CharacterSummary[]; begin: (c: CharacterSummary) => void }) {
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
          return (
            <tr key={c.hash}>
              <td>
                <b>{c.fileName}</b>
              </td>
              <td>{c.joints}</td>
              <td>{c.clips.map((k) => k.name).join(', ') || 'none'}</td>
              <td>{(c.bytes / 1024).toFixed(0)} KiB</td>
              <td>{c.shots}</td>
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
