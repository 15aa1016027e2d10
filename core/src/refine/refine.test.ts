import { asChain } from '../parts/chain/shared';
import { describe, expect, it } from 'vitest';
import { demoFiles } from '../../../demo/src/index';
import { bakeGlb, defaultBake } from '../bake/index';
import { sampleChannel, type Channel } from '../character/index';
import { eulerFrom, worstError } from '../curves/index';
import { openContainer, readContainer, readGltf } from '../formats/gltf/index';
import { cos, exp, quatAngle, sin } from '../math/index';
import { Refinement, type ChannelRef, type RefineLayer, type RefineTool } from '../model/index';
import { parseShot, type Shot } from '../shot/index';
import {
  channelKey,
  copyKeys,
  denseOf,
  framesOf,
  keysOf,
  layAll,
  layStep,
  mirrorKeys,
  misfits,
  readSlope,
  rememberCurves,
  type Curves,
  type Ground,
} from './index';

const [brindle] = await demoFiles();
const character = readGltf(brindle!.bytes, 'brindle.glb');
const plume = Array.from({ length: 5 }, (_, i) =>
  character.nodes.findIndex((n) => n.name === `plume middle ${i + 1}`),
);
const LAST = 60;
const FPS = 30;
const ref = (node: number, path: ChannelRef['path'] = 'rotation'): ChannelRef => ({
  joint: { node, name: character.nodes[node]!.name },
  path,
});

/** Turns of degrees about z by frame, in front of the rest pose; a key on every frame or on some. */
function turning(node: number, degrees: (f: number) => number, every = 1): Channel {
  const frames = Array.from({ length: Math.floor(LAST / every) + 1 }, (_, k) => k * every);
  return {
    ...{ node, path: 'rotation', interpolation: 'LINEAR' },
    times: Float64Array.from(frames, (f) => f / FPS),
    values: Float64Array.from(
      frames.flatMap((f) => {
        const half = (degrees(f) * Math.PI) / 360;
        return [0, 0, sin(half), cos(half)];
      }),
    ),
  };
}

const ground: Ground = {
  ...{ character, fps: FPS, shift: 0, first: 0, period: null },
  source: () => [0, 0, 0, 1],
};
const curvesFrom = (...list: Channel[]): Curves => new Map(list.map((c) => [channelKey(c.node, c.path), c]));
const stepOf = (does: RefineTool, nodes: readonly number[], more: Partial<Refinement> = {}): Refinement =>
  Refinement.parse({
    ...{ id: 's', name: 'Step', channels: nodes.map((n) => ref(n)), first: 0, last: LAST },
    ...{ ...more, does },
  });
/** Degrees about z at whole frames. */
const degreesOf = (c: Channel): number[] => {
  const all = denseOf(c, 0, LAST + 1, ground);
  return Array.from(
    { length: LAST + 1 },
    (_, f) => (2 * Math.atan2(all[4 * f + 2]!, all[4 * f + 3]!) * 180) / Math.PI,
  );
};
const [joint] = plume as [number];
const laid = (c: Channel, does: RefineTool, more: Partial<Refinement> = {}, g = ground): Channel =>
  layStep(curvesFrom(c), stepOf(does, [c.node], more), g).get(channelKey(c.node, 'rotation'))!;
/** A swing that dies away. */
const swing = (f: number) => 40 * exp(-0.04 * f) * cos(0.5 * f);

