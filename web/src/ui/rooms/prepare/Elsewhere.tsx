import { useState } from 'react';
import { Link } from 'react-router';
import { libraryApi } from '../../../api/library';
import { call } from '../../../api/http';
import { Simulation } from '../../../sim/simulation';
import { carryTo } from '@oscillum/core/simulate';
import { selectShot, useAppSelector } from '../../../state/store';
import { useDesk } from '../../kit/desk';
import { sentenceOfAny } from '../../kit/say';
import { ChoiceRow } from '../../kit/Rows';

/** The same parts on another clip, or on another character with joints of the same names: a shot of its own. */
export function Elsewhere() {
  const { character } = useDesk();
  const shot = useAppSelector(selectShot)!;
  const { data: characters = [] } = libraryApi.useCharactersQuery();
  const [createShot] = libraryApi.useCreateShotMutation();
  const [hash, setHash] = useState<string>(shot.character.hash);
  const [clip, setClip] = useState('');
  const [busy, setBusy] = useState(false);
  const [trouble, setTrouble] = useState('');
  const [made, setMade] = useState<MadeShot | null>(null);
  if (Object.keys(shot.parts).length === 0) return null;
  const here = hash === shot.character.hash;
  const clips = here
    ? character.clips.map((c) => c.name)
    : (characters.find((c) => c.hash === hash)?.clips.map((c) => c.name) ?? []);
  const others = characters.filter((c) => c.hash !== shot.character.hash);
  const index = clip === '' ? (here && shot.clip?.index === 0 && clips.length > 1 ? 1 : 0) : Number(clip);
  const make = async () => {
    setBusy(true);
    setTrouble('');
    setMade(null);
    const reader = here ? null : new Simulation(1);
    try {
      const fileName = here ? shot.character.fileName : characters.find((c) => c.hash === hash)!.fileName;
      const target = reader
        ? await reader.open(
            await (await call('downloadCharacter', { params: { hash } })).arrayBuffer(),
            fileName,
          )
        : character;
      const { shot: next, missed } = carryTo(shot, target, { hash, fileName }, index, character);
      const { id } = await createShot(next).unwrap();
      setMade({ id, name: next.name, missed });
    } catch (e) {
      setTrouble(sentenceOfAny(e));
    } finally {
      reader?.close();
      setBusy(false);
    }
  };
  return (
    <>
      <h3>The same parts elsewhere</h3>
      <ChoiceRow
        label="Character"
        value={hash}
        choices={[[shot.character.hash, 'this one'], ...others.map((c) => [c.hash, c.fileName] as const)]}
        onSet={(v) => {
          setHash(v);
          setClip('');
        }}
      />
      {clips.length > 0 && (
        <ChoiceRow
          label="Clip to take"
          value={String(index)}
          choices={clips.map((name, i) => [String(i), name] as const)}
          onSet={setClip}
        />
      )}
      <div className="presses">
        <button className="soft" disabled={busy} onClick={() => void make()}>
          {busy ? 'Working…' : 'Make that shot'}
        </button>
      </div>
      {made && <Made made={made} />}
      {trouble && (
        <p className="trouble" role="alert">
          {trouble}
        </p>
      )}
    </>
  );
}

interface MadeShot {
  readonly id: string;
  readonly name: string;
  readonly missed: readonly string[];
}

/** The shot that was made, and what was left out of it. */
function Made({ made }: { made: MadeShot }) {
  return (
    <div className="notice small" role="status">
      Made <Link to={`/shot/${made.id}/tune`}>{made.name}</Link>.{' '}
      {made.missed.length === 0
        ? 'Everything found its like.'
        : 'Left out, for there is nothing like it there:'}
      {made.missed.length > 0 && (
        <ul>
          {made.missed.map((m) => (
            <li key={m}>{m}</li>
          ))}
        </ul>
      )}
    </div>
  );
}
