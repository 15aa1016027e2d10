import { mulberry32 } from '../src/math/index';
import { Collider, Force } from '../src/model/index';
import { asChain, CHAIN_SETTING_KEYS, CHAIN_SETTINGS } from '../src/parts/chain/shared';
import { editShot, type Shot } from '../src/shot/index';
import type { Frames } from '../src/frames/index';
import { simulateAll } from '../src/simulate/index';
import type { Character } from '../src/character/index';
import { makeRow, rowShot } from './rig';
import { atMost, type TruthRow } from './row';

type Pick = <T>(...of: readonly T[]) => T;

/** Colliders and forces round a row of joints of a length. */
function surround(d: Shot, random: () => number, pick: Pick, length: number): void {
  const near = () => [
    (random() - 0.5) * 2 * length,
    (random() - 0.7) * 2 * length,
    (random() - 0.5) * length,
  ];
  for (let k = Math.floor(random() * 3); k > 0; k--) {
    const id = `c${k}`;
    const shape = pick<{ kind: string; [key: string]: unknown }>(
      { kind: 'sphere', radius: 0.3 * length },
      { kind: 'capsule', radius: 0.1 * length, length: 0.5 * length },
      { kind: 'box', size: [0.3 * length, 0.2 * length, 0.4 * length] },
      { kind: 'ground' },
    );
    d.colliders[id] = Collider.parse({
      id,
      name: id,
      t: near(),
      shape,
      free: shape.kind !== 'ground' && random() < 0.3 ? { mass: 10 ** (random() * 3 - 2) } : null,
      bounce: random() * 0.9,
      friction: random(),
    });
  }
  if (random() < 0.3)
    d.forces.w = Force.parse({
      id: 'w',
      name: 'w',
      ...pick<object>(
        { kind: 'wind', direction: [1, 0, 0.3], speed: random() * 20 },
        { kind: 'burst', frame: 2, t: near(), radius: 2 * length },
        { kind: 'attractor', t: near(), radius: 2 * length, strength: random() * 20 },
      ),
    });
}

/** A random valid shot, from tame to absurd, and what a tip in it may at most do. */
export function randomShot(seed: number): {
  character: Character;
  shot: Shot;
  still: boolean;
  length: number;
} {
  const random = mulberry32(seed);
  const pick: Pick = (...of) => of[Math.floor(random() * of.length)]!;
  const links = 1 + Math.floor(random() * 14);
  const length = 10 ** (random() * 2 - 1.5);
  const still = random() < 0.3;
  const speed = still ? 0 : random() * 15;
  const jump = !still && random() < 0.15 ? 3 * length : 0;
  const character = makeRow(
    links,
    length,
    0.4,
    (t) => ({ place: [t > 0.2 ? jump : 0, still ? 0 : length * Math.sin(speed * t), 0], turn: speed * t }),
    { curl: random() * 0.6, direction: pick([0, -1, 0], [1, 0, 0], [0, 1, 0], [0.6, 0, 0.8]) },
  );
  const settings = Object.fromEntries(
    CHAIN_SETTING_KEYS.filter(() => random() < 0.5).map((k) => {
      const s = CHAIN_SETTINGS[k];
      const [lo, hi] = random() < 0.8 ? [s.sliderMin, s.sliderMax] : [s.min, s.max];
      const value = lo + random() * (hi - lo);
      return [k, k === 'thickness' || k === 'rootSlide' ? random() * 0.05 * length : value];
    }),
  );
  if (still && random() < 0.5) settings.gravity = 0;
  const base = rowShot(character, settings, {
    fps: pick(12, 24, 30, 60, 120),
    substeps: 1 + Math.floor(random() * 10),
    preRoll: Math.floor(random() * 4),
  });
  const { shot } = editShot(base, 'random-01', 'Change', (d) => {
    const part = asChain(d.parts.p);
    d.start = pick('wait', 'run up');
    if (random() < 0.3)
      part.profiles = {
        hold: [
          [0, 2],
          [1, random()],
        ],
        weight: [
          [0, 1],
          [1, random() * 8],
        ],
      };
    if (random() < 0.2)
      part.keys = {
        hold: [
          { frame: 2, value: random() * 5, kind: pick('stepped', 'linear', 'smooth') },
          { frame: 8, value: random() * 5, kind: 'linear' },
        ],
      };
    part.staysInPlane = pick('none', 'none', 'none', 'x', 'z');
    surround(d, random, pick, length);
  });
  return { character, shot, still, length };
}

/** What is wrong with a simulated random shot, or ''. */
export function faultOf(run: ReturnType<typeof randomShot>, frames: Frames): string {
  if (!frames.rotations.every(Number.isFinite) || !frames.translations.every(Number.isFinite)) return 'NaN';
  const s = asChain(run.shot.parts.p).settings;
  const reach = run.length * (1 + s.stretch / 100) * 1.001 + s.rootSlide;
  const n = frames.count;
  for (let f = 0; f < n; f++) {
    const root = [0, 1, 2].map((k) => frames.tips[3 * f + k]!);
    // The root goes up and down by one length and may jump by three.
    if (Math.abs(root[1]!) > reach + run.length * 1.01) return `tip ${root.join()} out of reach`;
  }
  const quiet =
    run.still &&
    s.gravity === 0 &&
    Object.keys(run.shot.colliders).length === 0 &&
    Object.keys(run.shot.forces).length === 0 &&
    s.angleLimit === 180;
  if (quiet && frames.tipOffSource.some((x) => x > 1e-3 * run.length)) return 'moves by itself';
  return '';
}

/** 20: random valid shots give no NaN, stay within reach and do not move by themselves. */
export function randomShots(quick: boolean): TruthRow[] {
  const count = quick ? 2_000 : 10_000;
  let failed = 0;
  for (let seed = 1; seed <= count; seed++) {
    const run = randomShot(seed);
    if (faultOf(run, simulateAll(run.character, run.shot)) !== '') failed++;
  }
  return [atMost(20, `${count} random valid shots: NaN, out of reach or moving by themselves`, failed, 0)];
}
