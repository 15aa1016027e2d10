import {
  alongPath,
  makePose,
  meshAtRest,
  rootMatrix,
  strandWeights,
  worldMatrices,
  type Character,
  type Primitive,
  type StrandPath,
} from '../../character/index';
import { matInvert, matMultiply } from '../../math/index';
import { OscillumError, type JointRef } from '../../model/index';
import { MAX_ROW_JOINTS } from '../../model/index';
import type { Container } from './container';
import { hasEdges } from './meshes';
import { fileError } from './fault';
import type { GltfJson } from './schema';
import { giveSkin, giveWeights, INFLUENCES, type Influences } from './skins';
import { ownBinary, pack, Tail } from './write';

/** Joints to add to a mesh that has none where it should move. */
export interface JointPlan {
  /** Node of the mesh. */
  readonly mesh: number;
  /** Node the new rows hang from. */
  readonly parent: number;
  readonly name: string;
  /** Joints of each row. */
  readonly joints: number;
  /** Root to tip, m, in the rest pose. */
  readonly rows: readonly StrandPath[];
  /** Rounds of averaging the weights over the mesh. */
  readonly smoothing: number;
  /** Vertices farther from every row stay as they were, m; null moves the whole mesh. */
  readonly reach: number | null;
}

const refuse = (message: string, remedy: string) => new OscillumError('joints.invalid', message, '', remedy);

/** Throws OscillumError('joints.invalid') when a plan cannot be carried out on this character. */
function checkPlan(character: Character, plan: JointPlan): void {
  const node = character.nodes[plan.mesh];
  if (!node || node.mesh < 0)
    throw refuse('There is no such mesh on this character', 'Choose one of its meshes.');
  if (!character.nodes[plan.parent])
    throw refuse('There is no such joint to hang the rows from', 'Choose one of the joints.');
  if (!Number.isInteger(plan.joints) || plan.joints < 1 || plan.joints > MAX_ROW_JOINTS)
    throw refuse(`A row of ${plan.joints} joints cannot be made`, `Ask for 1 to ${MAX_ROW_JOINTS}.`);
}

/** A file being changed: its document, where its data goes, and the character as it was. */
interface Work {
  readonly container: Container;
  readonly character: Character;
  readonly plan: JointPlan;
  readonly json: GltfJson;
  /** World matrices at rest, in file units, and from there into the space of the node the rows hang from. */
  readonly rest: Float64Array;
  readonly intoParent: Float64Array;
  /** From metres with +Y up into file units. */
  readonly toFile: Float64Array;
  /** Joints and tip of each row at rest, m. */
  readonly spaced: readonly StrandPath[];
}

/**
 * Writes a copy of a file with rows of joints in a mesh, the mesh weighted to them by distance along the rows ({@link
 * strandWeights}). Each new joint stands as the node it hangs from does; a last node marks the tip of a row. What was
 * weighted before keeps that weight at the roots. The rest of the file is carried over as it stands; existing nodes
 * keep their numbers. Throws OscillumError('joints.invalid') when the plan cannot be carried out on this file.
 */
export function addJoints(
  container: Container,
  character: Character,
  plan: JointPlan,
  metresPerUnit: number,
  upAxis: 'Y' | 'Z',
): { bytes: Uint8Array<ArrayBuffer>; rows: JointRef[][] } {
  checkPlan(character, plan);
  const paths = plan.rows.filter((r) => r.length > 1 && lengthOf(r) > 0);
  if (paths.length === 0)
    throw refuse(
      'There is no row to put joints on',
      'Drop a row, or click two points or more along a strand.',
    );
  const json = structuredClone(container.json) as GltfJson;
  const raw = json.meshes![json.nodes![plan.mesh]!.mesh!]!;
  const drawn = raw.primitives.filter((p) => hasEdges(p) && p.attributes.POSITION !== undefined);
  if (drawn.some((p) => p.extensions?.KHR_draco_mesh_compression))
    throw refuse(
      `The mesh ${character.nodes[plan.mesh]!.name} is compressed with Draco, so its weights cannot be changed`,
      'Export the file again without Draco compression.',
    );
  const spaced = paths.map((p) => alongPath(p, plan.joints));
  const mesh = meshAtRest(character, plan.mesh, metresPerUnit, upAxis);
  const weights = strandWeights(mesh, spaced, plan.smoothing, plan.reach ?? Infinity);

  const rest = new Float64Array(16 * character.nodes.length);
  const still = new Float64Array([1, 0, 0, 0, 0, 1, 0, 0, 0, 0, 1, 0, 0, 0, 0, 1]);
  worldMatrices(character, makePose(character), still, rest);
  const toFile = new Float64Array(16);
  matInvert(toFile, 0, rootMatrix(metresPerUnit, upAxis), 0);
  const intoParent = new Float64Array(16);
  if (!matInvert(intoParent, 0, rest, 16 * plan.parent))
    throw refuse(`${character.nodes[plan.parent]!.name} has no size`, 'Hang the rows from another joint.');
  const work: Work = { container, character, plan, json, rest, intoParent, toFile, spaced };
  const rows = addNodes(work);
  const pieces = ownBinary(container, json);
  const writer = new Tail(json, pieces);
  addSkin(work, rows, writer);
  addWeights(work, jointsBefore(work).length, weights, writer);
  return { bytes: pack(json, pieces, container.fileName), rows };
}

