import type { Character, CharacterNode, Channel } from '../src/character/index';
import { quatFromAxis } from '../src/math/index';
import { makeChainPart, type ChainSettings } from '../src/parts/chain/shared';
import { editShot, makeShot, type Shot } from '../src/shot/index';

/** Where the root joint is at a time: place in m, turn about z in radians. */
export type RootMotion = (time: number) => { place: readonly [number, number, number]; turn: number };

interface RowOptions {
  readonly metresPerUnit?: number;
  readonly curl?: number;
  readonly direction?: readonly [number, number, number];
}

function rowNodes(
  links: number,
  step: number,
  { curl: turn = 0, direction: dir = [0, -1, 0] }: RowOptions,
): CharacterNode[] {
  const node = (
    name: string,
    parent: number,
    children: number[],
    t: readonly number[],
    r: readonly number[] = [0, 0, 0, 1],
  ): CharacterNode => ({
    name,
    parent,
    children,
    t: Float64Array.from(t),
    r: Float64Array.from(r),
    s: Float64Array.from([1, 1, 1]),
    mesh: -1,
    skin: -1,
  });
  const curl = [0, 0, 0, 1];
  quatFromAxis(curl, 0, 0, 0, 1, turn);
  const nodes = [node('root', -1, [1], [0, 0, 0])];
  for (let i = 0; i < links; i++) {
    nodes.push(
      node(
        `link ${i + 1}`,
        i,
        [i + 2],
        i === 0 ? [0, 0, 0] : dir.map((d) => d * step),
        i === 0 ? [0, 0, 0, 1] : curl,
      ),
    );
  }
  nodes.push(
    node(
      'end',
      links,
      [],
      dir.map((d) => d * step),
    ),
  );
  return nodes;
}

/** Keys of the root, 480 a second: the clip is as good as the formula. */
function rootChannels(seconds: number, motion: RootMotion, m: number): Channel[] {
  const keys = Math.round(seconds * 480) + 1;
  const times = Float64Array.from({ length: keys }, (_, k) => k / 480);
  const places = new Float64Array(keys * 3);
  const turns = new Float64Array(keys * 4);
  times.forEach((t, k) => {
    const now = motion(t);
    places.set(
      now.place.map((x) => x / m),
      3 * k,
    );
    quatFromAxis(turns, 4 * k, 0, 0, 1, now.turn);
  });
  const channel = (path: Channel['path'], values: Float64Array): Channel => ({
    node: 0,
    path,
    interpolation: 'LINEAR',
    times,
    values,
  });
  return [channel('translation', places), channel('rotation', turns)];
}

/**
 * A character of one row of joints below a moving root, each `length / links` long along −y (or along `direction`,
 * curled).
 */
export function makeRow(
  links: number,
  length: number,
  seconds: number,
  motion: RootMotion,
  options: RowOptions = {},
): Character {
  const m = options.metresPerUnit ?? 1;
  const nodes = rowNodes(links, length / links / m, options);
  const channels = rootChannels(seconds, motion, m);
  return {
    name: 'row',
    nodes,
    order: Int32Array.from(nodes.keys()),
    skins: [],
    meshes: [],
    materials: [],
    images: [],
    clips: [{ name: 'motion', duration: seconds, over: null, channels }],
    joints: Int32Array.from(nodes.keys()),
    notes: [],
  };
}

/** The shot that makes the whole row one chain. */
export function rowShot(
  character: Character,
  settings: Partial<ChainSettings>,
  options: {
    fps?: number;
    substeps?: number;
    preRoll?: number;
    metresPerUnit?: number;
    gravity?: [number, number, number];
  } = {},
): Shot {
  const fps = options.fps ?? 30;
  const base = makeShot({
    name: 'row',
    hash: '0'.repeat(64),
    fileName: 'row.glb',
    fps,
    clip: { index: 0, name: 'motion', duration: character.clips[0]!.duration },
    metresPerUnit: options.metresPerUnit ?? 1,
  });
  return editShot(base, 'truth-0001', 'Make chain', (d) => {
    d.substeps = options.substeps ?? 8;
    d.preRollSeconds = (options.preRoll ?? 0) / fps;
    if (options.gravity) d.gravity = options.gravity;
    d.parts.p = makeChainPart({
      id: 'p',
      name: 'Row',
      joints: character.nodes.slice(1, -1).map((n, i) => ({ node: i + 1, name: n.name })),
      settings,
    });
  }).shot;
}
