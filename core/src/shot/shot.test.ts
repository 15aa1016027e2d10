import { describe, expect, it } from 'vitest';
import {
  Collider,
  OscillumError,
  PartId,
  makeValueCurve,
  profileAt,
  type Profile,
  type ValueKeys,
} from '../model/index';
import {
  asChain,
  CHAIN_SETTINGS,
  CHAIN_SETTING_KEYS,
  makeChainPart,
  type ChainPart,
  Preset,
} from '../parts/chain/shared';
import {
  applyEdit,
  Edit,
  editShot,
  invertEdit,
  makeShot,
  parseShot,
  type Shot,
  preRollFrames,
} from './index';

const shot = (): Shot =>
  makeShot({
    name: 'Test',
    hash: 'a'.repeat(64),
    fileName: 'a.glb',
    clip: { index: 0, name: 'Stride', duration: 2 },
  });
const withPart = (id = 'p1', node = 4): Shot =>
  editShot(shot(), 'edit-0001', 'Make chain', (d) => {
    d.parts[id] = makeChainPart({
      id,
      name: 'Plume',
      joints: [{ node, name: 'j' }],
    });
  }).shot;
const errorOf = (f: () => unknown): OscillumError => {
  try {
    f();
  } catch (e) {
    if (e instanceof OscillumError) return e;
    throw e;
  }
  throw new Error('nothing was thrown');
};

describe('the shot document', () => {
  it('starts with the whole clip and useful defaults', () => {
    const s = shot();
    expect(s.range).toEqual({ first: 0, last: 60 });
    expect(s.gravity).toEqual([0, -9.81, 0]);
  });
  it('says where a wrong value is and what to do', () => {
    const e = errorOf(() => parseShot({ ...shot(), fps: -3 }));
    expect(e.code).toBe('shot.invalid');
    expect(e.place).toBe('/fps');
    expect(e.sentence).toContain('at least 1');
  });
  it('refuses every setting beyond its range, by name', () => {
    for (const key of CHAIN_SETTING_KEYS) {
      const s = structuredClone(withPart());
      asChain(s.parts.p1).settings[key] = CHAIN_SETTINGS[key].max + 1;
      const e = errorOf(() => parseShot(s));
      expect(e.place).toBe(`/parts/p1/settings/${key}`);
      expect(e.message).toContain(CHAIN_SETTINGS[key].label);
    }
  });
  it('refuses NaN, unknown keys, a range that ends before it starts, and one joint in two chains', () => {
    expect(errorOf(() => parseShot({ ...shot(), fps: NaN })).place).toBe('/fps');
    expect(errorOf(() => parseShot({ ...shot(), surprise: 1 })).code).toBe('shot.invalid');
    expect(errorOf(() => parseShot({ ...shot(), range: { first: 5, last: 4 } })).message).toContain(
      'before it starts',
    );
    const two = structuredClone(withPart());
    two.parts.p2 = { ...two.parts.p1!, id: PartId.parse('p2') };
    expect(errorOf(() => parseShot(two)).message).toContain('already moved by');
  });
  it('upgrades version 0, which kept parts in a list, and refuses a newer version by its number', () => {
    const old = { ...structuredClone(withPart()), version: 0, parts: Object.values(withPart().parts) };
    expect(parseShot(old)).toEqual(withPart());
    expect(errorOf(() => parseShot({ ...shot(), version: 99 })).code).toBe('shot.newer');
  });
});

it('upgrades version 6: the pre-roll in seconds, in takes too, and turns as added motion', () => {
  const now: Record<string, unknown> = structuredClone(withPart());
  delete now.preRollSeconds;
  delete now.addedMotions;
  const turn = { id: 't', name: 'Nod', joint: { node: 1, name: 'a' }, kind: 'swing', amount: 7 };
  const { range, substeps, gravity } = now;
  const take = { id: 'k', name: 'Take', tuned: { range, substeps, gravity, preRoll: 6, parts: {} } };
  const measured = { strayDegrees: 4, tipMetres: 0.1, lag: 2, overshoot: null, settle: null };
  const old = {
    ...now,
    version: 6,
    fps: 24,
    preRoll: 12,
    sourceTurns: { t: turn },
    takes: { k: { ...take, measures: { p1: measured } } },
  };
  const upgraded = parseShot(old);
  expect(upgraded.preRollSeconds).toBe(0.5);
  expect(preRollFrames(upgraded)).toBe(12);
  expect(upgraded.takes.k!.tuned.preRollSeconds).toBe(0.25);
  expect(upgraded.takes.k!.measures.p1!.offSourceDegrees).toBe(4);
  expect(upgraded.addedMotions.t).toMatchObject({ name: 'Nod', path: 'rotation', amount: 7 });
  // The same shot at another rate waits as long.
  expect(preRollFrames({ ...upgraded, fps: 60 })).toBe(30);
});

