import { describe, expect, it } from 'vitest';
import { bake, brindle } from '../../../test/bakes';
import { nodeNamed } from '../../../test/figure';
import { character, clipNamed, lookout } from '../../../test/poncho';
import { bakeClip, defaultBake } from '../../bake/index';
import { readGltf } from '../../formats/gltf/index';
import { Collider, Force } from '../../model/index';
import { pointSpans, sizesOf, type Frames } from '../../frames/index';
import { diagnose, partFeel } from '../../measure/index';
import { editShot, keepFeel, parseShot, setScale, type Shot } from '../../shot/index';
import { simulateAll, trackOf, type TrackCache } from '../../simulate/index';
import { growArea, growGuides } from './grow';
import { strandsKind } from './index';
import {
  type Growth,
  lengthOfGuide,
  makeGroom,
  makeStrandsPart,
  readGroom,
  strandSettingsFor,
  type StrandsPart,
} from './shared';

const MESH = nodeNamed(character, 'fringe scalp mesh');
const DOWN = [0, -1, 0];
const growth = (more: Partial<Growth> = {}) => ({
  ...{ count: 40, length: 0.08, points: 9, lean: 0.4, seed: 3, mirrored: false },
  ...more,
});
const grown = (more: Partial<Growth> = {}, shares: Float64Array | null = null) =>
  growGuides(character, MESH.node, 1, DOWN, growth(more), shares);

/** Hair on her body, as the shot's only part. */
function hairShot(change: (p: StrandsPart) => void = () => undefined, more: Partial<Shot> = {}): Shot {
  const hair = makeStrandsPart({
    ...{ id: 'hair', name: 'Hair', mesh: MESH, groom: makeGroom(grown()), settings: strandSettingsFor(0.08) },
  });
  change(hair);
  return parseShot({
    ...{
      ...lookout,
      clip: clipNamed('Lookout'),
      parts: { hair },
      colliders: {},
      range: { first: 0, last: 30 },
    },
    ...{ substeps: 4, preRollSeconds: 0, loop: false, ...more },
  });
}
/** Places of all points on a frame, m. */
function placesOn(frames: Frames, f: number): Float64Array {
  const [span] = pointSpans(frames, 0);
  const wide = sizesOf(frames).points;
  return Float64Array.from(frames.points.subarray(3 * (f * wide + span!.from), 3 * (f * wide + span!.to)));
}
const far = (a: ArrayLike<number>, b: ArrayLike<number>, o = 0, q = o) =>
  Math.hypot(...[0, 1, 2].map((k) => a[o + k]! - b[q + k]!));

describe('a groom', () => {
  it('leans the way that is drawn, and downward where none is', () => {
    const mean = (guides: readonly Float64Array[]) =>
      [0, 1, 2].map((a) => guides.reduce((sum, g) => sum + (g.at(a - 3)! - g[a]!), 0) / guides.length);
    const [down, aside] = [mean(grown({ lean: 0.9 })), mean(grown({ lean: 0.9, way: [1, 0, 0] }))];
    expect(down[1]!).toBeLessThan(-0.03);
    expect(aside[0]!).toBeGreaterThan(0.03);
    expect(Math.abs(aside[1]!)).toBeLessThan(0.03);
  });

  it('grows as many guides as are asked, as long as asked, even over the skin, the same for a seed', () => {
    const guides = grown();
    expect(guides.length).toBe(40);
    for (const g of guides) expect(lengthOfGuide(g)).toBeCloseTo(0.08, 6);
    expect(grown()).toEqual(guides);
    expect(grown({ seed: 4 })).not.toEqual(guides);
    const nearest = guides.map((g, k) => Math.min(...guides.filter((_, j) => j !== k).map((q) => far(g, q))));
    const mean = nearest.reduce((s, x) => s + x, 0) / nearest.length;
    expect(Math.min(...nearest)).toBeGreaterThan(0.4 * mean);
    // Mirrored guides come in pairs.
    const both = grown({ mirrored: true });
    for (let k = 0; k < both.length; k += 2)
      expect([...both[k + 1]!]).toEqual([...both[k]!].map((x, o) => (o % 3 === 0 ? -x : x)));
    // They stand about as far apart as their area says.
    expect(mean / Math.sqrt(growArea(character, MESH.node, 1, null) / 40)).toBeGreaterThan(0.5);
    // What is not painted grows nothing.
    expect(growArea(character, MESH.node, 1, new Float64Array(1e6))).toBe(0);
    const none = grown({}, new Float64Array(1e6));
    expect(none).toEqual([]);
  });

  it('is packed to 32-bit numbers and read back; what cannot be read is refused', () => {
    const guides = grown({ count: 5 });
    const back = readGroom(makeGroom(guides));
    back.forEach((g, k) => g.forEach((x, o) => expect(x).toBe(Math.fround(guides[k]![o]!))));
    const shot = hairShot();
    const broken = structuredClone(shot);
    (broken.parts.hair as StrandsPart).groom.places = 'AAAA';
    expect(() => parseShot(broken)).toThrow(/place for each of its points/);
  });

  it('is so many times as large on a character that is', () => {
    const shot = hairShot();
    const large = editShot(shot, 'large-001', 'Scale', (d) =>
      setScale(d, 10 * d.character.metresPerUnit),
    ).shot;
    const [a, b] = [shot, large].map((s) => readGroom((s.parts.hair as StrandsPart).groom));
    expect(lengthOfGuide(b![0]!) / lengthOfGuide(a![0]!)).toBeCloseTo(10, 4);
    expect((large.parts.hair as StrandsPart).look.width).toBeCloseTo(0.03, 9);
  });
});

