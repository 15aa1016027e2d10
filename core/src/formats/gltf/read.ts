import type { Character, CharacterNode, Mesh, Note, Skin } from '../../character/index';
import { matDecompose, quatNormalise } from '../../math/index';
import { AccessorReader, type MeshoptDecoder } from './accessor';
import type { Container } from './container';
import { fileError } from './fault';
import { openContainer } from './open';
import type { DracoModule } from './draco';
import { readMeshNames, readMeshes } from './meshes';
import { count, shownName } from './words';
import { readClips } from './clips';
import { readImages, readMaterials } from './materials';

/** Decoders for compressed files. Without one, a file that needs it is refused with a message saying so. */
export interface Decoders {
  meshopt?: MeshoptDecoder;
  draco?: DracoModule;
}

export interface ReadOptions {
  /** Leave meshes and pictures out: joints and clips are all that simulation needs. */
  skeletonOnly?: boolean;
}

/** Extensions that may be required by a file we read; their data is either understood or not needed here. */
const HARMLESS =
  /^(KHR_materials_|KHR_texture_|EXT_texture_|KHR_lights_|KHR_mesh_quantization|KHR_animation_pointer|KHR_xmp|EXT_mesh_gpu_instancing)/;
const UNDERSTOOD = new Set([
  'EXT_meshopt_compression',
  'KHR_meshopt_compression',
  'KHR_draco_mesh_compression',
  'KHR_mesh_quantization',
]);

/**
 * Reads a .glb, .gltf with embedded data, or a zip of a .gltf with its files, into a character.
 * Throws OscillumError('file.*') naming the file, the place and the remedy; reads nothing by halves.
 */
export function readGltf(
  bytes: Uint8Array,
  fileName: string,
  decoders: Decoders = {},
  options: ReadOptions = {},
): Character {
  return readContainer(openContainer(bytes, fileName), decoders, options);
}

export function readContainer(
  container: Container,
  decoders: Decoders = {},
  options: ReadOptions = {},
): Character {
  const { json, fileName } = container;
  for (const extension of json.extensionsRequired ?? []) {
    if (!UNDERSTOOD.has(extension) && !HARMLESS.test(extension)) {
      throw fileError(
        fileName,
        'file.unsupported',
        `needs the extension ${extension.slice(0, 60)}, which is not read`,
        '/extensionsRequired',
        'Export it again without that extension.',
      );
    }
  }
  const notes: Note[] = [];
  const accessors = new AccessorReader(container, decoders.meshopt ?? null);
  const { nodes, order } = readNodes(container, notes);
  const skins = readSkins(container, accessors, notes);
  const meshes: Mesh[] = options.skeletonOnly
    ? readMeshNames(container)
    : readMeshes(container, accessors, decoders.draco ?? null, notes);
  checkNodeReferences(container, nodes, skins);
  const clips = readClips(container, accessors, nodes, meshes, notes);
  const joints = pickJoints(nodes, skins);
  if (skins.length === 0) notes.push({ kind: 'found', text: 'No skin: every node can be moved.' });
  if (clips.length === 0) notes.push({ kind: 'found', text: 'No clips: the rest pose stands still.' });
  return {
    name: baseName(fileName),
    nodes,
    order,
    skins,
    meshes,
    clips,
    materials: readMaterials(container),
    images: options.skeletonOnly ? [] : readImages(container, accessors, notes),
    joints,
    notes,
  };
}

function baseName(fileName: string): string {
  return fileName.replace(/\.(glb|gltf|zip)$/i, '') || 'Character';
}

function readNodes(container: Container, notes: Note[]): { nodes: CharacterNode[]; order: Int32Array } {
  const raw = container.json.nodes ?? [];
  if (raw.length === 0)
    throw fileError(
      container.fileName,
      'file.invalid',
      'has no nodes, so there is nothing to move',
      '/nodes',
    );
  const parent = parentsOf(container);
  const order = breadthFirst(container, parent);
  let unnamed = 0;
  let matrices = 0;
  let sheared = 0;
  let crooked = 0;
  const seen = new Map<string, number>();
  const nodes = raw.map((n, i): CharacterNode => {
    const t = Float64Array.from(n.translation ?? [0, 0, 0]);
    const r = Float64Array.from(n.rotation ?? [0, 0, 0, 1]);
    const s = Float64Array.from(n.scale ?? [1, 1, 1]);
    if (n.matrix) {
      matrices++;
      if (matDecompose(n.matrix, 0, t, r, s) > 1e-4) sheared++;
    } else {
      const length = Math.sqrt(r[0]! ** 2 + r[1]! ** 2 + r[2]! ** 2 + r[3]! ** 2);
      if (Math.abs(length - 1) > 1e-3) crooked++;
      quatNormalise(r, 0);
    }
    if (!n.name) unnamed++;
    const name = shownName(n.name) || `node ${i}`;
    seen.set(name, (seen.get(name) ?? 0) + 1);
    return {
      name,
      parent: parent[i]!,
      children: n.children ?? [],
      t,
      r,
      s,
      mesh: n.mesh ?? -1,
      skin: n.skin ?? -1,
    };
  });
  tellOfNodes(
    { unnamed, doubles: [...seen.values()].filter((n) => n > 1).length, matrices, sheared, crooked },
    notes,
  );
  return { nodes, order };
}