it('upgrades the words of version 6, in parts, their curves and keys, colliders, takes and presets', () => {
  const now = structuredClone(withPart());
  const { amount, delayPerJoint, stretchSoftness, rootSlide, ...settings } = asChain(now.parts.p1).settings;
  const { staysInPlane, collidesWith, pullsParent, tipPin, ...part } = asChain(now.parts.p1);
  const pin = { to: { joint: { node: 1, name: 'a' } }, t: [0, 0, 0], breakAt: 1 };
  const old = {
    ...now,
    version: 6,
    parts: {
      p1: {
        ...{ ...part, planeLock: 'x', touches: { colliders: [], parts: 'all' }, pullsBack: true, tie: pin },
        settings: { ...settings, mix: 80, delay: 2, softness: 3, shift: 0.02 },
        profiles: {
          softness: [
            [0, 1],
            [1, 2],
          ],
        },
        keys: { mix: [{ frame: 3, value: 20, kind: 'smooth' }] },
      },
    },
    refine: {
      steps: ['soften', 'steady'].map((tool, k) => ({
        ...{ id: `step${k}`, name: tool, first: 0, last: 9, ease: 0 },
        channels: [{ joint: { node: 1, name: 'a' }, path: 'rotation' }],
        does: { tool, amount: 1, ...(tool === 'soften' && { width: 2 }) },
      })),
    },
    colliders: {
      c: { id: 'c', name: 'c', shape: { kind: 'sphere', radius: 1 }, rides: { node: 1, name: 'a' } },
    },
  };
  const upgraded = parseShot(old);
  const chain = asChain(upgraded.parts.p1);
  const said = { amount: 80, delayPerJoint: 2, stretchSoftness: 3, rootSlide: 0.02 };
  expect(chain.settings).toMatchObject(said);
  expect({ staysInPlane, amount, delayPerJoint, stretchSoftness, rootSlide }).not.toMatchObject(said);
  expect(chain.keys.amount).toMatchObject([{ frame: 3, value: 20 }]);
  expect(chain.profiles).toHaveProperty('stretchSoftness');
  expect(chain).toMatchObject({
    ...{ staysInPlane: 'x', collidesWith: { colliders: [], parts: 'all' }, pullsParent: true, tipPin: pin },
  });
  expect([collidesWith, pullsParent, tipPin]).not.toEqual([chain.collidesWith, true, pin]);
  expect(upgraded.refine.steps.map((s) => s.does.tool)).toEqual(['smooth', 'remove jitter']);
  expect(upgraded.colliders.c!.attachedTo).toEqual({ node: 1, name: 'a' });
  const preset = { format: 'oscillum-preset', name: 'mine', settings: { mix: 50, hold: 2 } };
  expect(Preset.parse(preset).settings).toEqual({ amount: 50, hold: 2 });
});

