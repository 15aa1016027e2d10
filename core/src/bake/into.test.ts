import { describe, expect, it } from 'vitest';
import { demoFiles } from '../../../demo/src/index';
import { makePose, type Character } from '../character/index';
import { openContainer, readContainer, type Container } from '../formats/gltf/index';
import { quatAngle } from '../math/index';
import { Refinement, AddedMotion } from '../model/index';
import { asChain } from '../parts/chain/shared';
import { editShot, liveAgain, parseShot, playsKeys, type Part, type Shot } from '../shot/index';
import { makeSource, simulateAll } from '../simulate/index';
import { bakeInto, goOnWith } from './index';

const [brindle] = await demoFiles();
const container = openContainer(brindle!.bytes, 'brindle.glb');
const character = readContainer(container);
const away = parseShot({ ...brindle!.shots.find((s) => s.clip?.name === 'Stride away')!, takes: {} });
const named = (shot: Shot, name: RegExp): Part => Object.values(shot.parts).find((p) => name.test(p.name))!;
const plume = named(away, /plume, middle/i);
const crest = named(away, /crest/i);

interface Desk {
  container: Container;
  character: Character;
  shot: Shot;
}

/** What the page does: bakes, keeps the file, and goes on with it. */
function into({ container, character, shot }: Desk, ids: readonly string[]): Desk {
  const run = bakeInto(container, character, shot, ids);
  for (;;) {
    const step = run.next();
    if (!step.done) continue;
    const { bytes, clip } = step.value;
    const next = openContainer(bytes, 'brindle.glb');
    const edit = (d: Parameters<typeof goOnWith>[0]) => goOnWith(d, shot, ids, 'a'.repeat(64), clip);
    return {
      container: next,
      character: readContainer(next),
      shot: editShot(shot, 'edit-0001', 'Bake', edit).shot,
    };
  }
}

const first: Desk = { container, character, shot: away };

/** Rotations of a part's joints on every frame, as simulated. */
function simulated({ character, shot }: Desk, part: Part): Float64Array[] {
  const frames = simulateAll(character, shot);
  const nodes = asChain(part).joints.map((j) => frames.joints.indexOf(j.node));
  const n = frames.joints.length;
  return Array.from({ length: frames.count }, (_, f) =>
    Float64Array.from(
      nodes.flatMap((c) => Array.from(frames.rotations.subarray(4 * (f * n + c), 4 * (f * n + c) + 4))),
    ),
  );
}

/** And as the clip has them, with what is added to it. */
function sourced({ character, shot }: Desk, part: Part): Float64Array[] {
  const source = makeSource(character, shot);
  const pose = makePose(character);
  return Array.from({ length: shot.range.last - shot.range.first + 1 }, (_, f) => {
    source.at(shot.range.first + f, pose);
    return Float64Array.from(
      asChain(part).joints.flatMap((j) => Array.from(pose.r.subarray(4 * j.node, 4 * j.node + 4))),
    );
  });
}

const apart = (a: Float64Array[], b: Float64Array[]): number =>
  Math.max(
    ...a.flatMap((row, f) =>
      Array.from({ length: row.length / 4 }, (_, k) => quatAngle(row, 4 * k, b[f]!, 4 * k)),
    ),
  );

describe('a shot that goes on with a baked clip', () => {
  const desk = into(first, [plume.id]);

  it('plays the keys of what was baked, leaves the file’s own clip as it was, and moves the rest as before', () => {
    expect(desk.character.clips.map((c) => c.name)).toEqual([
      ...character.clips.map((c) => c.name),
      'Stride away with follow-through',
    ]);
    expect(playsKeys(desk.shot, desk.shot.parts[plume.id]!)).toBe(true);
    // Keys are float32.
    expect(apart(sourced(desk, plume), simulated(first, plume))).toBeLessThan(1e-6);
    expect(simulated(desk, crest)).toEqual(simulated(first, crest));
  });

  it('simulates it again to the same bits once it is unmuted', () => {
    const live = {
      ...desk,
      shot: editShot(desk.shot, 'edit-0002', 'Live', (d) => void (d.parts[plume.id]!.muted = false)).shot,
    };
    expect(liveAgain(live.shot).map((p) => p.id)).toEqual([plume.id]);
    expect(simulated(live, plume)).toEqual(simulated(first, plume));
  });

  it('takes more into the same clip, with what was refined of it', () => {
    const joint = asChain(plume).joints[1]!;
    const step = Refinement.parse({
      ...{ id: 's', name: 'Turned', channels: [{ joint, path: 'rotation' }], first: 0, last: 200 },
      does: { tool: 'move', keys: null, frames: 0, component: 2, by: 30 },
    });
    const other = Refinement.parse({
      ...step,
      id: 't',
      channels: [{ joint: asChain(named(away, /lappet, left/i)).joints[0], path: 'rotation' }],
    });
    const refined = editShot(
      desk.shot,
      'edit-0003',
      'Refine',
      (d) => void d.refine.steps.push(step, other),
    ).shot;
    const more = into({ ...desk, shot: refined }, [crest.id]);
    expect(more.shot.clip).toEqual({
      ...{ index: desk.shot.clip!.index, name: desk.shot.clip!.name },
      baked: { over: away.clip, parts: [plume.id, crest.id] },
    });
    // What goes on being simulated keeps its refinements for its own bake.
    expect(more.shot.refine.steps.map((s) => s.id)).toEqual(['t']);
    expect(apart(sourced(more, crest), simulated(first, crest))).toBeLessThan(1e-6);
    expect((apart(sourced(more, plume), sourced(desk, plume)) * 180) / Math.PI).toBeCloseTo(30, 3);
    // Without a part it takes what was refined alone.
    const none = into({ ...desk, shot: refined }, []);
    expect(sourced(none, plume)).toEqual(sourced(more, plume));
  });

  it('does not add to baked keys what they hold already', () => {
    const joint = asChain(plume).joints[0]!;
    const turn = AddedMotion.parse({
      ...{ id: 'turn0001', name: 'Swing', joint, kind: 'swing', amount: 20, axis: [0, 0, 1] },
    });
    const turned = { ...first, shot: parseShot({ ...away, addedMotions: { [turn.id]: turn } }) };
    const baked = into(turned, [plume.id]);
    expect(Object.keys(baked.shot.addedMotions)).toEqual([turn.id]);
    expect(apart(sourced(baked, plume), simulated(turned, plume))).toBeLessThan(1e-6);
  });
});
