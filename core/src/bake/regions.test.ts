import { expect, it } from 'vitest';
import { validateBytes } from 'gltf-validator';
import { brindle } from '../../test/bakes';
import { Player } from '../../test/player';
import { nodeNamed } from '../../test/figure';
import { thigh } from '../../test/thigh';
import { lift, offsetsOf, softPatch } from '../../truth/softRig';
import {
  makePose,
  meshTriangles,
  morphedVertices,
  rigSize,
  rootMatrix,
  samplePose,
  worldMatrices,
  type Character,
} from '../character/index';
import { openContainer, readGltf } from '../formats/gltf/index';
import { pointSpans } from '../frames/index';
import { writePoints } from '../handoff/points';
import { fromJoint, makePaintMesh, mirrored, partnersOf, softened, toVertices } from '../maps/index';
import { makeWeightMap } from '../model/index';
import { applyRegionPreset, makeRegionPart, REGION_PRESETS, regionSettingsFor } from '../parts/soft/shared';
import { sheetOf } from '../sheets/index';
import { editShot, type Shot } from '../shot/index';
import { simulateAll } from '../simulate/index';
import { bakeRefined } from './bake';
import { DEFAULT_FIT, defaultBake, type BakeOptions, type VertexFit } from './options';
import { writeFitted } from './writeFitted';

const character = readGltf(brindle!.bytes, 'brindle.glb');
const fed = brindle!.shots.find((s) => s.name === 'Brindle, Leap, well fed')!;
const fedOne = { character, bytes: brindle!.bytes, shot: fed };
const BODY = character.nodes.findIndex((n) => n.name === 'body mesh');

type Figure = Pick<typeof fedOne, 'character' | 'bytes' | 'shot'>;

/** The shot baked into its file, with what fitting its vertices gave. */
function baked(
  { character: c, bytes, shot }: Figure,
  vertices: VertexFit = DEFAULT_FIT,
  into: BakeOptions['into'] = 'new',
) {
  const run = bakeRefined(c, shot, { ...defaultBake(shot), thin: null, into });
  for (;;) {
    const step = run.next();
    if (step.done) return writeFitted(openContainer(bytes, 'figure.glb'), c, shot, step.value.clip, vertices);
  }
}

/** Where the vertices of a mesh are on a frame of a shot's frames: skinned, with morphs at `weights`, and off that. */
function shownAt({ character, shot }: Figure, node: number, frame: number): Float64Array {
  const frames = simulateAll(character, shot);
  const pose = makePose(character);
  samplePose(character, character.clips[shot.clip!.index]!, frame / shot.fps, pose);
  const world = new Float64Array(16 * character.nodes.length);
  worldMatrices(character, pose, rootMatrix(1, 'Y'), world);
  const places = new Float64Array(3 * meshTriangles(character, node).vertices);
  morphedVertices(places, character, node, world, pose.morphs.get(node));
  frames.parts.forEach((_, p) =>
    pointSpans(frames, p).forEach(({ node: own, picked }) => {
      if (own !== node) return;
      const u = offsetsOf(frames, frame - frames.first, p);
      picked!.forEach((v, i) => [0, 1, 2].forEach((a) => (places[3 * v + a]! += u[3 * i + a]!)));
    }),
  );
  return places;
}

const farthest = (a: ArrayLike<number>, b: ArrayLike<number>) =>
  Math.max(...Array.from({ length: a.length }, (_, k) => Math.abs(a[k]! - b[k]!)));

/** That every added target leaves what is not soft where it is, to the bit. */
function expectGlued(again: Character, node: number, before: number, picked: Int32Array): void {
  const soft = new Set(picked);
  let first = 0;
  for (const { targets, positions } of again.meshes[again.nodes[node]!.mesh]!.primitives) {
    expect(targets.length).toBeGreaterThan(before);
    for (const target of targets.slice(before))
      for (let v = 0; v < positions.length / 3; v++)
        if (!soft.has(first + v)) expect([...target.subarray(3 * v, 3 * v + 3)]).toEqual([0, 0, 0]);
    first += positions.length / 3;
  }
}

it('a soft region leaves as morph targets that play within their error, and glued where it ends', async () => {
  const out = baked(fedOne);
  const player = await Player.open(out.bytes);
  const again = readGltf(out.bytes, 'again.glb');
  const frames = simulateAll(character, fed);
  for (const { node, picked } of frames.parts.flatMap((_, p) => pointSpans(frames, p))) {
    const report = out.reports.find((f) => f.node === node)!;
    expect(report.rms).toBeLessThan(1);
    expectGlued(again, node, 0, picked!);
    for (const frame of [16, 40, 60])
      expect(
        farthest(
          player.vertices(again.clips.length - 1, Math.fround(frame / fed.fps), node),
          shownAt(fedOne, node, frame),
        ),
      ).toBeLessThan(report.largest / 1000 + 1e-4);
  }
});

