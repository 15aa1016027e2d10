import { z } from 'zod';
import type {
  Channel,
  Character,
  CharacterNode,
  Clip,
  Material,
  Mesh,
  Note,
  Picture,
  Skin,
} from '../../character/index';
import { matDecompose, quatNormalise } from '../../math/index';
import { AccessorReader, type MeshoptDecoder } from './accessor';
import { fileError, fromDataUri, type Container } from './container';
import { openContainer } from './open';
import type { DracoModule } from './draco';
import { readMeshes } from './meshes';
import { count } from './words';

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
    ? (json.meshes ?? []).map((m, i) => ({
        name: m.name ?? `mesh ${i}`,
        primitives: [],
        weights: Float64Array.from(m.weights ?? []),
      }))
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
  // Breadth first from the roots; whatever is not reached hangs in a ring.
  const order = new Int32Array(raw.length);
  let filled = 0;
  for (let i = 0; i < raw.length; i++) if (parent[i] === -1) order[filled++] = i;
  for (let k = 0; k < filled; k++)
    for (const child of raw[order[k]!]!.children ?? []) order[filled++] = child;
  if (filled < raw.length)
    throw fileError(container.fileName, 'file.invalid', 'has nodes that are their own ancestors', '/nodes');

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
    const name = n.name || `node ${i}`;
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
  const doubles = [...seen.values()].filter((n) => n > 1).length;
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
  return { nodes, order };
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

const PATHS = { translation: 3, rotation: 4, scale: 3, weights: 0 } as const;

function readClips(
  container: Container,
  accessors: AccessorReader,
  nodes: readonly CharacterNode[],
  meshes: readonly Mesh[],
  notes: Note[],
): Clip[] {
  let repeats = 0;
  let unsorted = 0;
  let other = 0;
  let empty = 0;
  let offsets = 0;
  const { fileName, json } = container;
  const clips = (json.animations ?? []).map((a, i): Clip => {
    const channels: Channel[] = [];
    let duration = 0;
    a.channels.forEach((c, k) => {
      const place = `/animations/${i}/channels/${k}`;
      const { node, path } = c.target;
      if (node === undefined || !(path in PATHS)) {
        other++;
        return;
      }
      if (node >= nodes.length)
        throw fileError(fileName, 'file.invalid', `animates node ${node}, which does not exist`, place);
      const sampler = a.samplers[c.sampler];
      if (!sampler)
        throw fileError(
          fileName,
          'file.invalid',
          `refers to sampler ${c.sampler}, which does not exist`,
          place,
        );
      const interpolation = sampler.interpolation ?? 'LINEAR';
      if (interpolation !== 'LINEAR' && interpolation !== 'STEP' && interpolation !== 'CUBICSPLINE')
        throw fileError(
          fileName,
          'file.invalid',
          'has an unknown interpolation',
          `/animations/${i}/samplers/${c.sampler}`,
        );
      const kind = path as Channel['path'];
      const size = kind === 'weights' ? (meshes[nodes[node]!.mesh]?.weights.length ?? 0) : PATHS[kind];
      if (size === 0) {
        other++;
        return;
      }
      let times = accessors.read(sampler.input, place, (n) => new Float64Array(n), ['SCALAR']);
      let values = accessors.read(
        sampler.output,
        place,
        (n) => new Float64Array(n),
        kind === 'weights' ? ['SCALAR'] : kind === 'rotation' ? ['VEC4'] : ['VEC3'],
      );
      const stride = size * (interpolation === 'CUBICSPLINE' ? 3 : 1);
      if (times.length === 0) return;
      if (values.length < times.length * stride)
        throw fileError(
          fileName,
          'file.invalid',
          `has ${times.length} keys but values for ${Math.floor(values.length / stride)}`,
          place,
        );
      if (times.some((t, n) => n > 0 && t < times[n - 1]!)) {
        unsorted++;
        const sorted = Array.from(times.keys()).sort((x, y) => times[x]! - times[y]! || x - y);
        const v = values;
        values = Float64Array.from(
          sorted.flatMap((n) => Array.from(v.subarray(n * stride, (n + 1) * stride))),
        );
        const t = times;
        times = Float64Array.from(sorted, (n) => t[n]!);
      }
      if (times.some((t, n) => n > 0 && t === times[n - 1])) repeats++;
      duration = Math.max(duration, times[times.length - 1]!);
      channels.push({ node, path: kind, interpolation, times, values });
    });
    if (duration === 0) empty++;
    const over = overOf(a.extras, i);
    if (over) offsets++;
    return { name: a.name ?? `clip ${i}`, duration, channels, over };
  });
  if (offsets)
    notes.push({
      kind: 'found',
      text: `${count(offsets, 'offset clip')}: added to the clip it was made over.`,
    });
  if (repeats)
    notes.push({
      kind: 'repaired',
      text: `${count(repeats, 'channel')} with two keys at one time: the later counts from there on.`,
    });
  if (unsorted)
    notes.push({ kind: 'repaired', text: `${count(unsorted, 'channel')} with keys out of order: sorted.` });
  if (empty) notes.push({ kind: 'warning', text: `${count(empty, 'clip')} of no length: a still pose.` });
  if (other)
    notes.push({
      kind: 'found',
      text: `${count(other, 'channel')} of kinds not shown here: kept in the file as they are.`,
    });
  return clips;
}

