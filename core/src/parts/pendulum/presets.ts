import type { PendulumPart } from './document';
import { PENDULUM_SETTING_KEYS, type PendulumSettingKey } from './settings';

/** Where to begin with a pendulum: its settings, and the signal it follows when it is drawn. */
export interface PendulumPreset {
  readonly name: string;
  /** When to use it. */
  readonly use: string;
  readonly settings: Readonly<Partial<Record<PendulumSettingKey, number>>>;
  readonly noOvershoot: boolean;
  /** A breath or a sway: seconds of one cycle, and where in it (0 to 1) which value stands. */
  readonly signal: {
    readonly seconds: number;
    readonly points: readonly (readonly [at: number, value: number])[];
  } | null;
}

export const PENDULUM_PRESETS: readonly PendulumPreset[] = [
  {
    name: 'Breathing, calm',
    use: 'At rest: in gently, out a little longer, with a wait before the next breath.',
    settings: { response: 100, frequency: 1.1, damping: 1, frequency2: 0.7, damping2: 1, coupling: 0.2 },
    noOvershoot: true,
    signal: {
      seconds: 4,
      points: [
        [0, 0],
        [0.38, 1],
        [0.8, 0],
        [1, 0],
      ],
    },
  },
  {
    name: 'Breathing after a run',
    use: 'Fast and deep, the chest heaving a little past.',
    settings: { response: 140, frequency: 2.6, damping: 0.7, frequency2: 1.8, damping2: 0.7, coupling: 0.3 },
    noOvershoot: false,
    signal: {
      seconds: 1.1,
      points: [
        [0, 0],
        [0.45, 1],
        [1, 0],
      ],
    },
  },
  {
    name: 'Sway',
    use: 'Standing weight that rocks from side to side and swings on after every stop.',
    settings: {
      response: 100,
      frequency: 0.6,
      damping: 0.25,
      frequency2: 0.45,
      damping2: 0.25,
      coupling: 0.5,
    },
    noOvershoot: false,
    signal: {
      seconds: 3.2,
      points: [
        [0, 0],
        [0.25, 1],
        [0.75, -1],
        [1, 0],
      ],
    },
  },
];

/** Puts a preset on a part, in place; the signal replaces a drawn one only. What is set is no longer keyed. */
export function applyPendulumPreset(part: PendulumPart, preset: PendulumPreset, fps: number): void {
  for (const key of PENDULUM_SETTING_KEYS) {
    const value = preset.settings[key];
    if (value === undefined) continue;
    part.settings[key] = value;
    delete part.keys[key];
  }
  part.noOvershoot = preset.noOvershoot;
  if (part.input.from === 'drawn' && preset.signal) part.input.keys = signalKeys(preset, fps);
}

/** The keys of a preset's signal from frame 0, at least a frame apart. */
export function signalKeys({ signal }: PendulumPreset, fps: number) {
  const frames = Math.max(signal?.points.length ?? 1, Math.round((signal?.seconds ?? 1) * fps));
  return (signal?.points ?? [[0, 0]]).map(([at, value]) => ({
    frame: Math.round(at * frames),
    value,
    kind: 'smooth' as const,
  }));
}