it('thighs painted on the left, softened and mirrored play within 1 mm with four targets: of a leap on the mean, of a look at every vertex', async () => {
  const mesh = makePaintMesh(sheetOf(character, BODY));
  const left = fromJoint(
    character,
    BODY,
    mesh,
    character.nodes.findIndex((n) => n.name === 'thigh left'),
  );
  const partners = partnersOf(mesh, 0, 0.002 * rigSize(character));
  const both = mirrored(mesh, softened(mesh, softened(mesh, left)), partners, 0, true);
  const soft = [...both.keys()].filter((p) => both[p]! > 0 && partners[p]! >= 0);
  expect(soft.length).toBeGreaterThan(100);
  for (const p of soft) expect(Math.abs(both[p]! - both[partners[p]!]!)).toBeLessThan(1e-6);
  const { shot } = editShot(fed, 'thighs-00001', 'Make soft', (d) => {
    const part = makeRegionPart({
      ...{ id: 'thighs', name: 'Thighs', mesh: { node: BODY, name: 'body mesh' }, where: { by: 'map' } },
      ...{ maps: { weight: makeWeightMap(toVertices(mesh, both)) }, settings: regionSettingsFor(0.2) },
    });
    applyRegionPreset(
      part,
      REGION_PRESETS.find((p) => p.name === 'Flesh')!,
      0.2,
    );
    d.parts = {};
    d.parts.thighs = part;
  });
  const lookout = character.clips.findIndex((c) => c.name === 'Lookout');
  const looking = editShot(shot, 'thighs-00002', 'Choose a clip', (d) => {
    d.clip = { ...d.clip!, index: lookout, name: 'Lookout' };
  }).shot;
  for (const [of, rms, largest] of [
    [shot, 1, Infinity],
    [looking, 0.1, 1],
  ] as const) {
    const one = { character, bytes: brindle!.bytes, shot: of };
    const out = baked(one, { to: 'morphs', most: 3, millimetres: 0 });
    const [report] = out.reports;
    expect(report!.shapes).toBe(4);
    expect(report!.rms).toBeLessThan(rms);
    expect(report!.largest).toBeLessThan(largest);
    const player = await Player.open(out.bytes);
    const off = farthest(
      player.vertices(player.clips.length - 1, Math.fround(40 / fed.fps), BODY),
      shownAt(one, BODY, 40),
    );
    expect(off).toBeLessThan(report!.largest / 1000 + 1e-4);
  }
});

it('a skin over the muscle of a thigh leaves with no vertex more than a millimetre off', async () => {
  const leg = thigh(8);
  const { node } = nodeNamed(leg.character, 'skin');
  const out = baked(leg, { to: 'morphs', most: 64, millimetres: 1, largest: true });
  const report = out.reports.find((r) => r.node === node)!;
  expect(report.largest).toBeLessThan(1);
  expect(report.shapes).toBeLessThan(12);
  const player = await Player.open(out.bytes);
  for (const frame of [6, 12, 30]) {
    const played = player.vertices(player.clips.length - 1, Math.fround(frame / leg.shot.fps), node);
    expect(farthest(played, shownAt(leg, node, frame))).toBeLessThan(1e-3);
  }
});

it('takes less room where it is sparse, and plays the same', async () => {
  const [dense, sparse] = [baked(fedOne), baked(fedOne, { ...DEFAULT_FIT, sparse: true })];
  expect(sparse.bytes.length).toBeLessThan(0.7 * dense.bytes.length);
  const saved = (f: typeof dense) => f.reports.reduce((n, r) => n + r.bytes, 0);
  // The JSON has a little more to say.
  expect((saved(dense) - saved(sparse)) / (dense.bytes.length - sparse.bytes.length)).toBeCloseTo(1, 1);
  const [a, b] = [await Player.open(dense.bytes), await Player.open(sparse.bytes)];
  const of = (p: Player) => p.vertices(p.clips.length - 1, Math.fround(40 / fed.fps), BODY);
  expect(farthest(of(a), of(b))).toBe(0);
  expect((await validateBytes(sparse.bytes)).issues.messages).toEqual([]);
});

