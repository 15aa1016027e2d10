import { Collider } from '../src/model/index';
import { simulateAll } from '../src/simulate/index';
import { boxMesh, ground, middleOf, placesOn, softBodies } from '../test/parcel';
import { atMost, judge, type TruthRow } from './row';

const G = 9.81;

/** 13: how high a parcel comes that falls from 0.5 m: by its own damping, whatever the frame rate and the steps. */
function bounces(): TruthRow[] {
  const top = (fps: number, substeps: number, damping: number) => {
    const { character, shot } = softBodies(
      { a: boxMesh([0.2, 0.2, 0.2], 2, [0, 0.6, 0]) },
      () => [0, 0, 0],
      { a: { cells: 3, settings: { hold: 0, droop: 1, damping, friction: 0 } } },
      (d) => Object.assign(d, { substeps, airDensity: 0, colliders: { ground: ground() } }),
      { seconds: 1.2, fps },
    );
    const frames = simulateAll(character, shot);
    const heights = Array.from({ length: frames.count }, (_, f) => middleOf(placesOn(frames, f))[1] - 0.1);
    return Math.max(...heights.slice(heights.indexOf(Math.min(...heights))));
  };
  const usual = top(60, 4, 0.1);
  return [
    judge(
      13,
      'parcel that bounces, at 30 frames a second as at 60: height, m',
      usual,
      top(30, 4, 0.1),
      0.03,
      true,
    ),
    judge(13, 'the same with 16 substeps: height, m', usual, top(60, 16, 0.1), 0.03, true),
    atMost(13, 'parcel hardly damped: height beyond that it fell from, m', top(60, 4, 0.01) - 0.5, 0),
  ];
}

/** 14: balls at 20 m/s: how far their middles come into a soft body that is held, as a share of its width. */
function thrown(): TruthRow[] {
  return [0.2, 1, 5].map((mass) => {
    const { character, shot } = softBodies(
      { a: boxMesh([0.4, 0.4, 0.4], 3) },
      () => [0, 0, 0],
      { a: { cells: 5, settings: { hold: 8, droop: 2 } } },
      (d) => {
        d.gravity = [0, 0, 0];
        d.colliders.ball = Collider.parse({
          ...{ id: 'ball', name: 'Ball', shape: { kind: 'sphere', radius: 0.12 }, t: [-2, 0, 0] },
          free: { mass, velocity: [20, 0, 0] },
        });
      },
    );
    const frames = simulateAll(character, shot);
    const x = Array.from({ length: frames.count }, (_, f) => frames.placements[7 * f]!);
    const back = x.at(-1)! < -0.3 && frames.points.every(Number.isFinite);
    return atMost(
      14,
      `ball of ${mass} kg at 20 m/s on a soft body: its middle goes in by, of the width`,
      back ? Math.max(0, (Math.max(...x) + 0.2) / 0.4) : Infinity,
      0.5,
    );
  });
}

/** 17: the speed that a box which falls flat comes to, m/s. */
function falls(): TruthRow[] {
  const [size, density, drag, air] = [0.2, 0.01, 4, 1.2];
  const speed = (fps: number) => {
    const { character, shot } = softBodies(
      { a: boxMesh([size, size, size], 2) },
      () => [0, 0, 0],
      { a: { cells: 2, settings: { hold: 0, density, drag, damping: 0.5, droop: 0.05 } } },
      (d) => void (d.airDensity = air),
      { seconds: 3, fps },
    );
    const frames = simulateAll(character, shot);
    const y = (f: number) => middleOf(placesOn(frames, f))[1];
    return (y(frames.count - 2) - y(frames.count - 1)) * fps;
  };
  const wanted = Math.sqrt((2 * 1000 * density * size ** 3 * G) / (air * drag * size * size));
  return [24, 60].map((fps) =>
    judge(
      17,
      `soft box that falls flat at ${fps} frames a second: speed, m/s`,
      wanted,
      speed(fps),
      0.02,
      true,
    ),
  );
}

/** What is measured of soft bodies that go fast. */
export const bodyFastRows = (): TruthRow[] => [...bounces(), ...thrown(), ...falls()];