describe('shape tools', () => {
  it('smooth makes a curve move less quickly, most inside its span and not at all outside', () => {
    const before = turning(joint, swing);
    const after = laid(before, { tool: 'smooth', amount: 1, width: 3 }, { first: 20, last: 50, ease: 6 });
    const [a, b] = [degreesOf(before), degreesOf(after)];
    const rush = (d: number[], from: number, to: number) =>
      d.slice(from, to).reduce((s, x, i) => s + Math.abs(d[from + i + 1]! - x), 0);
    expect(rush(b, 26, 44)).toBeLessThan(0.5 * rush(a, 26, 44));
    for (const f of [0, 10, 19, 20, 50, 55]) expect(b[f]).toBeCloseTo(a[f]!, 6);
  });

  it('exaggerate doubles the way from the line between its ends, and 0 leaves that line', () => {
    const before = turning(joint, (f) => f / 2 + 10 * sin((f * Math.PI) / 30));
    for (const amount of [2, 0]) {
      const after = degreesOf(laid(before, { tool: 'exaggerate', amount, about: 'line' }));
      after.forEach((d, f) => expect(d).toBeCloseTo(f / 2 + amount * 10 * sin((f * Math.PI) / 30), 3));
    }
  });

  it('exaggerate about the source, and back to it', () => {
    const before = turning(joint, swing);
    const source = turning(joint, () => 10);
    const g = { ...ground, source: () => source.values.subarray(0, 4) };
    const more = degreesOf(laid(before, { tool: 'exaggerate', amount: 1.5, about: 'source' }, {}, g));
    more.forEach((d, f) => expect(d).toBeCloseTo(10 + 1.5 * (swing(f) - 10), 3));
    const back = degreesOf(laid(before, { tool: 'to source', amount: 0.5 }, {}, g));
    back.forEach((d, f) => expect(d).toBeCloseTo((swing(f) + 10) / 2, 3));
  });

  it('settle comes to rest sooner, or swings on, and ends where it ended', () => {
    const before = turning(joint, swing);
    const a = degreesOf(before);
    const late = (d: number[]) => Math.max(...d.slice(25, 55).map((x) => Math.abs(x - a[LAST]!)));
    const sooner = degreesOf(laid(before, { tool: 'settle', amount: 0.5 }));
    const later = degreesOf(laid(before, { tool: 'settle', amount: -0.3 }));
    expect(late(sooner)).toBeLessThan(0.4 * late(a));
    expect(late(later)).toBeGreaterThan(1.5 * late(a));
    for (const d of [sooner, later]) {
      expect(d[0]).toBeCloseTo(a[0]!, 5);
      expect(d[LAST]).toBeCloseTo(a[LAST]!, 5);
    }
  });

  it('later delays each joint by so much more than the one above it', () => {
    const curves = curvesFrom(...plume.map((n) => turning(n, swing)));
    const after = layStep(curves, stepOf({ tool: 'offset', frames: 1.5 }, plume), ground);
    plume.forEach((n, k) => {
      const d = degreesOf(after.get(channelKey(n, 'rotation'))!);
      for (let f = Math.ceil(1.5 * k); f <= LAST; f++) {
        const when = f - 1.5 * k;
        const u = when % 1;
        const exact = (1 - u) * swing(Math.floor(when)) + u * swing(Math.ceil(when));
        expect(d[f]).toBeCloseTo(exact, 3);
      }
    });
  });

  it('later in a loop takes what comes in from the end', () => {
    const before = turning(joint, (f) => 20 * sin((2 * Math.PI * f) / LAST));
    const child = turning(plume[1]!, (f) => 20 * sin((2 * Math.PI * f) / LAST));
    const g = { ...ground, period: LAST };
    const after = layStep(
      curvesFrom(before, child),
      stepOf({ tool: 'offset', frames: 3 }, [joint, plume[1]!]),
      g,
    );
    const d = degreesOf(after.get(channelKey(plume[1]!, 'rotation'))!);
    d.forEach((x, f) => expect(x).toBeCloseTo(20 * sin((2 * Math.PI * (f - 3)) / LAST), 3));
  });

  it('to the pose before or after holds that pose', () => {
    const before = turning(joint, swing);
    const span = { first: 20, last: 40 };
    for (const [pose, f] of [
      ['before', 19],
      ['after', 41],
    ] as const) {
      const d = degreesOf(laid(before, { tool: 'to pose', amount: 1, pose }, span));
      for (let k = 20; k <= 40; k++) expect(d[k]).toBeCloseTo(swing(f), 4);
    }
  });

  it('close loop brings the end to the beginning and leaves the beginning', () => {
    const before = turning(joint, (f) => f / 2);
    const d = degreesOf(laid(before, { tool: 'close loop' }));
    expect(d[LAST]).toBeCloseTo(0, 6);
    expect(d[0]).toBeCloseTo(0, 6);
    expect(d[3]).toBeCloseTo(1.5, 0);
  });

  it('remove jitter takes out what goes to and fro on every frame, and leaves the swing', () => {
    const before = turning(joint, (f) => swing(f) + (f % 2 ? 1 : -1));
    const d = degreesOf(laid(before, { tool: 'remove jitter', amount: 1 }));
    for (let f = 4; f < LAST - 4; f++) expect(Math.abs(d[f]! - swing(f)), `frame ${f}`).toBeLessThan(0.5);
    const smooth = degreesOf(laid(turning(joint, swing), { tool: 'remove jitter', amount: 1 }));
    smooth.forEach((x, f) => expect(Math.abs(x - swing(f))).toBeLessThan(0.4));
  });

  it('a few cubic keys follow a shaped curve as closely as many, with keys put in where they must be', () => {
    const few: Channel = {
      ...turning(joint, swing, 12),
      interpolation: 'CUBICSPLINE',
    };
    const straight = turning(joint, swing, 12);
    const values = new Float64Array(3 * straight.values.length);
    straight.times.forEach((_, k) => values.set(straight.values.subarray(4 * k, 4 * k + 4), 12 * k + 4));
    const cubic = { ...few, values };
    const after = laid(cubic, { tool: 'exaggerate', amount: 2, about: 'line' }, { first: 6, last: 54 });
    const every = { ...turning(joint, () => 0), values: denseOf(cubic, 0, LAST + 1, ground) };
    const exact = laid(every, { tool: 'exaggerate', amount: 2, about: 'line' }, { first: 6, last: 54 });
    expect((worstError(exact, after) * 180) / Math.PI).toBeLessThan(0.5);
    expect(after.times.length).toBeLessThan(LAST / 2);
  });
});

