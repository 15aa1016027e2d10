import { validateBytes } from 'gltf-validator';
import { describe, expect, it } from 'vitest';
import { brindle } from '../../../test/bakes';
import { character, lookout, MESH, ponchoShot as shotWith, sheet, vertices } from '../../../test/poncho';
import { Player } from '../../../test/player';
import { bakeGlb, defaultBake } from '../../bake/index';
import { openContainer } from '../../formats/gltf/index';
import type { Frames } from '../../frames/index';
import { fromRims, gradient, makePaintMesh, toVertices } from '../../maps/index';
import { applyRemedy, diagnose } from '../../measure/index';
import { Collider, Force, makeValueCurve, makeWeightMap } from '../../model/index';
import { editShot, type Shot } from '../../shot/index';
import { carryTo, simulate, simulateAll, type TrackCache } from '../../simulate/index';
import { kindOf } from '../kinds';
import type { ClothPart } from './document';
import { bodyUnder, heldPoints, likelyHolds, restAt } from '../../sheets/index';
import { layOutCloth } from './layout';

const placeOf = (f: Frames, frame: number, vertex: number) =>
  f.points.subarray(3 * (frame * vertices + vertex), 3 * (frame * vertices + vertex) + 3);
const most = (f: Frames) => Math.max(...f.tipOffSource);

