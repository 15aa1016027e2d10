import type { Character, Clip } from '@oscillum/core/character';
import { emptyFrames, type Frames } from '@oscillum/core/frames';
import { makeShot, type Shot } from '@oscillum/core/shot';
import { describe, expect, it } from 'vitest';
import { NOTHING, type Picture } from '../sim/picture';
import { FigurePose } from './pose';

const node = (name: string, parent: number, t: number[], mesh = -1) => ({
  ...{ name, parent, children: parent < 0 ? [1] : [], mesh, skin: -1 },
  t: Float64Array.from(t),
  r: Float64Array.of(0, 0, 0, 1),
  s: Float64Array.of(1, 1, 1),
});
/** Over a second the root goes 2 m along x, and the morph weight from 0 to 1. */
const clip: Clip = {
  ...{ name: 'slide', duration: 1, over: null },
  channels: [
    {
      ...{ node: 0, path: 'translation', interpolation: 'LINEAR', times: Float64Array.of(0, 1) },
      values: Float64Array.of(0, 0, 0, 2, 0, 0),
    },
    {
      ...{ node: 1, path: 'weights', interpolation: 'LINEAR', times: Float64Array.of(0, 1) },
      values: Float64Array.of(0, 1),
    },
  ],
};
const character: Character = {
  name: 'slider',
  nodes: [node('root', -1, [0, 0, 0]), node('tip', 0, [0, 1, 0], 0)],
  order: Int32Array.of(0, 1),
  joints: Int32Array.of(0, 1),
  meshes: [{ name: 'bead', primitives: [], weights: Float64Array.of(0) }],
  ...{ skins: [], clips: [clip], materials: [], images: [], notes: [] },
};
const base = makeShot({
  ...{ name: 'T', hash: '0'.repeat(64), fileName: 't.glb' },
  clip: { index: 0, name: 'slide', duration: 1 },
});
const shot: Shot = { ...base, fps: 10, range: { first: 0, last: 10 } };

/** Frames in which the tip is turned ever more about z, its weight falls, and a vertex goes along z. */
function framesTo(done: number): Frames {
  const span = (length: number) => ({ from: 0, length });
  const frames = emptyFrames({
    ...{
      first: 0,
      count: 11,
      joints: Int32Array.of(1),
      scaled: Int32Array.of(1),
      readoutNames: [],
      colliders: [],
    },
    morphs: [{ node: 1, target: 0 }],
    pointed: [{ node: 1, vertices: 1 }],
    parts: [
      {
        ...{
          partId: 'p',
          joints: span(1),
          scaled: span(1),
          morphs: span(1),
          points: span(1),
          readouts: span(0),
        },
        paths: Uint8Array.of(1),
      },
    ],
  });
  for (let f = 0; f < done; f++) {
    frames.rotations.set([0, 0, Math.sin(0.05 * f), Math.cos(0.05 * f)], 4 * f);
    frames.translations.set([0, 1 + f, 0], 3 * f);
    frames.scales.set([1, 1 + f, 1], 3 * f);
    frames.weights[f] = 1 - f / 10;
    frames.points.set([0, 0, f], 3 * f);
  }
  frames.done = done;
  return frames;
}
const picture = (frames: Frames | null): Picture => ({ ...NOTHING, frames });
const place = (world: Float64Array, n: number) => [...world.subarray(16 * n + 12, 16 * n + 15)];

describe('the pose of a figure on the stage', () => {
  it('is the clip’s own where nothing is simulated yet', () => {
    const posed = new FigurePose(character).show(shot, picture(null), 5);
    expect(place(posed.source, 1)).toEqual([1, 1, 0]);
    expect(place(posed.simulated, 1)).toEqual([1, 1, 0]);
    expect(posed.morphs.get(1)![0]).toBeCloseTo(0.5, 12);
    expect(posed.points.size).toBe(0);
    expect(posed.fresh).toBe(false);
  });

  it('is what the frames hold: turns, places, scales, weights and vertices; the source stands beside it', () => {
    const posed = new FigurePose(character).show(shot, picture(framesTo(11)), 4);
    expect(place(posed.source, 1)[1]).toBe(1);
    expect(place(posed.simulated, 1)[1]).toBe(5);
    expect(posed.simulated[16 + 5]).toBeCloseTo(5 * Math.cos(0.4), 9);
    expect(posed.morphs.get(1)![0]).toBeCloseTo(0.6, 9);
    expect([...posed.points.get(1)!]).toEqual([0, 0, 4]);
    expect(posed.fresh).toBe(true);
  });

  it('goes evenly from frame to frame while it plays slowly, along the shorter arc', () => {
    const posed = new FigurePose(character).show(shot, picture(framesTo(11)), 4.5);
    expect(place(posed.simulated, 1)[1]).toBeCloseTo(5.5, 9);
    expect(posed.morphs.get(1)![0]).toBeCloseTo(0.55, 9);
    expect([...posed.points.get(1)!]).toEqual([0, 0, 4.5]);
    expect(Math.atan2(posed.simulated[16 + 1]!, posed.simulated[16]!)).toBeCloseTo(0.45, 9);
  });

  it('adds how far picked vertices are off their skin, as many times as is asked', () => {
    const bead = {
      ...{ positions: Float32Array.of(0, 0, 1, 0, 0, 2), normals: null, uvs: null, colours: null },
      ...{ joints: null, weights: null, indices: Uint32Array.of(0, 1, 0), material: -1 },
      lines: new Uint32Array(0),
      targets: [Float32Array.of(0, 0, 10, 0, 0, 0)],
    };
    const solid: Character = { ...character, meshes: [{ ...character.meshes[0]!, primitives: [bead] }] };
    const plain = framesTo(11);
    const frames: Frames = { ...plain, pointed: [{ node: 1, vertices: 1, picked: Int32Array.of(1) }] };
    const at = (larger?: number) => [
      ...new FigurePose(solid).show(shot, picture(frames), 4, larger).points.get(1)!,
    ];
    const [once, twice] = [at(), at(2)];
    // The first vertex is morphed alone; of the second the frames say how far it is off.
    expect(twice.slice(0, 3)).toEqual(once.slice(0, 3));
    const off = twice.map((x, k) => x - once[k]!).slice(3);
    off.forEach((x, a) => expect(x).toBeCloseTo([0, 0, 4][a]!, 9));
    const none = new FigurePose(solid).show(shot, picture(null), 4);
    expect(none.points.size).toBe(0);
  });

  it('waits on the last frame that is there, and does not look past the end', () => {
    const figure = new FigurePose(character);
    expect(place(figure.show(shot, picture(framesTo(11)), 10.4).simulated, 1)[1]).toBe(11);
    expect(place(figure.show(shot, picture(framesTo(5)), 4.7).simulated, 1)[1]).toBe(5);
  });

  it('leaves nothing of a frame behind when the next picture has none', () => {
    const figure = new FigurePose(character);
    figure.show(shot, picture(framesTo(11)), 4);
    const posed = figure.show(shot, picture(null), 4);
    expect(place(posed.simulated, 1)).toEqual(place(posed.source, 1));
    expect(posed.points.size).toBe(0);
    expect(posed.morphs.get(1)![0]).toBeCloseTo(0.4, 12);
  });
});