describe('edits', () => {
  it('undo by the inverse gives the same document back', () => {
    const before = withPart();
    const { shot: after, edit } = editShot(before, 'edit-0002', 'Stiffen', (d) => {
      asChain(d.parts.p1).settings.hold = 5;
    });
    expect(asChain(after.parts.p1).settings.hold).toBe(5);
    expect(applyEdit(after, invertEdit(edit, 'edit-0003', 'Undo'))).toEqual(before);
    expect(applyEdit(before, edit)).toEqual(after);
    expect(Edit.parse(JSON.parse(JSON.stringify(edit)))).toEqual(edit);
  });
  it('an invalid result changes nothing and names the fault', () => {
    const before = withPart();
    expect(
      errorOf(() =>
        editShot(before, 'edit-0004', 'Break', (d) => void (asChain(d.parts.p1).settings.hold = -1)),
      ).place,
    ).toBe('/parts/p1/settings/hold');
    expect(asChain(before.parts.p1).settings.hold).toBe(CHAIN_SETTINGS.hold.initial);
  });
  it('an edit of a part that has gone is refused, not half applied', () => {
    const { edit } = editShot(
      withPart(),
      'edit-0005',
      'Stiffen',
      (d) => void (asChain(d.parts.p1).settings.hold = 3),
    );
    expect(errorOf(() => applyEdit(shot(), edit)).code).toBe('edit.invalid');
  });
  it('a path into the prototype is refused', () => {
    const evil = {
      id: 'edit-0006',
      name: 'x',
      patches: [{ op: 'add', path: ['__proto__', 'polluted'], value: 1 }],
      inverse: [],
    };
    expect(Edit.safeParse(evil).success).toBe(false);
  });
});

describe('curves', () => {
  it('a profile passes through its points, stays between them and is constant outside', () => {
    const p: Profile = [
      [0.2, 2],
      [0.5, 0.5],
      [0.8, 0.5],
      [1, 3],
    ];
    for (const [x, y] of p) expect(profileAt(p, x)).toBeCloseTo(y, 12);
    expect(profileAt(p, 0)).toBe(2);
    for (let x = 0; x <= 1; x += 0.01) {
      expect(profileAt(p, x)).toBeGreaterThanOrEqual(0.5 - 1e-12);
      expect(profileAt(p, x)).toBeLessThanOrEqual(3 + 1e-12);
    }
    expect(profileAt(undefined, 0.3)).toBe(1);
  });
  it('keys step, run straight or run smoothly, in whatever order they are written', () => {
    const keys: ValueKeys = [
      { frame: 20, value: 4, kind: 'smooth' },
      { frame: 0, value: 1, kind: 'stepped' },
      { frame: 10, value: 2, kind: 'linear' },
      { frame: 30, value: 0, kind: 'smooth' },
    ];
    const at = makeValueCurve(keys);
    expect([-5, 0, 9.9, 10, 15, 20, 30, 99].map(at)).toEqual([1, 1, 1, 2, 3, 4, 0, 0]);
    expect(at(25)).toBeGreaterThan(0);
    expect(at(25)).toBeLessThan(4);
    expect(makeValueCurve([...keys].reverse())(25)).toBe(at(25));
  });
  it('the ground cannot be free, and a part is held by a few pulls at once', () => {
    const ground = { id: 'g', name: 'G', shape: { kind: 'ground' }, free: { mass: 1 } };
    expect(() => Collider.parse(ground)).toThrow(/cannot be free/);
    const pull = (k: number) => ({
      id: `h${k}`,
      link: 0,
      along: 1,
      first: 0,
      path: [[0, 0, 0]],
      strength: 6,
      slip: 1,
    });
    const held = (n: number) =>
      makeChainPart({
        id: 'a',
        name: 'A',
        joints: [{ node: 1, name: 'j' }],
        pulls: Array.from({ length: n }, (_, k) => pull(k)) as never,
      });
    expect(held(6).pulls).toHaveLength(6);
    expect(() => held(7)).toThrow(/At most 6 pulls/);
  });
  it('two keys on one frame, points out of order and a profile on what has none are refused', () => {
    const bad = (recipe: (p: ChainPart) => unknown) => () =>
      editShot(withPart('a', 1), 'edit-0001', 'Change', (d) => void recipe(d.parts.a as ChainPart));
    const key = { frame: 3, value: 1, kind: 'linear' as const };
    expect(bad((p) => (p.keys.hold = [key, key]))).toThrow(/same frame/);
    expect(bad((p) => (p.keys.hold = [{ ...key, value: 99 }]))).toThrow(/outside 0 to 30 Hz/);
    expect(
      bad(
        (p) =>
          (p.profiles.bend = [
            [0.5, 1],
            [0.2, 1],
          ]),
      ),
    ).toThrow(/in order/);
    expect(bad((p) => (p.profiles.bounce = [[0, 1]]))).toThrow(/takes no profile/);
  });
});