describe('a cloth on a character', () => {
  const skin = simulateAll(
    character,
    shotWith((p) => void (p.settings.amount = 0)),
  );
  const hangs = simulateAll(character, shotWith());

  it('is held by its shortest rim when nothing else is said', () => {
    expect(likelyHolds(character, MESH)).toEqual([{ by: 'rim', rim: 0 }]);
    const held = heldPoints(character, MESH, (shotWith().parts.poncho as ClothPart).holds, sheet);
    expect(held.reduce((a, b) => a + b, 0)).toBeGreaterThan(8);
    expect(held.reduce((a, b) => a + b, 0)).toBeLessThan(0.2 * sheet.points);
  });
  it('rests in another shape with edges as long as they are there', () => {
    const bent = sheet.rest.map((x, k) => (k % 3 === 1 ? 1.5 * x : x));
    const at = restAt(sheet, bent);
    const apart = (x: ArrayLike<number>, e: number) => {
      const [a, b] = [3 * sheet.edges[2 * e]!, 3 * sheet.edges[2 * e + 1]!];
      return Math.hypot(x[a]! - x[b]!, x[a + 1]! - x[b + 1]!, x[a + 2]! - x[b + 2]!);
    };
    at.length.forEach((l, e) => expect(l).toBeCloseTo(apart(bent, e), 9));
    // On a frame that has it as in the mesh, both are one.
    const resting = (rest: ClothPart['rest']) =>
      simulateAll(
        character,
        shotWith((p) => void Object.assign(p, { rest, restFrame: 24 })),
      ).tipOffSource;
    resting('mesh').forEach((far, f) => expect(resting('frame')[f]).toBeCloseTo(far, 3));
  });
  it('amount 0 is its skin, held points are on it to the bit, and its hem hangs and swings', () => {
    expect(Math.max(...skin.tipOffSource)).toBe(0);
    const held = heldPoints(character, MESH, (shotWith().parts.poncho as ClothPart).holds, sheet);
    for (let v = 0; v < vertices; v++)
      if (held[sheet.pointOf[v]!]) expect([...placeOf(hangs, 9, v)]).toEqual([...placeOf(skin, 9, v)]);
    expect(most(hangs)).toBeGreaterThan(0.02);
    expect([...hangs.points].every(Number.isFinite)).toBe(true);
  });
  it('a hold brings it nearer, a leash is never passed, and keys of a setting are felt', () => {
    expect(
      most(
        simulateAll(
          character,
          shotWith((p) => void (p.settings.hold = 4)),
        ),
      ),
    ).toBeLessThan(0.5 * most(hangs));
    const leashed = simulateAll(
      character,
      shotWith((p) => void (p.settings.leash = 0.01)),
    );
    expect(most(leashed)).toBeLessThanOrEqual(0.01001);
    const keys = [
      { frame: 20, value: 30, kind: 'linear' as const },
      { frame: 35, value: 0, kind: 'linear' as const },
    ];
    const keyed = simulateAll(
      character,
      shotWith((p) => void (p.keys.hold = keys)),
    );
    expect(makeValueCurve(keys)(20)).toBe(30);
    expect(keyed.tipOffSource[1]!).toBeLessThan(0.2 * most(keyed));
  });
  it('is the same to the bit each time, and chains beside it stay what they were', () => {
    expect([...simulateAll(character, shotWith()).points]).toEqual([...hangs.points]);
    const { poncho } = shotWith().parts;
    const range = { first: 20, last: 35 };
    const alone = simulateAll(character, { ...lookout, range });
    const both = simulateAll(character, { ...lookout, range, parts: { ...lookout.parts, poncho: poncho! } });
    expect([...both.rotations]).toEqual([...alone.rotations]);
    expect([...both.points].every(Number.isFinite)).toBe(true);
  });
  it('slows a ball that falls on it, and is pushed by it', () => {
    const ball = (meets: boolean) => {
      const free = { mass: 0.1, velocity: [0, -1, 0] as [number, number, number] };
      const b = { id: 'b', name: 'Ball', shape: { kind: 'sphere', radius: 0.08 }, t: [0.24, 0.95, 0], free };
      return simulateAll(
        character,
        shotWith((p) => void (p.collidesWith.colliders = meets ? 'all' : []), {
          colliders: { b: Collider.parse(b) },
        }),
      );
    };
    const [falls, meets] = [ball(false), ball(true)];
    const height = (f: Frames) => f.placements[7 * (f.count - 1) + 1]!;
    expect(Math.max(...meets.contacts)).toBeGreaterThan(0);
    expect(height(meets)).toBeGreaterThan(height(falls) + 0.05);
    expect([...meets.points].every(Number.isFinite)).toBe(true);
  });
  it('rests on a collider and is blown by wind', () => {
    const ball = { id: 'b', name: 'Ball', shape: { kind: 'sphere', radius: 0.24 }, t: [0, 0.62, 0] };
    const touched = simulateAll(character, shotWith(undefined, { colliders: { b: ball } as never }));
    expect(Math.max(...touched.contacts)).toBeGreaterThan(10);
    const wind = { id: 'w', name: 'Wind', kind: 'wind', direction: [1, 0, 0], speed: 12 };
    const blown = simulateAll(character, shotWith(undefined, { forces: { w: wind } as never }));
    const mean = (f: Frames) => f.points.reduce((s, x, k) => s + (k % 3 === 0 ? x : 0), 0) / f.points.length;
    expect(mean(blown)).toBeGreaterThan(mean(hangs) + 0.002);
  });
  it('answers a quick step: a firmer hold comes sooner, more damping passes less', () => {
    const kind = kindOf(shotWith().parts.poncho!);
    const feel = (change: (p: ClothPart) => void) => {
      const shot = shotWith(change);
      const layout = kind.layout(character, shot.parts.poncho!, 1);
      return kind.feel(shot, { parts: [{ layout }] } as never, 0);
    };
    const [loose, firm, damped] = [
      feel(() => undefined),
      feel((p) => void (p.settings.hold = 3)),
      feel((p) => void (p.settings.damping = 1)),
    ];
    expect(firm.lag).toBeLessThan(loose.lag);
    expect(damped.overshoot).toBeLessThan(0.5 * loose.overshoot);
  });
  it('leaves as a GLB whose hem swings in another player as it did here', async () => {
    const shot = shotWith();
    const container = openContainer(brindle!.bytes, 'brindle.glb');
    const run = bakeGlb(container, shot, defaultBake(shot));
    let step = run.next();
    while (!step.done) step = run.next();
    expect((await validateBytes(step.value.bytes)).issues.messages).toEqual([]);
    const player = await Player.open(step.value.bytes);
    const played = player.vertices(player.clips.length - 1, Math.fround(30 / shot.fps), MESH);
    let worst = 0;
    let sum = 0;
    for (let v = 0; v < vertices; v++) {
      const here = placeOf(hangs, 10, v);
      const off = Math.hypot(...[0, 1, 2].map((a) => played[3 * v + a]! - here[a]!));
      worst = Math.max(worst, off);
      sum += off * off;
    }
    // Shapes are taken until what is left over is 1 mm RMS over all frames.
    expect(Math.sqrt(sum / vertices)).toBeLessThan(0.0015);
    expect(worst).toBeLessThan(0.015);
  }, 30_000);
});

