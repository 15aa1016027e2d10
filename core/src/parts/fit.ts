import { makePose, rigSize, rootMatrix, worldMatrices, type Character } from '../character/index';
import { matRotation, quatBetween, quatRotate } from '../math/index';
import { Collider, ColliderId } from '../model/index';

/**
 * Vertices a joint must carry most of to get a collider, least radius as a share of the rig's size, and how many at
 * most.
 */
const LEAST_VERTICES = 12;
const LEAST_RADIUS = 0.015;
const MOST = 14;
/** Share of a joint's vertices that lie within the capsule's radius, and between its ends: hair and hems stick out. */
const WITHIN = 0.75;
const ENDS = 0.04;

/** Fewer shapes than this are no body: then what only rides along is taken in. */
const LEAST_SHAPES = 3;
/** Two clips' values that differ by no more than this are one. */
const STILL = 1e-4;

/**
 * Joints of rows that only ride along: no clip turns them or anything below them, and they are rows of two joints or
 * more. Plumes, pockets, straps and coats are such; a belly of one joint is body.
 */
function ridingAlong(character: Character): Set<number> {
  const moved = new Set<number>();
  for (const { channels } of character.clips)
    for (const { node, path, values } of channels) {
      const width = path === 'rotation' ? 4 : path === 'translation' ? 3 : 0;
      if (width > 0 && values.some((v, k) => Math.abs(v - values[k % width]!) > STILL)) moved.add(node);
    }
  const depth = new Map<number, number>();
  const out = new Set<number>();
  for (const n of [...character.order].reverse()) {
    const below = character.nodes[n]!.children.map((c) => depth.get(c) ?? 0);
    // 0 where something of it moves.
    depth.set(n, moved.has(n) || below.includes(0) ? 0 : 1 + Math.max(0, ...below));
  }
  const mark = (n: number) => {
    out.add(n);
    character.nodes[n]!.children.forEach(mark);
  };
  for (const n of character.order) {
    const { parent } = character.nodes[n]!;
    const top = (depth.get(n) ?? 0) > 1 && (parent < 0 || depth.get(parent) === 0);
    if (top && parent >= 0) mark(n);
  }
  return out;
}

/**
 * Proposes capsules for the body of a character from its skin: for each joint that carries flesh, the capsule along the
 * longest axis of the vertices it moves most, but for those that stand within another. Joints in `without` (those that
 * parts move) and rows that only ride along get none. Sizes in m, riding their joints; the largest first.
 */
export function fitColliders(
  character: Character,
  metresPerUnit: number,
  upAxis: 'Y' | 'Z',
  without: ReadonlySet<number>,
): Collider[] {
  const world = new Float64Array(16 * character.nodes.length);
  worldMatrices(character, makePose(character), rootMatrix(metresPerUnit, upAxis), world);
  const least = LEAST_RADIUS * rigSize(character) * metresPerUnit;
  const clouds = new Map<number, number[]>();
  for (const node of character.nodes) {
    const mesh = character.meshes[node.mesh];
    const skin = character.skins[node.skin];
    if (!mesh || !skin) continue;
    for (const p of mesh.primitives) {
      if (!p.joints || !p.weights) continue;
      for (let v = 0; v < p.positions.length / 3; v++) {
        let best = 0;
        for (let k = 1; k < 4; k++) if (p.weights[4 * v + k]! > p.weights[4 * v + best]!) best = k;
        const slot = p.joints[4 * v + best]!;
        const joint = skin.joints[slot]!;
        if (without.has(joint)) continue;
        const m = 16 * slot;
        const w = 16 * joint;
        const cloud = clouds.get(joint) ?? [];
        clouds.set(joint, cloud);
        for (let r = 0; r < 3; r++) {
          let x = skin.inverseBind[m + 12 + r]!;
          for (let c = 0; c < 3; c++) x += skin.inverseBind[m + 4 * c + r]! * p.positions[3 * v + c]!;
          // In metres, without the joint's scale, which colliders do not ride.
          const [a, b, c] = [world[w + 4 * r]!, world[w + 4 * r + 1]!, world[w + 4 * r + 2]!];
          cloud.push(x * Math.sqrt(a * a + b * b + c * c));
        }
      }
    }
  }
  const riding = ridingAlong(character);
  const body = [...clouds].filter(([joint]) => !riding.has(joint));
  const found = (body.length >= LEAST_SHAPES ? body : [...clouds]).flatMap(([joint, cloud]) => {
    if (cloud.length < 3 * LEAST_VERTICES) return [];
    const capsule = fitCapsule(cloud);
    return capsule.radius < least ? [] : [{ joint, capsule, solid: placed(capsule, joint, world) }];
  });
  found.sort((a, b) => volume(b.capsule) - volume(a.capsule));
  const kept = found.filter((f, i) => !found.slice(0, i).some((larger) => within(f.solid, larger.solid)));
  return kept.slice(0, MOST).map(({ joint, capsule }) => colliderOf(character, joint, capsule));
}

