import { growGuides } from '../src/parts/strands/grow';
import { layOutStrands } from '../src/parts/strands/layout';
import { drawnPoints, layLook, planLook } from '../src/parts/strands/look';
import { posedGroom } from '../src/parts/strands/posed';
import {
  Growth,
  makeGroom,
  makeStrandsPart,
  readGroom,
  strandSettingsFor,
} from '../src/parts/strands/shared';
import { readGltf } from '../src/formats/gltf/index';
import { makePose, restWorld } from '../src/character/index';
import { Collider } from '../src/model/index';
import { editShot, type Shot } from '../src/shot/index';
import { simulate, simulateAll, type TrackCache } from '../src/simulate/index';
import { makeArena, type Arena } from '../src/solver/index';
import { makeStrands, strandNumbers } from '../src/solver/strands/index';
import { brindle } from '../test/bakes';
import { STRAND_FIELDS, strandSource } from './cSource';
import { imageOf, inC } from './native';

const STEPS = 480;
const ROUNDS = 5;
const [GUIDES, LINKS] = [200, 12];

/** The step of a head of guides that swing freely, beside the same in C. */
function kernel(): void {
  const links = GUIDES * LINKS;
  const inner = makeArena(strandNumbers(GUIDES, links));
  let header = -1;
  const arena: Arena = { ...inner, solveStrands: (at) => inner.solveStrands((header = at)) };
  const shape = {
    lengths: new Float64Array(LINKS).fill(0.3 / LINKS),
    directions: Float64Array.from({ length: 3 * LINKS }, (_, k) => (k % 3 === 1 ? -1 : 0)),
  };
  const strands = makeStrands(Array<typeof shape>(GUIDES).fill(shape), 1 / 120, arena);
  const feel = {
    hold: 2,
    bend: 2,
    damping: 0.05,
    weight: 5e-3,
    gravity: [0, -9.81, 0],
    keeps: 1,
  } as const;
  for (let k = 0; k < GUIDES; k++) strands.tune(k, feel);
  const roots = Float64Array.from({ length: 7 * GUIDES }, (_, o) => (o % 7 === 6 ? 1 : 0));
  strands.begin(roots, roots);
  for (let k = 0; k < 12; k++) {
    for (let o = 0; o < 3 * links; o += 3) strands.push[o] = 20;
    strands.predict(roots, [0, -9.81, 0], 1, 1);
    strands.solve(0);
  }
  strands.predict(roots, [0, -9.81, 0], 1, 1);
  strands.solve(0);
  const { buffer } = strands.x;
  const { base, bytes } = imageOf({ buffer, header, fields: STRAND_FIELDS });
  let [best, sum] = [Infinity, 0];
  for (let r = 0; r < ROUNDS; r++) {
    new Uint8Array(buffer, base, bytes.length).set(bytes);
    const start = performance.now();
    for (let k = 0; k < STEPS; k++) {
      inner.predictStrands(header);
      inner.solveStrands(header);
    }
    best = Math.min(best, (performance.now() - start) * 1e6);
    sum = strands.x.reduce((a, b) => a + b, 0);
  }
  const c = inC(strandSource(), { base, bytes, header }, { count: STEPS, seldom: 1, rounds: ROUNDS }, sum);
  const per = STEPS * links;
  const beside =
    c === null ? 'no C compiler (cc)' : `C ${(c / per).toFixed(0)}, ratio ${(best / c).toFixed(2)}`;
  console.log(
    `${GUIDES} guides of ${LINKS} links, free: ${(best / per).toFixed(0)} ns a link and step; ${beside}`,
  );
}

const character = readGltf(brindle!.bytes, 'brindle.glb');
const lookout = brindle!.shots.find((s) => s.clip?.name === 'Lookout')!;
const scalp = character.nodes.findIndex((n) => n.name === 'fringe scalp mesh');
const joint = (name: string) => ({ node: character.nodes.findIndex((n) => n.name === name), name });

/** A head of hair on 240 frames, with head and shoulders to touch where asked. */
function head(touching: boolean): Shot {
  const growth = Growth.parse({ count: GUIDES, length: 0.15, points: LINKS + 1 });
  return editShot(lookout, 'bench-0001', 'Grow hair', (d) => {
    Object.assign(d, {
      parts: {},
      colliders: {},
      preRollSeconds: 0,
      substeps: 4,
      range: { first: 0, last: 239 },
    });
    if (touching)
      for (const [name, radius] of [
        ['head', 0.1],
        ['chest', 0.15],
      ] as const)
        d.colliders[name] = Collider.parse({
          ...{ id: name, name, attachedTo: joint(name) },
          shape: { kind: 'capsule', radius, length: 0.1 },
        });
    d.parts.hair = makeStrandsPart({
      ...{ id: 'hair', name: 'Hair', mesh: { node: scalp, name: 'fringe scalp mesh' }, growth },
      groom: makeGroom(growGuides(character, scalp, 1, [0, -1, 0], growth, null)),
      settings: strandSettingsFor(0.15),
    });
  }).shot;
}

function whole(touching: boolean): void {
  const shot = head(touching);
  const cache: TrackCache = { reuse: true };
  const time = (run: () => void): number => {
    const start = performance.now();
    run();
    return performance.now() - start;
  };
  const first = time(() => simulateAll(character, shot, cache));
  const softer = editShot(shot, 'bench-0002', 'Set hold', (d) => {
    if (d.parts.hair?.kind === 'strands') d.parts.hair.settings.hold = 0.9;
  }).shot;
  const again = time(() => simulateAll(character, softer, cache));
  const frame = time(() => void simulate(character, shot, cache).next());
  const rough: TrackCache = { coarse: true };
  simulateAll(character, shot, rough);
  const coarse = time(() => simulateAll(character, softer, rough));
  console.log(
    `a head of them, 240 frames, 4 substeps${touching ? ', head and shoulders to touch' : ''}: ${first.toFixed(0)} ms, ` +
      `after an edit ${again.toFixed(0)} ms, coarse ${coarse.toFixed(0)} ms, first frame ${frame.toFixed(0)} ms, in one thread`,
  );
}

/** The look of 2 000 strands, a frame. */
function look(): void {
  const shot = head(false);
  const part = shot.parts.hair!;
  if (part.kind !== 'strands') return;
  const layout = layOutStrands(character, part, 1);
  const plan = planLook(character, scalp, 1, readGroom(part.groom), { strands: 2000, spread: 1 });
  const world = restWorld(character);
  const curves = posedGroom(layout, character, { pose: makePose(character), world });
  const skin = new Float64Array(3 * (plan.vertices.at(-1)! + 1));
  const out = new Float32Array(3 * drawnPoints(part.look) * plan.strands);
  const frames = 200;
  const start = performance.now();
  for (let f = 0; f < frames; f++) layLook(out, plan, { ...part.look, curl: 0.01 }, curves, skin);
  console.log(
    `${plan.strands} strands laid: ${((performance.now() - start) / frames).toFixed(1)} ms a frame`,
  );
}

kernel();
for (const touching of [false, true]) whole(touching);
look();