describe('a painted cloth', () => {
  const paint = makePaintMesh(sheet);
  const far = fromRims(paint, 0);
  const longest = far.reduce((m, d) => Math.max(m, d), 0);
  /** Shares from 0 at the collar to 1 at the hem. */
  const fading = makeWeightMap(toVertices(paint, gradient(far, 0, longest)));
  const skin = simulateAll(
    character,
    shotWith((p) => void (p.settings.amount = 0)),
  );
  const farthest = (f: Frames, of: (v: number) => boolean): number => {
    let out = 0;
    for (let v = 0; v < vertices; v++)
      if (of(v)) {
        const [a, b] = [placeOf(f, 15, v), placeOf(skin, 15, v)];
        out = Math.max(out, Math.hypot(a[0]! - b[0]!, a[1]! - b[1]!, a[2]! - b[2]!));
      }
    return out;
  };

  it('a leash of 0 pins to the bit, and its share is the farthest elsewhere', () => {
    const leashed = simulateAll(
      character,
      shotWith((p) => Object.assign(p, { holds: [], maps: { leash: fading } })),
    );
    // Held by the map alone, with a leash of a kilometre elsewhere.
    expect(farthest(leashed, (v) => far[sheet.pointOf[v]!] === 0)).toBe(0);
    expect(farthest(leashed, () => true)).toBeGreaterThan(0.02);
    const short = simulateAll(
      character,
      shotWith((p) => {
        Object.assign(p, { holds: [], maps: { leash: fading } });
        p.settings.leash = 0.03;
      }),
    );
    for (const share of [0.3, 0.6, 1])
      expect(farthest(short, (v) => far[sheet.pointOf[v]!]! <= share * longest)).toBeLessThanOrEqual(
        0.03 * share + 1e-6,
      );
  });
  it('is held more where its share of the hold is larger', () => {
    const off = (map: typeof fading) =>
      farthest(
        simulateAll(
          character,
          shotWith((p) => {
            p.settings.hold = 8;
            p.maps = { hold: map };
          }),
        ),
        (v) => far[sheet.pointOf[v]!]! > 0.9 * longest,
      );
    const none = makeWeightMap(new Float64Array(vertices));
    expect(off(fading)).toBeLessThan(0.5 * off(none));
  });
  it('is let go vertex by vertex between two frames, keeps its speed, and falls as everything does', () => {
    // From the left of the collar to its right.
    const rim = heldPoints(character, MESH, (shotWith().parts.poncho as ClothPart).holds, sheet);
    const across = Float64Array.from(rim, (_, p) => sheet.rest[3 * p]!);
    const release = makeWeightMap(toVertices(paint, gradient(across, -0.1, 0.1)));
    const frames = simulateAll(
      character,
      shotWith((p) => Object.assign(p, { release: { first: 24, last: 28 }, maps: { release } }), {
        airDensity: 0,
      }),
    );
    const off = (f: number, p: number) => {
      const v = sheet.pointOf.indexOf(p);
      const [a, b] = [placeOf(frames, f, v), placeOf(skin, f, v)];
      return Math.hypot(a[0]! - b[0]!, a[1]! - b[1]!, a[2]! - b[2]!);
    };
    const collar = [...rim.keys()].filter((p) => rim[p]);
    for (const p of collar) {
      const at = 24 + 4 * Math.min(1, Math.max(0, (across[p]! + 0.1) / 0.2));
      expect(off(Math.floor(at - 1e-3) - 20, p)).toBe(0);
      expect(off(15, p)).toBeGreaterThan(0.05);
    }
    // Free, its centre is thrown: twice the same step, less g.
    const centre = (f: number) => {
      let [sum, area] = [0, 0];
      sheet.pointOf.forEach((p, v) => {
        sum += sheet.area[p]! * placeOf(frames, f, v)[1]!;
        area += sheet.area[p]!;
      });
      return sum / area;
    };
    const fps = lookout.fps;
    for (const f of [10, 12, 14])
      expect((centre(f + 1) - 2 * centre(f) + centre(f - 1)) * fps * fps).toBeCloseTo(-9.81, 1);
  });
  it('a map of another mesh is refused with its place, and left behind on the way to another character', () => {
    const other = makeWeightMap(new Float64Array(vertices + 1));
    const shot = shotWith((p) => void (p.maps = { bend: other }));
    expect(() => layOutCloth(character, shot.parts.poncho as ClothPart)).toThrow(/painted on 1657 vertices/);
    const to = carryTo(shot, character, shot.character, 0);
    expect(to.missed.join()).toContain('the map of bend');
    expect((to.shot.parts.poncho as ClothPart).maps).toEqual({});
  });
});

