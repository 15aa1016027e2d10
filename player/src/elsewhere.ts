import { clipMotion, compareMotions, isSame, type FileCheck, type HandOffFile } from '@oscillum/core/handoff';
import type { Character } from '@oscillum/core/character';
import { openContainer, toGlb, type Container } from '@oscillum/core/gltf';
import type { Motion } from '@oscillum/core/motion';
import { AnimationMixer, LoopOnce, Quaternion, Vector3, type AnimationClip, type Object3D } from 'three';

/** Frames that are played at most: spread over the clip, its ends among them. */
const PLAYED = 48;

/**
 * Plays a written file in a player that is not ours (three's loaders and mixer), and compares where the joints are with
 * what our own reader makes of the baked clip. Only GLB and BVH: null for other formats.
 */
export async function playElsewhere(
  file: HandOffFile,
  baked: Character,
  clip: number,
  fps: number,
): Promise<FileCheck | null> {
  if (file.format !== 'glb' && file.format !== 'bvh') return null;
  const meant = clipMotion(baked, clip, { fps, metresPerUnit: 1, upAxis: 'Y', unit: 1, up: 'Y' });
  const { root, animation, objects, by } =
    file.format === 'glb' ? await openGlb(file, clip, baked) : await openBvh(file, meant);
  const rows = playedRows(meant);
  const found = played(root, animation, objects, meant, rows);
  const compared = compareMotions(rowsOf(meant, rows), found);
  // Other readers of BVH give end sites no names.
  const named = meant.joints.filter(
    ({ name, parent }) => file.format !== 'bvh' || parent < 0 || name !== `${meant.joints[parent]!.name} end`,
  );
  return {
    ...compared,
    frame: meant.first + rows[Math.min(rows.length - 1, compared.frame - meant.first)]!,
    ...{ file: file.name, clip: baked.clips[clip]!.name, by },
    fine: compared.joints >= named.length && isSame(compared, file.format === 'glb'),
  };
}

interface Opened {
  root: Object3D;
  animation: AnimationClip;
  /** One for each joint of the motion, where there is one. */
  objects: (Object3D | undefined)[];
  by: string;
}

async function openGlb(file: HandOffFile, clip: number, baked: Character): Promise<Opened> {
  const [{ GLTFLoader }, { MeshoptDecoder }] = await Promise.all([
    import('three/examples/jsm/loaders/GLTFLoader.js'),
    import('meshoptimizer'),
  ]);
  const loader = new GLTFLoader();
  loader.setMeshoptDecoder(MeshoptDecoder);
  const parse = (bytes: Uint8Array<ArrayBuffer>) => loader.parseAsync(bytes.slice().buffer, '');
  let by = 'three.js';
  // What it cannot load of meshes and pictures does not keep it from the motion.
  const gltf = await parse(file.bytes).catch(() => {
    by = 'three.js (skeleton only)';
    return parse(withoutMeshes(file));
  });
  const nodes = new Map<number, Object3D>();
  for (const [object, where] of gltf.parser.associations) {
    const node = (where as { nodes?: number } | undefined)?.nodes;
    if (node !== undefined && 'isObject3D' in object) nodes.set(node, object as Object3D);
  }
  const isJoint = new Set(baked.joints);
  // Joints of a motion stand in the order of the character's nodes.
  const objects = Array.from(baked.order)
    .filter((n) => isJoint.has(n))
    .map((n) => nodes.get(n));
  return { root: gltf.scene, animation: gltf.animations[clip]!, objects, by };
}

/** The same file without what hangs on its joints. */
function withoutMeshes(file: HandOffFile): Uint8Array<ArrayBuffer> {
  const container = openContainer(file.bytes, file.name);
  const json = structuredClone(container.json) as Container['json'];
  for (const node of json.nodes ?? []) {
    delete node.mesh;
    delete node.skin;
  }
  for (const key of ['meshes', 'skins', 'materials', 'textures', 'images', 'samplers'] as const)
    delete (json as Record<string, unknown>)[key];
  const packing = (e: string) => e.includes('meshopt') || e.includes('quantization');
  json.extensionsUsed = (json.extensionsUsed ?? []).filter(packing);
  json.extensionsRequired = (json.extensionsRequired ?? []).filter(packing);
  return toGlb({ ...container, json });
}

async function openBvh(file: HandOffFile, meant: Motion): Promise<Opened> {
  const { BVHLoader } = await import('three/examples/jsm/loaders/BVHLoader.js');
  const { skeleton, clip } = new BVHLoader().parse(new TextDecoder().decode(file.bytes));
  const bones = new Map(skeleton.bones.map((b) => [b.name, b]));
  const objects = meant.joints.map((j) => bones.get(j.name));
  return { root: skeleton.bones[0]!, animation: clip, objects, by: 'three.js' };
}

function playedRows(meant: Motion): number[] {
  const count = Math.min(PLAYED, meant.count);
  return [
    ...new Set(
      Array.from({ length: count }, (_, k) => Math.round((k * (meant.count - 1)) / Math.max(1, count - 1))),
    ),
  ];
}

/** Some rows of a motion. */
function rowsOf(m: Motion, rows: readonly number[]): Motion {
  const n = m.joints.length;
  const some = (list: Float64Array, size: number) => {
    const out = new Float64Array(rows.length * n * size);
    rows.forEach((f, k) => out.set(list.subarray(f * n * size, (f + 1) * n * size), k * n * size));
    return out;
  };
  return { ...m, count: rows.length, t: some(m.t, 3), r: some(m.r, 4), s: some(m.s, 3) };
}

/** The places another player puts the joints at, as a motion of roots. */
function played(
  root: Object3D,
  animation: AnimationClip,
  objects: readonly (Object3D | undefined)[],
  meant: Motion,
  rows: readonly number[],
): Motion {
  const joints = meant.joints.flatMap(({ name }, i) => (objects[i] ? [{ name, object: objects[i] }] : []));
  const n = joints.length;
  const t = new Float64Array(3 * n * rows.length);
  const r = new Float64Array(4 * n * rows.length);
  const s = new Float64Array(3 * n * rows.length);
  const mixer = new AnimationMixer(root);
  const action = mixer.clipAction(animation);
  action.setLoop(LoopOnce, 1).play();
  action.clampWhenFinished = true;
  rows.forEach((f, k) => {
    mixer.setTime(Math.fround(f / meant.fps));
    root.updateMatrixWorld(true);
    joints.forEach(({ object }, i) => {
      t.set(object.getWorldPosition(new Vector3()).toArray(), 3 * (k * n + i));
      r.set(object.getWorldQuaternion(new Quaternion()).toArray(), 4 * (k * n + i));
      s.set(object.getWorldScale(new Vector3()).toArray(), 3 * (k * n + i));
    });
  });
  return {
    ...{ name: meant.name, fps: meant.fps, first: meant.first, count: rows.length, t, r, s },
    joints: joints.map(({ name }) => ({ name, parent: -1, t: [0, 0, 0], r: [0, 0, 0, 1], s: [1, 1, 1] })),
  };
}

/** Faults that the standard's own validator finds in a GLB, in its words. */
export async function faultsOf(file: HandOffFile): Promise<string[]> {
  const { validateBytes } = await import('gltf-validator');
  const report = await validateBytes(file.bytes, { maxIssues: 20 });
  return report.issues.messages
    .filter((m) => m.severity === 0)
    .map((m) => `${m.message}${m.pointer ? ` (${m.pointer})` : ''}`);
}
