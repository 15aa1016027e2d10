import { Collider } from '../src/model/index';
import { simulateAll } from '../src/simulate/index';
import { boxMesh, ground, middleOf, placesOn, softBodies } from '../test/parcel';
import { atMost, judge, type TruthRow } from './row';

const G = 9.81;
type Own = Parameters<typeof softBodies>[2][string];
type Way = Parameters<typeof softBodies>[1];
type Change = NonNullable<Parameters<typeof softBodies>[3]>;

/** Frames of one box that is a soft body, and its middle on a row. */
function box(
  size: number,
  way: Way,
  own: Own,
  change: Change,
  of: { seconds?: number; fps?: number } = {},
  middle: readonly [number, number, number] = [0, 0, 0],
) {
  const { character, shot } = softBodies(
    { a: boxMesh([size, size, size], 2, middle) },
    way,
    { a: own },
    change,
    of,
  );
  const frames = simulateAll(character, shot);
  return { frames, at: (f: number) => middleOf(placesOn(frames, f)), last: frames.count - 1 };
}

/** 8: the same at ten times the size, in √10 slower time. 9: a body that is carried along, and pushed steadily. */
function carried(): TruthRow[] {
  const sway: Way = (t) => [0.1 * Math.sin(6 * t), 0.3 + 0.1 * Math.cos(9 * t), 0];
  const slow = Math.sqrt(10);
  const own: Own = { cells: 4, settings: { hold: 2, droop: 5, thickness: 0.004 } };
  const one = box(0.3, sway, own, () => undefined, { seconds: 2, fps: 30 });
  const ten = box(
    3,
    (t) => sway(t / slow).map((x) => 10 * x!) as unknown as readonly [number, number, number],
    { ...own, settings: { ...own.settings, hold: 2 / slow, thickness: 0.04 } },
    () => undefined,
    { seconds: 2 * slow, fps: 30 / slow },
  );
  const differs = Math.max(
    ...[20, 40, 60].map((f) => Math.hypot(...one.at(f).map((x, a) => x - ten.at(f)[a]! / 10)) / 0.3),
  );
  const hold = (2 * Math.PI * 3) ** 2;
  const still: Own = { cells: 3, settings: { hold: 3, holdDamping: 1 } };
  const none: Change = (d) => void (d.gravity = [0, 0, 0]);
  const even = box(0.3, (t) => [2 * t, 0, 0], still, none);
  const faster = box(0.3, (t) => [t * t, 0, 0], still, none, { seconds: 2, fps: 60 });
  const behind = ({ at, last }: typeof even, x: number) => x - at(last)[0];
  return [
    atMost(8, 'soft body at ten times the size, √10 slower: its middle differs, share', differs, 0.01),
    atMost(9, 'soft body carried at 2 m/s: behind, share of its size', Math.abs(behind(even, 4)) / 0.3, 1e-3),
    judge(9, 'soft body at 2 m/s²: behind its animation, m', 2 / hold, behind(faster, 4), 0.02, true),
  ];
}

/** 11, 12, 16: what it gives a ball, friction on a slope, and rest. */
function touching(quick: boolean): TruthRow[] {
  const still: Way = () => [0, 1, 0];
  const hit = box(0.3, still, { cells: 4, settings: { hold: 0, density: 0.5, friction: 0.3 } }, (d) => {
    Object.assign(d, { gravity: [0, 0, 0], airDensity: 0 });
    d.colliders.ball = Collider.parse({
      ...{ id: 'ball', name: 'Ball', shape: { kind: 'sphere', radius: 0.1 }, t: [-0.6, 1.05, 0] },
      free: { mass: 2, velocity: [2, 0, 0] },
    });
  });
  const speed = (x: (f: number) => number, last: number) => 24 * (x(last) - x(last - 1));
  const ball = speed((f) => hit.frames.placements[7 * f]!, hit.last);
  const momentum = 2 * ball + 13.5 * speed((f) => hit.at(f)[0], hit.last);
  const tilt = 0.35;
  // Ground, and gravity that is turned.
  const slope = (friction: number) =>
    box(
      0.2,
      () => [0, 0.103, 0],
      { cells: 4, settings: { hold: 0, friction, damping: 0.5, thickness: 0.004 } },
      (d) => {
        d.gravity = [G * Math.sin(tilt), -G * Math.cos(tilt), 0];
        d.colliders.ground = { ...ground(), friction };
      },
    );
  const [stays, slides] = [slope(Math.tan(tilt + 0.0175)), slope(0.1)];
  const along = ({ at }: typeof stays, f: number) => at(f)[0];
  const gains = (s: typeof stays) => (24 / 10) ** 2 * (along(s, 40) - 2 * along(s, 30) + along(s, 20));
  const rests = box(
    0.4,
    () => [0, 0.21, 0],
    { cells: quick ? 6 : 8, settings: { hold: 0, droop: 2 } },
    (d) => void (d.colliders.ground = ground()),
    { seconds: 4 },
  );
  const places = [rests.last - 20, rests.last].map((f) => placesOn(rests.frames, f));
  const creep = Math.max(...places[0]!.map((x, k) => Math.abs(x - places[1]![k]!))) / 20;
  return [
    judge(11, 'ball thrown into a soft body without gravity: momentum, kg m/s', 4, momentum, 0.01, true),
    atMost(
      12,
      'soft body, 1° below the angle of friction: slides, m a frame',
      Math.abs(along(stays, 44) - along(stays, 34)) / 10,
      1e-4,
    ),
    judge(
      12,
      'soft body above it: acceleration down the slope, m/s²',
      G * (Math.sin(tilt) - 0.1 * Math.cos(tilt)),
      gains(slides),
      0.05,
      true,
    ),
    atMost(16, 'soft body at rest on the ground: creep, m a frame', creep, 1e-5),
  ];
}

/** What is measured of soft bodies as parts of shots. */
export const bodyContactRows = (quick: boolean): TruthRow[] => [...carried(), ...touching(quick)];