/** Nodes: each row hangs from the parent, every joint turned as the parent is. Returns the joints, without the tips. */
function addNodes({ character, plan, json, intoParent, toFile, spaced }: Work): JointRef[][] {
  const taken = new Set(character.nodes.map((n) => n.name));
  const fresh = (name: string): string => {
    let out = name;
    for (let n = 2; taken.has(out); n++) out = `${name} (${n})`;
    taken.add(out);
    return out;
  };
  const nodes = json.nodes!;
  return spaced.map((places, r): JointRef[] => {
    const local = places.map((p) => transformed(intoParent, transformed(toFile, p)));
    const title = spaced.length > 1 ? `${plan.name} ${r + 1}` : plan.name;
    const made = local.map((at, i): JointRef => {
      const before = i === 0 ? [0, 0, 0] : local[i - 1]!;
      const name = fresh(i < plan.joints ? `${title} ${i + 1}` : `${title} end`);
      const translation = at.map((x, a) => x - before[a]!);
      return { node: nodes.push({ name, translation } as (typeof nodes)[number]) - 1, name };
    });
    made.slice(1).forEach((j, i) => (nodes[made[i]!.node]!.children = [j.node]));
    const parent = nodes[plan.parent]!;
    parent.children = [...(parent.children ?? []), made[0]!.node];
    return made.slice(0, -1);
  });
}

/** Joints that the mesh is weighted to already: those of its skin, or what the rows hang from. */
const jointsBefore = ({ character, plan }: Work): number[] => {
  const old = character.skins[character.nodes[plan.mesh]!.skin];
  return old ? Array.from(old.joints) : [plan.parent];
};

/** A skin of this mesh's own: what it had, and the new joints. */
function addSkin(work: Work, rows: readonly JointRef[][], writer: Tail): void {
  const { character, plan, json, rest, intoParent, toFile, spaced } = work;
  const old = character.skins[character.nodes[plan.mesh]!.skin];
  const bind = new Float64Array(16);
  if (old) {
    const at = Math.max(0, old.joints.indexOf(plan.parent));
    matMultiply(bind, 0, rest, 16 * old.joints[at]!, old.inverseBind, 16 * at);
  } else bind.set(rest.subarray(16 * plan.mesh, 16 * plan.mesh + 16));
  const before = jointsBefore(work);
  const inverses = new Float64Array(16 * (before.length + rows.length * plan.joints));
  if (old) inverses.set(old.inverseBind);
  else matMultiply(inverses, 0, intoParent, 0, bind, 0);
  const jointWorld = new Float64Array(16);
  const inverse = new Float64Array(16);
  spaced.forEach((places, r) => {
    for (let i = 0; i < plan.joints; i++) {
      jointWorld.set(rest.subarray(16 * plan.parent, 16 * plan.parent + 16));
      transformed(toFile, places[i]!).forEach((x, a) => (jointWorld[12 + a] = x));
      matInvert(inverse, 0, jointWorld, 0);
      matMultiply(inverses, 16 * (before.length + r * plan.joints + i), inverse, 0, bind, 0);
    }
  });
  giveSkin(json, plan.mesh, [...before, ...rows.flat().map((j) => j.node)], inverses, writer);
}

/** The mesh with the new weights. */
function addWeights(
  { container, character, plan, json }: Work,
  before: number,
  weights: readonly ArrayLike<number>[],
  writer: Tail,
): void {
  const node = character.nodes[plan.mesh]!;
  const skinned = character.skins[node.skin] !== undefined;
  giveWeights(container, json, plan.mesh, writer, (k, from, count) => {
    const primitive = character.meshes[node.mesh]!.primitives[k];
    if (!primitive)
      throw fileError(container.fileName, 'file.invalid', 'has a mesh that cannot be read whole');
    return strongest(primitive, weights.slice(from, from + count), skinned, before);
  });
}

/**
 * The four joints that hold each vertex most, with shares that sum to 1: `weights` are what the vertex keeps of its old
 * ones, then of each new joint; new joints are numbered from `first`.
 */
function strongest(
  { joints: held, weights: had }: Primitive,
  weights: readonly ArrayLike<number>[],
  skinned: boolean,
  first: number,
): Influences {
  const joints = new Float64Array(INFLUENCES * weights.length);
  const shares = new Float64Array(INFLUENCES * weights.length);
  weights.forEach((of, i) => {
    const all: [joint: number, share: number][] = [];
    const kept = of[0]!;
    if (skinned && held && had)
      for (let q = 0; q < 4; q++) all.push([held[4 * i + q]!, kept * had[4 * i + q]!]);
    else all.push([0, kept]);
    for (let q = 1; q < of.length; q++) all.push([first + q - 1, of[q]!]);
    const most = all.sort((a, b) => b[1] - a[1]).slice(0, INFLUENCES);
    const sum = most.reduce((n, [, s]) => n + s, 0) || 1;
    most.forEach(([joint, share], q) => {
      joints[INFLUENCES * i + q] = share > 0 ? joint : 0;
      shares[INFLUENCES * i + q] = share / sum;
    });
  });
  return { joints, shares };
}

function lengthOf(path: StrandPath): number {
  let sum = 0;
  for (let i = 1; i < path.length; i++) {
    let squared = 0;
    for (let a = 0; a < 3; a++) squared += (path[i]![a]! - path[i - 1]![a]!) ** 2;
    sum += Math.sqrt(squared);
  }
  return sum;
}

function transformed(m: Float64Array, p: ArrayLike<number>): [number, number, number] {
  return [0, 1, 2].map((r) => m[r]! * p[0]! + m[4 + r]! * p[1]! + m[8 + r]! * p[2]! + m[12 + r]!) as [
    number,
    number,
    number,
  ];
}
