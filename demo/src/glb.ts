import {
  Document,
  NodeIO,
  Primitive,
  type Buffer,
  type Material,
  type Node,
  type Scene,
  type Skin,
} from '@gltf-transform/core';
import type { NamedMesh } from './brindleMeshes';
import { FPS, type DemoClip } from './clips';
import { NO_TURN, type Rig } from './rig';
import { sub } from './shape';

/** A document being filled. */
interface Filling {
  readonly doc: Document;
  readonly buffer: Buffer;
  readonly scene: Scene;
  readonly rig: Rig;
}

/**
 * Rig, meshes and clips as a GLB: one skin shared by all meshes, vertex colours, rotations keyed only where they move.
 */
export async function toGlb(
  name: string,
  rig: Rig,
  meshes: readonly NamedMesh[],
  clips: readonly DemoClip[],
): Promise<Uint8Array<ArrayBuffer>> {
  const doc = new Document();
  doc.getRoot().getAsset().generator = 'Mountain Post demo';
  const filling = { doc, buffer: doc.createBuffer(), scene: doc.createScene(name), rig };
  const { nodes, skin } = addRig(filling);
  addMeshes(filling, skin, meshes);
  for (const clip of clips) addClip(filling, nodes, clip);
  return (await new NodeIO().writeBinary(doc)) as Uint8Array<ArrayBuffer>;
}

function addRig({ doc, buffer, scene, rig }: Filling): { nodes: Node[]; skin: Skin } {
  const nodes = rig.joints.map((j) => {
    const parent = j.parent < 0 ? null : rig.joints[j.parent]!;
    return doc.createNode(j.name).setTranslation([...(parent ? sub(j.at, parent.at) : j.at)]);
  });
  rig.joints.forEach((j, i) =>
    j.parent < 0 ? scene.addChild(nodes[i]!) : nodes[j.parent]!.addChild(nodes[i]!),
  );
  const bind = new Float32Array(16 * rig.joints.length);
  rig.joints.forEach((j, i) =>
    bind.set([1, 0, 0, 0, 0, 1, 0, 0, 0, 0, 1, 0, -j.at[0], -j.at[1], -j.at[2], 1], 16 * i),
  );
  const skin = doc
    .createSkin('rig')
    .setInverseBindMatrices(doc.createAccessor().setType('MAT4').setArray(bind).setBuffer(buffer))
    .setSkeleton(nodes[0]!);
  nodes.forEach((n) => skin.addJoint(n));
  return { nodes, skin };
}

function addMeshes({ doc, buffer, scene }: Filling, skin: Skin, meshes: readonly NamedMesh[]): void {
  const material = (m: string, thin: boolean): Material =>
    doc
      .createMaterial(m)
      .setBaseColorFactor([1, 1, 1, 1])
      .setRoughnessFactor(0.9)
      .setMetallicFactor(0)
      .setDoubleSided(thin);
  const some = (thin: boolean) => meshes.some((m) => m.thin === thin);
  const solid = some(false) ? material('ink', false) : null;
  const cloth = some(true) ? material('felt', true) : null;
  for (const m of meshes) {
    const g = m.sculpt.finish(m.lines);
    const accessor = (type: 'VEC3' | 'VEC4' | 'SCALAR', array: Float32Array | Uint16Array | Uint32Array) =>
      doc
        .createAccessor()
        .setType(type)
        .setArray(array as Float32Array<ArrayBuffer>)
        .setBuffer(buffer);
    const small = g.positions.length / 3 < 65535 ? Uint16Array.from(g.indices) : g.indices;
    const primitive = doc
      .createPrimitive()
      .setAttribute('POSITION', accessor('VEC3', g.positions))
      .setAttribute('COLOR_0', accessor('VEC4', g.colours))
      .setAttribute('JOINTS_0', accessor('VEC4', g.joints))
      .setAttribute('WEIGHTS_0', accessor('VEC4', g.weights))
      .setIndices(accessor('SCALAR', small))
      .setMaterial(m.thin ? cloth : solid);
    if (m.lines) primitive.setMode(Primitive.Mode.LINES!);
    else primitive.setAttribute('NORMAL', accessor('VEC3', g.normals));
    scene.addChild(
      doc.createNode(`${m.name} mesh`).setMesh(doc.createMesh(m.name).addPrimitive(primitive)).setSkin(skin),
    );
  }
}

function addClip({ doc, buffer, rig }: Filling, nodes: readonly Node[], clip: DemoClip): void {
  const animation = doc.createAnimation(clip.name);
  const times = doc
    .createAccessor()
    .setType('SCALAR')
    .setArray(Float32Array.from(clip.keys, (_, k) => k / FPS))
    .setBuffer(buffer);
  const channel = (node: number, path: 'rotation' | 'translation', values: Float32Array) => {
    const output = doc
      .createAccessor()
      .setType(path === 'rotation' ? 'VEC4' : 'VEC3')
      .setArray(values as Float32Array<ArrayBuffer>)
      .setBuffer(buffer);
    const sampler = doc.createAnimationSampler().setInput(times).setOutput(output).setInterpolation('LINEAR');
    animation
      .addSampler(sampler)
      .addChannel(
        doc.createAnimationChannel().setTargetNode(nodes[node]!).setTargetPath(path).setSampler(sampler),
      );
  };
  const turned = new Set(clip.keys.flatMap((k) => Object.keys(k.turns)));
  rig.joints.forEach((j, i) => {
    if (turned.has(j.name))
      channel(i, 'rotation', Float32Array.from(clip.keys.flatMap((k) => [...(k.turns[j.name] ?? NO_TURN)])));
  });
  const root = rig.joints.findIndex((j) => j.name === 'root');
  if (root >= 0 && clip.keys.some((k) => k.root.some((x) => x !== 0)))
    channel(root, 'translation', Float32Array.from(clip.keys.flatMap((k) => [...k.root])));
  for (const name of Object.keys(clip.keys[0]?.moves ?? {}))
    channel(
      rig.index(name),
      'translation',
      Float32Array.from(clip.keys.flatMap((k) => [...k.moves![name]!])),
    );
  const hips = rig.joints.findIndex((j) => j.name === 'hips');
  if (hips >= 0)
    channel(
      hips,
      'translation',
      Float32Array.from(clip.keys.flatMap((k) => [...sub(k.hips, rig.joints[rig.joints[hips]!.parent]!.at)])),
    );
}