describe('key tools', () => {
  const before = turning(joint, swing, 10);

  it('move takes keys in time and in one Euler angle, and no others', () => {
    const after = laid(before, { tool: 'move', keys: [[20, 30]], frames: 2, component: 2, by: 15 });
    expect(Array.from(framesOf(after, ground), Math.round)).toEqual([0, 10, 22, 32, 40, 50, 60]);
    const d = degreesOf(after);
    expect(d[22]).toBeCloseTo(swing(20) + 15, 4);
    expect(d[32]).toBeCloseTo(swing(30) + 15, 4);
    expect(d[10]).toBeCloseTo(swing(10), 5);
  });

  it('a key moved onto another takes its place', () => {
    const after = laid(before, { tool: 'move', keys: [[20]], frames: 10, component: 2, by: 0 });
    expect(after.times).toHaveLength(before.times.length - 1);
    expect(degreesOf(after)[30]).toBeCloseTo(swing(20), 4);
  });

  it('insert leaves the curve as it was; delete takes keys but the last one', () => {
    const cubic = laid(before, { tool: 'slope', keys: null, kind: 'auto' });
    const more = laid(cubic, { tool: 'insert', frames: [13, 27.5] });
    expect(more.times).toHaveLength(before.times.length + 2);
    expect((worstError(turned(cubic), more) * 180) / Math.PI).toBeLessThan(0.02);
    const less = laid(more, { tool: 'delete', keys: [[13, 27.5]] });
    expect(Array.from(framesOf(less, ground), Math.round)).toEqual([0, 10, 20, 30, 40, 50, 60]);
    expect(laid(before, { tool: 'delete', keys: null }).times).toHaveLength(1);
  });

  it('slopes: flat ones stand still, straight ones go to the neighbours, one by hand is read back', () => {
    const [flat, straight] = (['flat', 'straight'] as const).map((kind) =>
      laid(before, { tool: 'slope', keys: null, kind }),
    ) as [Channel, Channel];
    expect(keysOf(flat, ground)[2]!.slopes!.every((s) => s.every((x) => x === 0))).toBe(true);
    expect((worstError(turned(before), straight) * 180) / Math.PI).toBeLessThan(0.1);
    const after = laid(straight, { tool: 'handle', keys: [[20]], side: 'out', component: 2, slope: 4 });
    const key = keysOf(after, ground)[2]!;
    const { r } = character.nodes[joint]!;
    expect(readSlope(key, 1, 'rotation', r, FPS)[2]).toBeCloseTo(4, 3);
    expect(readSlope(key, 0, 'rotation', r, FPS)[2]).toBeCloseTo(
      readSlope(keysOf(straight, ground)[2]!, 0, 'rotation', r, FPS)[2]!,
      3,
    );
  });

  it('a step that names keys which thinning has taken puts them back first', () => {
    const after = laid(before, { tool: 'move', keys: [[15]], frames: 0, component: 2, by: 8 });
    expect(after.times).toHaveLength(before.times.length + 1);
    expect(degreesOf(after)[15]).toBeCloseTo(degreesOf(before)[15]! + 8, 4);
  });

  it('copied keys are pasted elsewhere, and mirrored to the other side', () => {
    const copied = copyKeys(keysOf(before, ground).slice(1, 3), 10);
    const pasted = laid(before, { tool: 'paste', at: 35, keys: [copied] });
    expect(degreesOf(pasted)[35]).toBeCloseTo(swing(10), 4);
    expect(degreesOf(pasted)[45]).toBeCloseTo(swing(20), 4);
    const [left, right] = ['left', 'right'].map((side) =>
      character.nodes.findIndex((n) => n.name === `lappet ${side} 1`),
    ) as [number, number];
    expect(left).toBeGreaterThan(0);
    const there = mirrorKeys(copied, 'rotation', character, left, right, 1, 'Y');
    const back = mirrorKeys(there, 'rotation', character, right, left, 1, 'Y');
    back.forEach((k, i) => expect(quatAngle(k.value, 0, copied[i]!.value, 0)).toBeLessThan(1e-6));
    // At rest the one side is the other mirrored: Euler angles about the axes in the mirror's plane change sign.
    const rest = [{ after: 0, value: Array.from(character.nodes[left]!.r), slopes: null }];
    const mirrored = mirrorKeys(rest, 'rotation', character, left, right, 1, 'Y')[0]!.value;
    expect(quatAngle(mirrored, 0, character.nodes[right]!.r, 0)).toBeLessThan(1e-3);
  });

  it('values past half a turn stay on the side of the one before: no flips', () => {
    const round = turning(joint, (f) => 12 * f, 5);
    const after = laid(round, { tool: 'move', keys: null, frames: 0, component: 2, by: 170 });
    const { values } = after;
    for (let k = 4; k < values.length; k += 4) {
      let dot = 0;
      for (let i = 0; i < 4; i++) dot += values[k + i]! * values[k - 4 + i]!;
      expect(dot).toBeGreaterThan(0);
    }
    const angles = [0, 0, 170];
    const { r } = character.nodes[joint]!;
    const out = new Float64Array(4);
    for (let f = 0; f <= LAST; f++) {
      const was = angles[2]!;
      sampleChannel(after, 4, f / FPS, out, 0);
      eulerFrom(angles, r, out, 0, angles);
      if (f > 0) expect(Math.abs(angles[2]! - was)).toBeLessThan(30);
    }
  });
});