/** What our own writer says of an offset clip; it can only be over a clip that stands before it. */
const Offset = z.object({
  oscillum: z.object({ offset: z.object({ over: z.int().min(0), shift: z.number().min(0).default(0) }) }),
});

function overOf(extras: unknown, index: number): Clip['over'] {
  const said = Offset.safeParse(extras);
  if (!said.success) return null;
  const { over, shift } = said.data.oscillum.offset;
  return over < index ? { clip: over, shift } : null;
}

function pickJoints(nodes: readonly CharacterNode[], skins: readonly Skin[]): Int32Array {
  if (skins.length === 0) return Int32Array.from(nodes.keys());
  const set = new Set<number>();
  for (const s of skins) for (const j of s.joints) set.add(j);
  return Int32Array.from([...set].sort((a, b) => a - b));
}

function readMaterials(container: Container): Material[] {
  return (container.json.materials ?? []).map((m, i) => {
    const pbr = m.pbrMetallicRoughness;
    const texture = pbr?.baseColorTexture ? container.json.textures?.[pbr.baseColorTexture.index] : undefined;
    const webp = texture?.extensions?.EXT_texture_webp?.source;
    const image = typeof webp === 'number' ? webp : texture?.source;
    return {
      name: m.name ?? `material ${i}`,
      baseColour: (pbr?.baseColorFactor ?? [1, 1, 1, 1]) as [number, number, number, number],
      baseImage: image !== undefined && image < (container.json.images?.length ?? 0) ? image : -1,
      doubleSided: m.doubleSided ?? false,
    };
  });
}

/** The type of a picture by its first bytes, or null: what a file says of itself is not believed. */
function sniffPicture(b: Uint8Array): string | null {
  if (b[0] === 0x89 && b[1] === 0x50 && b[2] === 0x4e && b[3] === 0x47) return 'image/png';
  if (b[0] === 0xff && b[1] === 0xd8 && b[2] === 0xff) return 'image/jpeg';
  if (b[0] === 0x52 && b[1] === 0x49 && b[8] === 0x57 && b[9] === 0x45) return 'image/webp';
  return null;
}

function readImages(container: Container, accessors: AccessorReader, notes: Note[]): Picture[] {
  let lost = 0;
  const images = (container.json.images ?? []).map((image, i): Picture => {
    let bytes: Uint8Array | null = null;
    if (image.bufferView !== undefined) bytes = accessors.view(image.bufferView, `/images/${i}`).bytes;
    else if (image.uri?.startsWith('data:')) bytes = fromDataUri(image.uri);
    else if (image.uri) bytes = container.resource(image.uri);
    const mimeType = bytes && sniffPicture(bytes);
    if (!bytes || !mimeType) {
      lost++;
      return { mimeType: '', bytes: new Uint8Array(0) };
    }
    return { mimeType, bytes };
  });
  if (lost)
    notes.push({
      kind: 'warning',
      text: `${count(lost, 'picture')} missing or of a kind not shown (PNG, JPEG and WebP are): drawn in plain colour, kept in the file.`,
    });
  return images;
}
