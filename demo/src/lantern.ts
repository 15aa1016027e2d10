import { only } from './brindleBody';
import type { NamedMesh } from './brindleMeshes';
import type { DemoClip } from './clips';
import { euler, Rig } from './rig';
import { add, curve, ink, mix, Sculpt, smooth, type V3 } from './shape';

/** A night lantern on a rope from a turning arm: the plainest thing to try first. */
export function lanternRig(): Rig {
  const rig = new Rig();
  rig.joint('post', null, [0, 0, 0]);
  rig.joint('arm', 'post', [0, 1.5, 0]);
  rig.row(
    'rope',
    'arm',
    Array.from({ length: 6 }, (_, i): V3 => [0.45, 1.5 - 0.1 * i, 0]),
  );
  rig.joint('lantern', 'rope 6', [0.45, 0.9, 0]);
  return rig;
}

const COLOURS = {
  wood: ink('#8a6a48'),
  hemp: ink('#cdb98c'),
  iron: ink('#3a3d52'),
  glow: ink('#f3c95f'),
};

export function lanternMeshes(rig: Rig): NamedMesh[] {
  return [
    { name: 'frame', sculpt: sculptFrame(rig), thin: false },
    { name: 'rope', sculpt: sculptRope(rig), thin: false },
    { name: 'lantern', sculpt: sculptLantern(rig), thin: false },
  ];
}

function sculptFrame(rig: Rig): Sculpt {
  const { wood, iron } = COLOURS;
  const frame = new Sculpt();
  frame.tube(
    curve(
      [
        [0, 0, 0],
        [0, 0.8, 0],
        [0, 1.62, 0],
      ],
      12,
    ),
    [1, 0, 0],
    (t) => [0.05 - 0.015 * t, 0.05 - 0.015 * t],
    12,
    () => wood,
    only(rig, 'post'),
  );
  frame.tube(
    curve(
      [
        [-0.12, 1.5, 0],
        [0.2, 1.52, 0],
        [0.5, 1.5, 0],
      ],
      10,
    ),
    [0, 1, 0],
    () => [0.024, 0.024],
    10,
    () => wood,
    only(rig, 'arm'),
  );
  frame.ball([0, 0.01, 0], [0.2, 0.04, 0.2], 8, 20, () => mix(wood, iron, 0.3), only(rig, 'post'));
  return frame;
}

function sculptRope(rig: Rig): Sculpt {
  const { hemp } = COLOURS;
  const rope = new Sculpt();
  const rows = [...Array.from({ length: 6 }, (_, i) => rig.index(`rope ${i + 1}`)), rig.index('lantern')];
  rope.tube(
    curve(
      [
        [0.45, 1.5, 0],
        [0.45, 1.2, 0],
        [0.45, 0.9, 0],
      ],
      24,
    ),
    [1, 0, 0],
    () => [0.011, 0.011],
    8,
    () => hemp,
    (t) => {
      const x = Math.min(5.999, t * 6);
      const i = Math.floor(x);
      const k = smooth(x - i);
      return [
        [rows[i]!, 1 - k * 0.5],
        [rows[i + 1]!, k * 0.5],
      ];
    },
  );
  return rope;
}

function sculptLantern(rig: Rig): Sculpt {
  const { iron, glow } = COLOURS;
  const lantern = new Sculpt();
  const c: V3 = [0.45, 0.9, 0];
  lantern.grid(16, 24, true, (v, u) => {
    const a = 2 * Math.PI * u;
    const r =
      v < 0.25
        ? 0.012 + 0.28 * v
        : v < 0.9
          ? 0.07 + 0.012 * Math.sin(((v - 0.25) / 0.65) * Math.PI)
          : 0.075 - 0.5 * (v - 0.9);
    return {
      p: add(c, [r * Math.sin(a), 0.01 - 0.24 * v, r * Math.cos(a)]),
      colour: v < 0.28 || v > 0.86 ? iron : glow,
      weights: [[rig.index('lantern'), 1]],
    };
  });
  return lantern;
}

/** The arm swings to one side and back, with stops. */
export function lanternClips(): DemoClip[] {
  return [
    {
      name: 'Swing round',
      loops: false,
      keys: Array.from({ length: 121 }, (_, f) => ({
        turns: {
          arm: euler(70 * smooth((f - 8) / 10) - 110 * smooth((f - 48) / 12) + 40 * smooth((f - 92) / 10)),
        },
        root: [0, 0, 0] as V3,
        hips: [0, 0, 0] as V3,
      })),
    },
  ];
}