/** A channel with a key on every frame. */
const turned = (c: Channel): Channel => ({
  ...{ node: c.node, path: c.path, interpolation: 'LINEAR' },
  times: Float64Array.from({ length: LAST + 1 }, (_, f) => f / FPS),
  values: denseOf(c, 0, LAST + 1, ground),
});

describe('a step that cannot be', () => {
  it('is refused: keys for other channels than it has, slopes of other sizes, an end before its beginning', () => {
    const move = { tool: 'move', frames: 0, component: 0, by: 1 } as const;
    expect(() => stepOf({ ...move, keys: [[1], [2]] }, [joint])).toThrow(/as many channels/);
    const odd = {
      after: 0,
      value: [0, 0, 0, 1],
      slopes: [
        [0, 0, 0],
        [0, 0, 0],
      ] as [number[], number[]],
    };
    expect(() => stepOf({ tool: 'paste', at: 0, keys: [[odd]] }, [joint])).toThrow(/as many numbers/);
    expect(() => stepOf({ ...move, keys: null }, [joint], { first: 9, last: 3 })).toThrow(/before it begins/);
  });
});

describe('the layer', () => {
  const soften = stepOf({ tool: 'smooth', amount: 1, width: 2 }, [joint], { first: 20, last: 40 });

  it('is laid step by step, without what is muted, and leaves other curves alone', () => {
    const other = turning(plume[1]!, swing);
    const curves = curvesFrom(turning(joint, swing), other);
    const layer: RefineLayer = { muted: false, seen: {}, steps: [soften, { ...soften, id: 't' }] };
    const both = layAll(curves, layer, ground);
    const one = layAll(curves, { ...layer, steps: [soften, { ...soften, id: 't', muted: true }] }, ground);
    expect(one).toEqual(layStep(curves, soften, ground));
    expect(both).toEqual(layStep(one, soften, ground));
    expect(both.get(channelKey(plume[1]!, 'rotation'))).toBe(other);
    expect(layAll(curves, { ...layer, muted: true }, ground)).toBe(curves);
  });

  it('says on which frames a bake that has changed no longer fits', () => {
    const curves = curvesFrom(turning(joint, swing));
    const seen = rememberCurves(curves, soften.channels, 0, LAST, ground);
    const layer: RefineLayer = { muted: false, seen, steps: [soften] };
    expect(misfits(curves, layer, ground)).toEqual([]);
    const changed = curvesFrom(turning(joint, (f) => swing(f) + (f >= 35 && f < 50 ? 12 : 0)));
    const [found] = misfits(changed, layer, ground);
    expect(found).toMatchObject({ step: 's', first: 35, last: 40, node: joint });
    expect(found!.by).toBeCloseTo(12, 0);
    // Where nothing is laid it may be anything.
    expect(misfits(curvesFrom(turning(joint, (f) => swing(f) + (f > 45 ? 12 : 0))), layer, ground)).toEqual(
      [],
    );
  });

  it('is in the baked file, over thinned keys and over curves that only came along', () => {
    const shot = brindle!.shots[0]!;
    const source = character.clips[shot.clip!.index]!.channels.find(
      (c) =>
        c.path === 'rotation' &&
        !Object.values(shot.parts).some((p) => asChain(p).joints.some((j) => j.node === c.node)),
    )!;
    const chain = asChain(Object.values(shot.parts).find((p) => !p.muted));
    const thin = { kind: 'cubic', degrees: 0.5, millimetres: 5 } as const;
    const plain: Shot = parseShot({ ...shot, keys: { step: 1, thin } });
    const does = { tool: 'move', keys: null, frames: 0, component: 0, by: 20 } as const;
    const step = (node: number) => ({ ...stepOf(does, [node], { first: 0, last: 1e5 }), id: `s${node}` });
    const nodes = [source.node, chain.joints[0]!.node];
    const refined: Shot = { ...plain, refine: { muted: false, seen: {}, steps: nodes.map(step) } };
    const [without, withThem] = [plain, refined].map((s) => {
      const run = bakeGlb(openContainer(brindle!.bytes, 'a.glb'), s, defaultBake(s));
      for (;;) {
        const next = run.next();
        if (next.done) return readContainer(openContainer(next.value.bytes, 'b.glb')).clips.at(-1)!;
      }
    });
    for (const node of nodes) {
      const at = (clip: typeof without) => {
        const out = new Float64Array(4);
        sampleChannel(
          clip!.channels.find((c) => c.node === node && c.path === 'rotation')!,
          4,
          0.5,
          out,
          0,
        );
        return out;
      };
      expect((quatAngle(at(without), 0, at(withThem), 0) * 180) / Math.PI).toBeCloseTo(20, 0);
    }
    expect(withThem!.channels).toHaveLength(without!.channels.length);
    const keys = (clip: typeof without) => clip!.channels.reduce((n, c) => n + c.times.length, 0);
    expect(keys(withThem)).toBe(keys(without));
  });
});