it('keeps what morph targets of the mesh do beside it', async () => {
  const patch = softPatch(9, 0.6, lift, undefined, { swells: true });
  const { node } = nodeNamed(patch.character, 'skin');
  const out = baked(patch);
  const player = await Player.open(out.bytes);
  const frames = simulateAll(patch.character, patch.shot);
  expectGlued(readGltf(out.bytes, 'again.glb'), node, 1, pointSpans(frames, 0)[0]!.picked!);
  for (const frame of [0, 12, 30, 100]) {
    const there = shownAt(patch, node, frame);
    const played = player.vertices(player.clips.length - 1, Math.fround(frame / 60), node);
    expect(farthest(played, there)).toBeLessThan(out.reports[0]!.largest / 1000 + 1e-5);
  }
  const still = softPatch(9, 0.6, lift, (p) => void (p.settings.amount = 0), { swells: true });
  expect(farthest(shownAt(still, node, 30), shownAt(softPatch(9, 0.6, lift), node, 30))).toBeGreaterThan(
    0.01,
  );
});

it('as what is added to its clip it has the same targets as in a clip of its own', () => {
  const [own, added] = (['new', 'offset'] as const).map((into) =>
    readGltf(baked(fedOne, DEFAULT_FIT, into).bytes, 'a.glb'),
  ) as [Character, Character];
  const targetsIn = (c: Character) => c.meshes[c.nodes[BODY]!.mesh]!.primitives[0]!.targets;
  expect(targetsIn(added).length).toBe(targetsIn(own).length);
  targetsIn(own).forEach((t, k) => expect(farthest(t, targetsIn(added)[k]!)).toBeLessThan(1e-6));
});

it('keeps weights of the mesh that are stepped or smooth outside of what is simulated', async () => {
  const patch = softPatch(9, 0.6, lift, (_, s) => void (s.range = { first: 60, last: 90 }), { swells: true });
  const { node } = nodeNamed(patch.character, 'skin');
  const clip = patch.character.clips[0]!;
  const channels = clip.channels.map((c) =>
    c.path !== 'weights'
      ? c
      : ({
          ...{ ...c, interpolation: 'STEP', times: Float64Array.of(0, 0.5, 3) },
          values: Float64Array.of(0, 1, 0.25),
        } as typeof c),
  );
  const stepped = { ...patch.character, clips: [{ ...clip, channels }] };
  const out = baked({ ...patch, character: stepped });
  const again = readGltf(out.bytes, 'again.glb');
  const pose = makePose(again);
  for (const [time, weight] of [
    [0.2, 0],
    [0.45, 0],
    [0.6, 1],
    [1.2, 1],
    [2.5, 1],
  ] as const) {
    samplePose(again, again.clips.at(-1)!, time, pose);
    expect(pose.morphs.get(node)![0]).toBeCloseTo(weight, 5);
  }
});

it('can be fitted to joints, and written as points', () => {
  const joints = baked(fedOne, { to: 'joints', count: 8, under: null });
  expect(joints.reports.map((f) => f.joints)).toEqual([8, 8]);
  expect(Math.max(...joints.reports.map((f) => f.rms))).toBeLessThan(15);
  const run = bakeRefined(character, fed, { ...defaultBake(fed), thin: null, first: 40, last: 40 });
  let step = run.next();
  while (!step.done) step = run.next();
  const o = { fps: fed.fps, metresPerUnit: 1, upAxis: 'Y', unit: 1, up: 'Y' } as const;
  const { text } = writePoints(character, step.value.clip, 'points.csv', o)!;
  const written = text
    .split('\r\n')
    .filter((line) => line.split(',')[2] === 'body mesh')
    .flatMap((line) => line.split(',').slice(4).map(Number));
  expect(farthest(written, shownAt(fedOne, BODY, 40))).toBeLessThan(1e-6);
});

it('two regions on one mesh add up, each on its own', () => {
  const { shot } = editShot(fed, 'edit-00002', 'Thighs', (d) => {
    d.parts['more' as never] = makeRegionPart({
      ...{ id: 'more', name: 'More', order: 5, mesh: { node: BODY, name: 'body mesh' } },
      where: { by: 'ball', at: [0, 0.4, 0.2], inner: 0.02, outer: 0.2 },
    });
  });
  const alone = { ...shot, parts: { more: shot.parts.more! } } as Shot;
  const [both, one, other] = [shot, fed, alone].map((s) => shownAt({ ...fedOne, shot: s }, BODY, 40));
  const skin = shownAt({ ...fedOne, shot: { ...fed, parts: {} } as Shot }, BODY, 40);
  expect(farthest(both!, one!)).toBeGreaterThan(1e-3);
  both!.forEach((x, k) => expect(x - skin[k]!).toBeCloseTo(one![k]! + other![k]! - 2 * skin[k]!, 6));
});
