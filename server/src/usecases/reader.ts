import { readFile } from 'node:fs/promises';
import { unitFrom } from '@oscillum/core/character';
import { loadMeshopt, readGltf } from '@oscillum/core/gltf';
import { OscillumError } from '@oscillum/core/model';
import type { Answer, Fault, Found, Question } from './readCharacter';

/** A process that reads one character file after another, so that a big or hostile one holds up nobody else. */
process.on('message', ({ path, fileName }: Question) => {
  void read(path, fileName).then(
    (found) => process.send!({ found } satisfies Answer),
    (e: unknown) => process.send!({ fault: plain(e) } satisfies Answer),
  );
});
process.on('disconnect', () => process.exit(0));

async function read(path: string, fileName: string): Promise<Found> {
  const character = readGltf(
    new Uint8Array(await readFile(path)),
    fileName,
    { meshopt: await loadMeshopt() },
    { skeletonOnly: true },
  );
  return {
    joints: character.joints.length,
    clips: character.clips.map(({ name, duration }) => ({ name, duration })),
    unit: unitFrom(fileName, character),
  };
}

/** A failure as it can be sent to another process. */
function plain(e: unknown): Fault {
  if (e instanceof OscillumError)
    return { code: e.code, message: e.message, place: e.place, remedy: e.remedy };
  return {
    code: null,
    message: e instanceof Error ? (e.stack ?? e.message) : String(e),
    place: '',
    remedy: '',
  };
}
