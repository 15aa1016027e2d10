import type { CharacterSummary, ShotState } from '@oscillum/core/contract';
import { OscillumError } from '@oscillum/core/model';
import { makeShot, parseShot, type Shot } from '@oscillum/core/shot';
import type { Failure } from '../../../api/library';

interface Means {
  upload: (file: File) => Promise<CharacterSummary>;
  createShot: (shot: Shot) => Promise<ShotState>;
  /** Says something that a person should know. */
  tell: (text: string) => void;
}

/** Begins a shot from a character file, a shot file, or a character in the library. Rejects with a Failure. */
export async function beginFrom(source: File | CharacterSummary, means: Means): Promise<ShotState> {
  if (source instanceof File && /\.json$/i.test(source.name)) {
    const shot = await readShotFile(source);
    if (shot) return means.createShot(shot);
  }
  const character = source instanceof File ? await means.upload(source) : source;
  // The same bytes may be stored under an older name; the name they came by now is the one meant.
  const fileName = source instanceof File ? source.name : character.fileName;
  const clip = character.clips[0];
  if (/\.bvh$/i.test(fileName))
    means.tell(`${fileName} is taken to be in ${character.unit.why}. Prepare says otherwise under Size.`);
  return means.createShot(
    makeShot({
      name: `${fileName.replace(/\.[^.]+$/, '')}${clip ? `, ${clip.name}` : ''}`.slice(0, 200),
      hash: character.hash,
      fileName,
      metresPerUnit: character.unit.metres,
      clip: clip ? { index: 0, name: clip.name.slice(0, 1000), duration: clip.duration } : null,
    }),
  );
}

/** A shot saved as JSON; null when the file is JSON of another kind (it may be a .gltf by the wrong name). */
async function readShotFile(file: File): Promise<Shot | null> {
  try {
    const data = JSON.parse(await file.text()) as { asset?: unknown };
    return data?.asset ? null : parseShot(data);
  } catch (e) {
    const failure: Failure =
      e instanceof OscillumError
        ? { code: e.code, message: `${file.name}: ${e.sentence}`, remedy: '' }
        : {
            code: 'file.invalid',
            message: `${file.name} is not valid JSON.`,
            remedy: 'Choose a shot saved by Oscillum, or a character file.',
          };
    throw failure;
  }
}