describe('strands on a character', () => {
  it('take the same shapes at a tenth and at ten times the size where the feel is kept, and at any frame rate', () => {
    const wind = Force.parse({ kind: 'wind', id: 'wind', name: 'Wind', direction: [0, 0, 1], speed: 2 });
    const more = { substeps: 8, forces: { wind } as Shot['forces'], range: { first: 0, last: 30 } };
    const shot = hairShot((p) => void (p.keepsGroom = false), more);
    const plain = placesOn(simulateAll(character, shot), 30);
    for (const by of [0.1, 10]) {
      const other = editShot(shot, 'size-0001', 'Scale', (d) => {
        setScale(d, by);
        keepFeel(d, by);
      }).shot;
      const there = placesOn(simulateAll(character, other), 30).map((x) => x / by);
      for (let o = 0; o < plain.length; o += 3) expect(far(there, plain, o)).toBeLessThan(0.01 * 0.08);
    }
    // Frames of other shots stand at the same second.
    for (const fps of [24, 60]) {
      const last = Math.round((30 / shot.fps) * fps);
      const other = editShot(shot, 'rate-0001', 'Set the rate', (d) => {
        Object.assign(d, { fps, range: { first: 0, last } });
      }).shot;
      const there = placesOn(simulateAll(character, other), last);
      for (let o = 0; o < plain.length; o += 3) expect(far(there, plain, o)).toBeLessThan(0.01 * 0.08);
    }
    // Without that it is another motion.
    const bare = editShot(shot, 'size-0002', 'Scale', (d) => setScale(d, 10)).shot;
    const there = placesOn(simulateAll(character, bare), 30).map((x) => x / 10);
    let apart = 0;
    for (let o = 0; o < plain.length; o += 3) apart = Math.max(apart, far(there, plain, o));
    expect(apart).toBeGreaterThan(0.05 * 0.08);
  });

  it('rest as groomed under gravity while she stands, within a degree, and sag where the groom is not kept', () => {
    const still = { clip: null, range: { first: 0, last: 48 } } as Partial<Shot>;
    const guides = readGroom((hairShot().parts.hair as StrandsPart).groom);
    const turned = (frames: Frames) => {
      const at = placesOn(frames, 48);
      let [most, o] = [0, 0];
      for (const g of guides)
        for (let i = 0; i < g.length; i += 3, o += 3) {
          if (i === 0) continue;
          const [p, q] = [g, at].map((list, k) => {
            const e = k === 0 ? i : o;
            const d = [0, 1, 2].map((a) => list[e + a]! - list[e + a - 3]!);
            const size = Math.hypot(...d);
            return d.map((x) => x / size);
          }) as [number[], number[]];
          const cos = p.reduce((s, x, a) => s + x * q[a]!, 0);
          most = Math.max(most, (180 / Math.PI) * Math.acos(Math.min(1, cos)));
        }
      return most;
    };
    expect(turned(simulateAll(character, hairShot(undefined, still)))).toBeLessThan(1);
    const between = hairShot((p) => {
      Object.assign(p.settings, { hold: 0, bend: 2, droop: 50 });
    }, still);
    const sags = turned(simulateAll(character, between));
    expect(sags).toBeGreaterThan(1);
    const limp = hairShot((p) => {
      p.keepsGroom = false;
      Object.assign(p.settings, { hold: 0, bend: 0.5 });
    }, still);
    expect(turned(simulateAll(character, limp))).toBeGreaterThan(20);
  });

  it('lag behind her turns, keep their lengths, and show the feel of their settings', () => {
    const shot = hairShot();
    const cache: TrackCache = {};
    const frames = simulateAll(character, shot, cache);
    const guides = readGroom((shot.parts.hair as StrandsPart).groom);
    for (const f of [0, 12, 30]) {
      const at = placesOn(frames, f);
      let o = 0;
      for (const g of guides)
        for (let i = 0; i < g.length; i += 3, o += 3)
          if (i > 0) expect(far(at, at, o, o - 3)).toBeCloseTo(far(g, g, i, i - 3), 6);
    }
    expect(Math.max(...frames.tipOffSource)).toBeGreaterThan(0.005);
    // The fastest point, as far as whole frames tell.
    const speeds = Array.from({ length: 30 }, (_, f) => {
      const [p, q] = [placesOn(frames, f), placesOn(frames, f + 1)];
      let most = 0;
      for (let o = 0; o < p.length; o += 3) most = Math.max(most, far(p, q, o));
      return most * shot.fps;
    });
    const speed = frames.readoutNames.indexOf('speed');
    const most = Math.max(
      ...Array.from({ length: 31 }, (_, f) => frames.readouts[f * frames.readoutNames.length + speed]!),
    );
    expect(most / Math.max(...speeds)).toBeGreaterThan(0.95);
    expect(most / Math.max(...speeds)).toBeLessThan(1.3);
    const feel = partFeel(shot, cache.entry!.track, 0);
    expect(feel.lag).toBeGreaterThan(0.5);
    expect(feel.overshoot).toBeGreaterThan(1);
    expect(diagnose(character, shot, frames, cache.entry!.track)).toEqual([]);
    const thin = hairShot((p) => void Object.assign(p.look, { strands: 2000, width: 1e-6 }));
    const [found] = diagnose(character, thin, frames, cache.entry!.track);
    expect(found).toMatchObject({ cause: 'hair too thin' });
    expect(found!.remedy.says).toMatch(/A width of/);
    const bare = hairShot((p) => void (p.groom = makeGroom([])));
    const own: TrackCache = {};
    const none = simulateAll(character, bare, own);
    expect(diagnose(character, bare, none, own.entry!.track)[0]).toMatchObject({ cause: 'no guides' });
  });

  it('go the same way whatever their look is, and an edit of it simulates nothing anew', () => {
    const [plain, curled] = [
      hairShot(),
      hairShot((p) => Object.assign(p.look, { curl: 0.01, turns: 8, strands: 4000, width: 0.01 })),
    ].map((s) => simulateAll(character, s));
    expect([...curled!.points]).toEqual([...plain!.points]);
    // What was simulated before such an edit is taken up whole.
    const part = hairShot().parts.hair as StrandsPart;
    const look = { ...part.look, curl: 0.01 };
    expect(strandsKind.alikeUntil(part, { ...part, look })).toBe(Infinity);
    expect(strandsKind.alikeUntil(part, { ...part, keepsGroom: false })).toBe(-Infinity);
  });

  it('a burst on frame 22 leaves the frames before it as they were, to the bit, and blows hair aside from then on', () => {
    const burst = Force.parse({
      ...{ kind: 'burst', id: 'burst', name: 'Burst', frame: 22, frames: 4, speed: 60, radius: 3 },
      t: [0.4, 1, 0],
    });
    const range = { first: 0, last: 30 };
    const [calm, blown] = [{}, { burst }].map((forces) =>
      simulateAll(character, hairShot(undefined, { range, forces: forces as Shot['forces'] })),
    ) as [Frames, Frames];
    for (let f = 0; f <= 22; f++) expect([...placesOn(blown, f)]).toEqual([...placesOn(calm, f)]);
    const [p, q] = [placesOn(blown, 27), placesOn(calm, 27)];
    expect(Math.max(...p.map((x, k) => Math.abs(x - q[k]!)))).toBeGreaterThan(0.01);
  });

  it('wind lifts what hangs where air lift is asked for', () => {
    const wind = Force.parse({ kind: 'wind', id: 'wind', name: 'Wind', direction: [0, 0, -1], speed: 5 });
    const more = { forces: { wind } as Shot['forces'], clip: null, range: { first: 0, last: 48 } };
    const height = (lift: number) => {
      const frames = simulateAll(
        character,
        hairShot((p) => void Object.assign(p.settings, { lift, droop: 100, hold: 0.3 }), more),
      );
      const at = placesOn(frames, 48);
      return at.reduce((s, x, k) => (k % 3 === 1 ? s + x : s), 0) / (at.length / 3);
    };
    expect(height(3)).toBeGreaterThan(height(0) + 0.0003);
  });

  it('a coarse answer moves every fourth guide, and the others like it, about as all would', () => {
    const shot = hairShot(undefined, { range: { first: 0, last: 24 } });
    const whole = simulateAll(character, shot);
    const coarse = simulateAll(character, shot, { coarse: true });
    const still = simulateAll(
      character,
      hairShot((p) => void (p.settings.amount = 0), { range: { first: 0, last: 24 } }),
    );
    const off = (a: Frames, b: Frames) => {
      let sum = 0;
      for (let f = 0; f <= 24; f++) {
        const q = placesOn(b, f);
        placesOn(a, f).forEach((x, k) => (sum += (x - q[k]!) ** 2));
      }
      return Math.sqrt(sum);
    };
    expect(off(coarse, whole)).toBeLessThan(0.35 * off(still, whole));
    // Those that move are simulated as ever.
    const first = placesOn(coarse, 24).subarray(0, 27);
    expect([...first]).toEqual([...placesOn(whole, 24).subarray(0, 27)]);
  });

  it('roots that stand off the skin, guides of one place and a mesh that is gone are said, and nothing is lost', () => {
    const odd = hairShot((p) => {
      const guides = readGroom(p.groom);
      p.groom = makeGroom([
        // One place only, and a point that stands twice.
        [0, 1, 0, 0, 1, 0, 0, 1, 0],
        [...guides[0]!.slice(0, 6), ...guides[0]!.slice(3)],
        guides[1]!.map((x) => x + 0.5),
      ]);
    });
    const frames = simulateAll(character, odd);
    expect([...frames.points].every(Number.isFinite)).toBe(true);
    expect(sizesOf(frames).points).toBe(18);
    const gone = hairShot((p) => void (p.mesh = { node: MESH.node, name: 'not here' }));
    expect(() => trackOf(character, gone, {})).toThrow(/not here is not on this character/);
  });

  it('the cure of a start inside a collider leaves that one out, and what was left out before', () => {
    const ball = (id: string) =>
      Collider.parse({
        id,
        name: id,
        attachedTo: nodeNamed(character, 'head'),
        shape: { kind: 'sphere', radius: 0.3 },
      });
    const shot = hairShot(
      (p) => {
        p.groom = makeGroom(grown({ length: 0.02 }));
        p.collidesWith.colliders = { allBut: ['other'] };
      },
      {
        colliders: { big: ball('big'), other: ball('other') } as Shot['colliders'],
        range: { first: 0, last: 3 },
      },
    );
    const cache: TrackCache = {};
    const frames = simulateAll(character, shot, cache);
    frames.startsIn[0] = ['big'];
    const found = diagnose(character, shot, frames, cache.entry!.track)[0]!;
    expect(found.cause).toBe('starts inside');
    // They are rooted in it, too.
    const rooted = diagnose(character, shot, frames, cache.entry!.track)[1]!;
    expect(rooted.cause).toBe('roots inside');
    expect(rooted.sentence).toMatch(/^\d+ of \d+ guides of/);
    expect(rooted.remedy.change).toMatchObject({ set: { collidesWith: { colliders: [] } } });
    expect(found.remedy.change).toMatchObject({
      set: { collidesWith: { colliders: { allBut: ['other', 'big'] } } },
    });
  });

  it('bake to curves on every frame, and a GLB holds none of them', () => {
    const shot = hairShot(undefined, { range: { first: 0, last: 6 } });
    const frames = simulateAll(character, shot);
    const { clip } = bakeClip(character, shot, frames, { ...defaultBake(shot), thin: null });
    expect(clip.channels.every((c) => c.path !== 'points')).toBe(true);
    const [curves] = clip.curves!;
    expect(curves!.counts).toEqual((shot.parts.hair as StrandsPart).groom.points);
    expect([...curves!.times].map((t) => Math.round(t * shot.fps))).toEqual([0, 1, 2, 3, 4, 5, 6]);
    const wide = curves!.values.length / 7;
    expect([...curves!.values.subarray(6 * wide)]).toEqual([...placesOn(frames, 6)]);
    const glb = bake(brindle!.bytes, 'brindle.glb', shot);
    const again = readGltf(glb, 'again.glb');
    expect(again.meshes.length).toBe(character.meshes.length);
  });

  it('goes round with a loop to the bit', () => {
    const clip = clipNamed('Stride');
    const shot = hairShot(undefined, {
      ...{ clip, loop: true },
      range: { first: 0, last: Math.round(character.clips[clip.index]!.duration * lookout.fps) },
    });
    const frames = simulateAll(character, shot);
    expect(frames.start.loop?.found).toBe(true);
    expect([...placesOn(frames, frames.count - 1)]).toEqual([...placesOn(frames, 0)]);
  });
});