/** The parent of each node; −1 for roots. */
function parentsOf(container: Container): Int32Array {
  const raw = container.json.nodes ?? [];
  const parent = new Int32Array(raw.length).fill(-1);
  raw.forEach((n, i) => {
    for (const child of n.children ?? []) {
      const place = `/nodes/${i}/children`;
      if (child >= raw.length)
        throw fileError(
          container.fileName,
          'file.invalid',
          `has a node whose child ${child} does not exist`,
          place,
        );
      if (parent[child] !== -1)
        throw fileError(container.fileName, 'file.invalid', `has node ${child} below two parents`, place);
      parent[child] = i;
    }
  });
  return parent;
}

/** Nodes from the roots on, parents before children; whatever is not reached hangs in a ring. */
function breadthFirst(container: Container, parent: Int32Array): Int32Array {
  const raw = container.json.nodes ?? [];
  const order = new Int32Array(raw.length);
  let filled = 0;
  for (let i = 0; i < raw.length; i++) if (parent[i] === -1) order[filled++] = i;
  for (let k = 0; k < filled; k++)
    for (const child of raw[order[k]!]!.children ?? []) order[filled++] = child;
  if (filled < raw.length)
    throw fileError(container.fileName, 'file.invalid', 'has nodes that are their own ancestors', '/nodes');
  return order;
}

/** What was found and mended in the nodes of a file, counted. */
interface NodeTally {
  readonly unnamed: number;
  readonly doubles: number;
  readonly matrices: number;
  readonly sheared: number;
  readonly crooked: number;
}

function tellOfNodes({ unnamed, doubles, matrices, sheared, crooked }: NodeTally, notes: Note[]): void {
  if (unnamed)
    notes.push({ kind: 'repaired', text: `${count(unnamed, 'node')} without a name: shown by number.` });
  if (doubles)
    notes.push({
      kind: 'found',
      text: `${count(doubles, 'name')} used more than once: told apart by number.`,
    });
  if (matrices)
    notes.push({
      kind: 'repaired',
      text: `${count(matrices, 'node')} given as a matrix: split into move, turn and scale.`,
    });
  if (sheared)
    notes.push({
      kind: 'warning',
      text: `${count(sheared, 'matrix', 'matrices')} with shear, which cannot be kept in an animated joint.`,
    });
  if (crooked)
    notes.push({ kind: 'repaired', text: `${count(crooked, 'rotation')} of wrong length: made unit.` });
}

function checkNodeReferences(
  container: Container,
  nodes: readonly CharacterNode[],
  skins: readonly Skin[],
): void {
  const meshes = container.json.meshes?.length ?? 0;
  nodes.forEach((n, i) => {
    if (n.mesh >= meshes)
      throw fileError(
        container.fileName,
        'file.invalid',
        `refers to mesh ${n.mesh}, which does not exist`,
        `/nodes/${i}/mesh`,
      );
    if (n.skin >= skins.length)
      throw fileError(
        container.fileName,
        'file.invalid',
        `refers to skin ${n.skin}, which does not exist`,
        `/nodes/${i}/skin`,
      );
  });
}

function readSkins(container: Container, accessors: AccessorReader, notes: Note[]): Skin[] {
  const nodeCount = container.json.nodes?.length ?? 0;
  let missing = 0;
  const skins = (container.json.skins ?? []).map((s, i): Skin => {
    const place = `/skins/${i}`;
    if (s.joints.length === 0)
      throw fileError(container.fileName, 'file.invalid', 'has a skin without joints', `${place}/joints`);
    const bad = s.joints.find((j) => j >= nodeCount);
    if (bad !== undefined)
      throw fileError(
        container.fileName,
        'file.invalid',
        `has a skin with joint ${bad}, which does not exist`,
        `${place}/joints`,
      );
    let inverseBind: Float64Array;
    if (s.inverseBindMatrices === undefined) {
      missing++;
      inverseBind = new Float64Array(16 * s.joints.length);
      for (let k = 0; k < s.joints.length; k++) for (let d = 0; d < 4; d++) inverseBind[16 * k + 5 * d] = 1;
    } else {
      inverseBind = accessors.read(
        s.inverseBindMatrices,
        `${place}/inverseBindMatrices`,
        (n) => new Float64Array(n),
        ['MAT4'],
      );
      if (inverseBind.length < 16 * s.joints.length)
        throw fileError(
          container.fileName,
          'file.invalid',
          'has a skin with fewer inverse bind matrices than joints',
          `${place}/inverseBindMatrices`,
        );
    }
    return { name: s.name ?? `skin ${i}`, joints: Int32Array.from(s.joints), inverseBind };
  });
  if (missing)
    notes.push({
      kind: 'repaired',
      text: `${count(missing, 'skin')} without inverse bind matrices: taken as identity, as glTF says.`,
    });
  return skins;
}

function pickJoints(nodes: readonly CharacterNode[], skins: readonly Skin[]): Int32Array {
  if (skins.length === 0) return Int32Array.from(nodes.keys());
  const set = new Set<number>();
  for (const s of skins) for (const j of s.joints) set.add(j);
  return Int32Array.from([...set].sort((a, b) => a - b));
}
