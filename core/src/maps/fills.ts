import type { Character } from '../character/index';
import { alongEdges } from '../sheets/index';
import type { PaintMesh } from './mesh';

/** What a mesh can be filled from: a joint's weights, its materials, its vertex colours. */
export interface Sources {
  readonly joints: readonly { readonly node: number; readonly name: string }[];
  /** By primitive; fewer than two tell nothing apart. */
  readonly materials: readonly { readonly primitive: number; readonly name: string }[];
  readonly colours: boolean;
}

const primitivesOf = (character: Character, node: number) =>
  character.meshes[character.nodes[node]!.mesh]!.primitives;

export function sourcesOf(character: Character, node: number): Sources {
  const primitives = primitivesOf(character, node);
  const skin = character.skins[character.nodes[node]!.skin];
  const used = new Set<number>();
  for (const p of primitives) p.joints?.forEach((j, k) => p.weights![k]! > 0 && used.add(j));
  const joints = skin
    ? [...used].map((j) => ({ node: skin.joints[j]!, name: character.nodes[skin.joints[j]!]!.name }))
    : [];
  const materials = primitives.map((p, primitive) => ({
    primitive,
    name: character.materials[p.material]?.name || `material ${primitive + 1}`,
  }));
  return {
    joints: joints.sort((a, b) => a.name.localeCompare(b.name)),
    materials: materials.length > 1 ? materials : [],
    colours: primitives.some((p) => p.colours),
  };
}

/** The points that vertices of a mesh became. */
type Points = Pick<PaintMesh, 'points' | 'pointOf'>;

/** A value of every vertex as one of every point: the largest of those that became it. */
function toPointsBy(mesh: Points, of: (vertex: number) => number): Float64Array {
  const out = new Float64Array(mesh.points);
  mesh.pointOf.forEach((p, v) => (out[p] = Math.max(out[p]!, of(v))));
  return out;
}

/** The primitive of a vertex, and its number there. */
function placer(character: Character, node: number): (vertex: number) => readonly [number, number] {
  const sizes = primitivesOf(character, node).map((p) => p.positions.length / 3);
  return (vertex) => {
    let [k, v] = [0, vertex];
    while (v >= sizes[k]!) v -= sizes[k++]!;
    return [k, v];
  };
}

/** What a joint weighs of each point, 0..1. */
export function fromJoint(character: Character, node: number, mesh: Points, joint: number): Float64Array {
  const primitives = primitivesOf(character, node);
  const at = placer(character, node);
  const index = character.skins[character.nodes[node]!.skin]?.joints.indexOf(joint) ?? -1;
  return toPointsBy(mesh, (vertex) => {
    const [k, v] = at(vertex);
    const { joints, weights } = primitives[k]!;
    let share = 0;
    for (let q = 4 * v; joints && q < 4 * v + 4; q++) if (joints[q] === index) share += weights![q]!;
    return share;
  });
}

/** 1 on the points of a primitive, which has a material of its own. */
export function fromMaterial(
  character: Character,
  node: number,
  mesh: PaintMesh,
  primitive: number,
): Float64Array {
  const at = placer(character, node);
  return toPointsBy(mesh, (vertex) => Number(at(vertex)[0] === primitive));
}

/** Its vertex colours as greys, 0..1: 1 where there is none. */
export function fromColours(character: Character, node: number, mesh: PaintMesh): Float64Array {
  const primitives = primitivesOf(character, node);
  const at = placer(character, node);
  return toPointsBy(mesh, (vertex) => {
    const [k, v] = at(vertex);
    const { colours } = primitives[k]!;
    // Relative luminance (Rec. 709) of linear colours.
    return colours
      ? Math.min(1, 0.2126 * colours[4 * v]! + 0.7152 * colours[4 * v + 1]! + 0.0722 * colours[4 * v + 2]!)
      : 1;
  });
}

/** How far each point is from one of them along the edges, as a share of the farthest; 1 where no edge leads to. */
export function fromPoint(mesh: PaintMesh, point: number): Float64Array {
  const start = new Uint8Array(mesh.points);
  start[point] = 1;
  const far = alongEdges(mesh.sheet, start);
  const most = far.reduce((m, d) => (d < Infinity ? Math.max(m, d) : m), 0) || 1;
  return far.map((d) => Math.min(1, d / most));
}

/**
 * Points inside a loop drawn on the picture that face the eye: `page` has two numbers a vertex, y downwards, and so has
 * each corner of the loop.
 */
export function inLasso(
  mesh: PaintMesh,
  page: ArrayLike<number>,
  loop: readonly (readonly [number, number])[],
): Uint8Array {
  const { sheet, pointOf, points } = mesh;
  const vertexOf = new Int32Array(points);
  pointOf.forEach((p, v) => (vertexOf[p] = v));
  const faces = new Uint8Array(points);
  const { triangles } = sheet;
  for (let t = 0; t < triangles.length; t += 3) {
    const [a, b, c] = [0, 1, 2].map((k) => 2 * vertexOf[triangles[t + k]!]!) as [number, number, number];
    const area =
      (page[b]! - page[a]!) * (page[c + 1]! - page[a + 1]!) -
      (page[c]! - page[a]!) * (page[b + 1]! - page[a + 1]!);
    if (area < 0) for (let k = 0; k < 3; k++) faces[triangles[t + k]!] = 1;
  }
  return faces.map((f, p) => Number(f && inside(page[2 * vertexOf[p]!]!, page[2 * vertexOf[p]! + 1]!, loop)));
}

/** Whether a place is inside a loop: by the edges that a ray to the right crosses. */
function inside(x: number, y: number, loop: readonly (readonly [number, number])[]): boolean {
  let is = false;
  loop.forEach(([ax, ay], k) => {
    const [bx, by] = loop[(k + 1) % loop.length]!;
    if (ay > y !== by > y && x < ax + ((y - ay) / (by - ay)) * (bx - ax)) is = !is;
  });
  return is;
}