type Capsule = ReturnType<typeof fitCapsule>;
const volume = ({ radius, length }: Capsule) => radius ** 2 * (length + radius);

type Place = readonly [number, number, number];

/** A capsule in the world at rest: the ends of its axis, and its radius, m. */
interface Solid {
  readonly ends: readonly [Place, Place];
  readonly radius: number;
}

/** The capsule of a joint as it stands at rest. Its places are in metres, without the joint's scale. */
function placed({ centre, turn, radius, length }: Capsule, joint: number, world: Float64Array): Solid {
  const axis = new Float64Array([0, length / 2, 0]);
  quatRotate(axis, 0, Float64Array.from(turn), 0, axis, 0);
  const q = new Float64Array(4);
  matRotation(q, 0, world, 16 * joint);
  const end = (side: number): [number, number, number] => {
    const p = Float64Array.from(centre, (x, a) => x + side * axis[a]!);
    quatRotate(p, 0, q, 0, p, 0);
    return [0, 1, 2].map((a) => p[a]! + world[16 * joint + 12 + a]!) as [number, number, number];
  };
  return { ends: [end(-1), end(1)], radius };
}

/** Share of its radius by which a capsule may stand out of another and still add nothing to it. */
const ADDS = 0.25;

/** Whether one capsule stands within another. */
function within(a: Solid, b: Solid): boolean {
  const [p, q] = b.ends;
  const d = q.map((x, k) => x - p[k]!);
  const l = d.reduce((sum, x) => sum + x * x, 0);
  return a.ends.every((e) => {
    const along = e.reduce((sum, x, k) => sum + (x - p[k]!) * d[k]!, 0);
    const t = l > 0 ? Math.min(1, Math.max(0, along / l)) : 0;
    const off = Math.sqrt(e.reduce((sum, x, k) => sum + (x - p[k]! - t * d[k]!) ** 2, 0));
    return off + (1 - ADDS) * a.radius <= b.radius;
  });
}

function colliderOf(character: Character, joint: number, capsule: Capsule): Collider {
  const { name } = character.nodes[joint]!;
  const label = name.trim() || `Joint ${joint}`;
  return Collider.parse({
    id: ColliderId.parse(`fit${joint}`),
    name: label[0]!.toUpperCase() + label.slice(1, 150),
    order: joint,
    shape: { kind: 'capsule', radius: round(capsule.radius), length: round(capsule.length) },
    t: capsule.centre.map(round),
    r: capsule.turn,
    attachedTo: { node: joint, name },
  });
}

const round = (x: number) => Number(x.toPrecision(4));

/** The capsule round most of a cloud of points (3 numbers each), along its longest axis. */
function fitCapsule(cloud: readonly number[]): {
  centre: number[];
  turn: number[];
  radius: number;
  length: number;
} {
  const n = cloud.length / 3;
  const mean = [0, 0, 0];
  for (let i = 0; i < cloud.length; i++) mean[i % 3]! += cloud[i]! / n;
  const spread = new Float64Array(9);
  for (let i = 0; i < n; i++)
    for (let a = 0; a < 3; a++)
      for (let b = 0; b < 3; b++)
        spread[3 * a + b]! += (cloud[3 * i + a]! - mean[a]!) * (cloud[3 * i + b]! - mean[b]!);
  // The longest axis by power iteration, from a start that is on no axis of symmetry.
  let axis = [0.36, 0.8, 0.48];
  for (let pass = 0; pass < 60; pass++) {
    const next = [0, 1, 2].map((a) => axis.reduce((sum, x, b) => sum + spread[3 * a + b]! * x, 0));
    const l = Math.sqrt(next[0]! ** 2 + next[1]! ** 2 + next[2]! ** 2);
    if (l < 1e-30) break;
    axis = next.map((x) => x / l);
  }
  const along: number[] = [];
  const off: number[] = [];
  for (let i = 0; i < n; i++) {
    const d = [0, 1, 2].map((a) => cloud[3 * i + a]! - mean[a]!);
    const t = d.reduce((sum, x, a) => sum + x * axis[a]!, 0);
    along.push(t);
    off.push(Math.sqrt(Math.max(0, d.reduce((sum, x) => sum + x * x, 0) - t * t)));
  }
  along.sort((a, b) => a - b);
  off.sort((a, b) => a - b);
  const at = (list: readonly number[], share: number) =>
    list[Math.min(list.length - 1, Math.floor(share * list.length))]!;
  const [lo, hi] = [at(along, ENDS), at(along, 1 - ENDS)];
  const radius = at(off, WITHIN);
  const turn = new Float64Array(4);
  quatBetween(turn, 0, 0, 1, 0, axis[0]!, axis[1]!, axis[2]!);
  return {
    centre: mean.map((m, a) => m + (axis[a]! * (lo + hi)) / 2),
    turn: [...turn],
    radius,
    length: Math.max(0, hi - lo - 2 * radius),
  };
}