describe('a cloth on the mesh it lies on', () => {
  const body = bodyUnder(character, MESH)!;
  const onBody = (more: Partial<ClothPart['collidesWith']> = {}, speed = 4): Shot =>
    editShot(
      shotWith((p) => Object.assign(p.collidesWith, more)),
      'edit-00002',
      'Add the body',
      (d) => {
        d.colliders.body = Collider.parse({
          ...{ id: 'body', name: 'Body' },
          shape: { kind: 'mesh', node: body.node, name: body.name, simplified: 0.003 },
        });
        d.forces.wind = Force.parse({
          ...{ id: 'wind', name: 'Wind', kind: 'wind', direction: [0, 0, -1] },
          speedKeys: [
            { frame: 20, value: 4, kind: 'linear' },
            { frame: 28, value: 4, kind: 'linear' },
            { frame: 34, value: speed, kind: 'linear' },
          ],
        });
      },
    ).shot;

  it('is the body, and nothing of it goes in', () => {
    expect(body.name).toBe('body mesh');
    const frames = simulateAll(character, onBody());
    expect(Math.max(...frames.depth)).toBeLessThan(0.001);
    expect(Math.max(...frames.contacts)).toBeGreaterThan(50);
  });
  it('goes on to the same bits from a frame that stays, with its layers apart and body and wind about it', () => {
    const cache: TrackCache = {};
    const run = (shot: Shot, cached: TrackCache): Frames => {
      const steps = simulate(character, shot, cached);
      for (;;) {
        const step = steps.next();
        if (step.done) return step.value;
      }
    };
    run(onBody({ itself: true }), cache);
    // Wind differs after frame 28 alone.
    const again = run(onBody({ itself: true }, 9), cache);
    const anew = run(onBody({ itself: true }, 9), {});
    expect([...again.points]).toEqual([...anew.points]);
  });
});

describe('advice', () => {
  /** What is said of a shot: by cause, with what is said again once a remedy is taken. */
  function said(shot: Shot, cause: string): { sentence: string; again: string[] } {
    const look = (s: Shot) => {
      const cache: TrackCache = {};
      const steps = simulate(character, s, cache);
      let step = steps.next();
      while (!step.done) step = steps.next();
      return diagnose(character, s, step.value, cache.entry!.track);
    };
    const found = look(shot).find((d) => d.cause === cause);
    if (!found) return { sentence: '', again: [] };
    const cured = editShot(shot, 'edit-00003', 'Cure', (d) => applyRemedy(d, 'poncho', found.remedy)).shot;
    return { sentence: found.sentence, again: look(cured).map((d) => d.cause) };
  }

  it('names the patch that the leash stops, and its cure frees it', () => {
    // Long at the collar, short at the hem.
    const paint = makePaintMesh(sheet);
    const far = fromRims(paint, 0);
    const longest = far.reduce((m, d) => Math.max(m, d), 0);
    const leash = makeWeightMap(toVertices(paint, gradient(far, 1.1 * longest, 0.8 * longest)));
    const { sentence, again } = said(
      shotWith((p) => {
        p.settings.leash = 0.09;
        p.maps = { leash };
      }),
      'stopped by its leash',
    );
    expect(sentence).toMatch(
      /The leash of Poncho stops the (left|right|front|back) of its (middle|hem) \(\d+ % of it on frame \d+\)/,
    );
    expect(again).not.toContain('stopped by its leash');
    expect(again).not.toContain('starts inside');
    expect(
      said(
        shotWith((p) => void (p.settings.leash = 0.5)),
        'stopped by its leash',
      ).sentence,
    ).toBe('');
  });
  it('tells what begins inside from what goes through, and settling cures it', () => {
    const shot = editShot(shotWith(), 'edit-00004', 'Add a ball', (d) => {
      d.colliders.ball = Collider.parse({
        ...{ id: 'ball', name: 'Ball', shape: { kind: 'sphere', radius: 0.12 } },
        t: [0.25, 0.5, 0],
      });
    }).shot;
    const { sentence, again } = said(shot, 'starts inside');
    expect(sentence).toMatch(/Poncho begins inside Ball/);
    expect(again).not.toContain('starts inside');
  });
});
