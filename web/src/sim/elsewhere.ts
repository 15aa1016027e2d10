import { clipMotion, compareMotions, WITHIN, type FileCheck, type HandOffFile } from '@oscillum/core/handoff';
import type { Character } from '@oscillum/core/character';
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
  const { root, animation, objects } =
    file.format === 'glb' ? await openGlb(file, clip, baked) : await openBvh(file);
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
    ...{ file: file.name, clip: baked.clips[clip]!.name, by: 'three.js' },
    fine: compared.joints >= named.length && compared.share <= WITHIN,
  };
}

interface Opened {
  root: Object3D;
  animation: AnimationClip;
  /** By the name our own reader gives. */
  objects: Map<string, Object3D>;
}

async function openGlb(file: HandOffFile, clip: number, baked: Character): Promise<Opened> {
  const [{ GLTFLoader }, { MeshoptDecoder }] = await Promise.all([
    import('three/examples/jsm/loaders/GLTFLoader.js'),
    import('meshoptimizer'),
  ]);
  const loader = new GLTFLoader();
  loader.setMeshoptDecoder(MeshoptDecoder);
  const gltf = await loader.parseAsync(file.bytes.slice().buffer, '');
  const objects = new Map<string, Object3D>();
  for (const [object, where] of gltf.parser.associations) {
    const node = (where as { nodes?: number } | undefined)?.nodes;
    if (node !== undefined && 'isObject3D' in object)
      objects.set(baked.nodes[node]!.name, object as Object3D);
  }
  return { root: gltf.scene, animation: gltf.animations[clip]!, objects };
}

async function openBvh(file: HandOffFile): Promise<Opened> {
  const { BVHLoader } = await import('three/examples/jsm/loaders/BVHLoader.js');
  const { skeleton, clip } = new BVHLoader().parse(new TextDecoder().decode(file.bytes));
  return {
    root: skeleton.bones[0]!,
    animation: clip,
    objects: new Map(skeleton.bones.map((b) => [b.name, b])),
  };
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
  objects: Map<string, Object3D>,
  meant: Motion,
  rows: readonly number[],
): Motion {
  const plain = (name: string) => name.replace(/\s+/g, '_');
  const found = new Map([...objects].map(([name, o]) => [plain(name), o]));
  const joints = meant.joints.flatMap(({ name }) => {
    const object = found.get(plain(name));
    return object ? [{ name, object }] : [];
  });
  const n = joints.length;
  const t = new Float64Array(3 * n * rows.length);
  const r = new Float64Array(4 * n * rows.length);
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
    });
  });
  return {
    ...{ name: meant.name, fps: meant.fps, first: meant.first, count: rows.length, t, r },
    joints: joints.map(({ name }) => ({ name, parent: -1, t: [0, 0, 0], r: [0, 0, 0, 1], s: [1, 1, 1] })),
    s: new Float64Array(3 * n * rows.length).fill(1),
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
