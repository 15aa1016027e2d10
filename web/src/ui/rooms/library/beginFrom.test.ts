import type { CharacterSummary, ShotState } from '@oscillum/core/contract';
import { makeShot, type Shot } from '@oscillum/core/shot';
import { describe, expect, it } from 'vitest';
import { beginFrom } from './beginFrom';

const character = (more: Partial<CharacterSummary> = {}): CharacterSummary =>
  ({
    ...{ hash: 'b'.repeat(64), fileName: 'stored.glb', joints: 9, bytes: 1000 },
    unit: { metres: 1, why: 'metres, as its format says' },
    clips: [
      { name: 'Stride', duration: 2 },
      { name: 'Leap', duration: 3 },
    ],
    ...more,
  }) as CharacterSummary;
const file = (name: string, text = '') => new File([text], name);

/** What was uploaded and which shots were asked for. */
function means(answer: CharacterSummary = character()) {
  const uploads: string[] = [];
  const shots: Shot[] = [];
  const told: string[] = [];
  return {
    ...{ uploads, shots, told },
    tell: (text: string) => void told.push(text),
    upload: async (f: File) => (uploads.push(f.name), answer),
    createShot: async (shot: Shot) => (shots.push(shot), { id: 's1' } as unknown as ShotState),
  };
}

describe('beginning a shot', () => {
  it('from a file uploads it and takes its first clip, under the name the file has now', async () => {
    const m = means();
    await beginFrom(file('brindle.v2.glb'), m);
    expect(m.uploads).toEqual(['brindle.v2.glb']);
    expect(m.shots[0]).toMatchObject({
      name: 'brindle.v2, Stride',
      clip: { index: 0, name: 'Stride' },
      character: { hash: 'b'.repeat(64), fileName: 'brindle.v2.glb', metresPerUnit: 1 },
    });
  });

  it('with a character of the library uploads nothing', async () => {
    const m = means();
    await beginFrom(character(), m);
    expect(m.uploads).toEqual([]);
    expect(m.shots[0]!.name).toBe('stored, Stride');
  });

  it('takes a BVH file in the unit that its size tells, and says so', async () => {
    const m = means(
      character({ unit: { metres: 0.001, why: 'millimetres, by a figure 1700 units across' } }),
    );
    await beginFrom(file('walk.BVH'), m);
    expect(m.shots[0]!.character.metresPerUnit).toBe(0.001);
    expect(m.told[0]).toMatch(/^walk.BVH is taken to be in millimetres, by a figure/);
  });

  it('without a clip has none, and names of any length fit', async () => {
    const m = means(character({ clips: [] }));
    await beginFrom(file(`${'long '.repeat(60)}.glb`), m);
    expect(m.shots[0]!.clip).toBeNull();
    expect(m.shots[0]!.name.length).toBeLessThanOrEqual(200);
  });

  it('from a saved shot makes that shot and uploads nothing', async () => {
    const m = means();
    const shot = makeShot({ name: 'Kept', hash: 'c'.repeat(64), fileName: 'a.glb', clip: null });
    await beginFrom(file('kept.json', JSON.stringify(shot)), m);
    expect(m.uploads).toEqual([]);
    expect(m.shots[0]).toEqual(shot);
  });

  it('takes a .gltf by the wrong name for the character it is', async () => {
    const m = means();
    await beginFrom(file('figure.json', '{"asset": {"version": "2.0"}}'), m);
    expect(m.uploads).toEqual(['figure.json']);
  });

  it('says what is wrong with a broken file, by its name, and makes nothing', async () => {
    const m = means();
    await expect(beginFrom(file('broken.json', '{"name": '), m)).rejects.toMatchObject({
      message: 'broken.json is not valid JSON.',
      remedy: expect.stringContaining('Choose a shot saved by Oscillum') as string,
    });
    await expect(beginFrom(file('other.json', '{"name": "x"}'), m)).rejects.toMatchObject({
      message: expect.stringMatching(/^other\.json: /) as string,
    });
    expect(m.shots).toEqual([]);
  });
});
