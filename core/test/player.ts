import { MeshoptDecoder } from 'meshoptimizer';
import {
  AnimationMixer,
  LoopOnce,
  Mesh,
  Vector3,
  type AnimationClip,
  type LineSegments,
  type Object3D,
} from 'three';
import { GLTFLoader } from 'three/examples/jsm/loaders/GLTFLoader.js';

/** An independent player: three's loader and mixer. World places of nodes at times, by node index of the file. */
export class Player {
  private constructor(
    private readonly scene: Object3D,
    readonly clips: AnimationClip[],
    private readonly objects: Map<number, Object3D>,
  ) {}

  static async open(bytes: Uint8Array<ArrayBuffer>): Promise<Player> {
    await MeshoptDecoder.ready;
    const loader = new GLTFLoader();
    loader.setMeshoptDecoder(MeshoptDecoder);
    const copy = bytes.slice().buffer;
    const gltf = await loader.parseAsync(copy, '');
    const objects = new Map<number, Object3D>();
    for (const [object, where] of gltf.parser.associations) {
      const node = (where as { nodes?: number } | undefined)?.nodes;
      if (node !== undefined && 'isObject3D' in object) objects.set(node, object as Object3D);
    }
    return new Player(gltf.scene, gltf.animations, objects);
  }

  /** World places of all vertices of a mesh node, morphed and skinned, 3 numbers each. */
  vertices(index: number, time: number, node: number): Float64Array {
    const mixer = new AnimationMixer(this.scene);
    const action = mixer.clipAction(this.clips[index]!);
    action.setLoop(LoopOnce, 1).play();
    action.clampWhenFinished = true;
    mixer.setTime(time);
    this.scene.updateMatrixWorld(true);
    const out: number[] = [];
    const at = new Vector3();
    this.objects.get(node)!.traverse((o) => {
      const mesh = o as Mesh;
      if (!mesh.isMesh && !(o as unknown as LineSegments).isLine) return;
      for (let v = 0; v < mesh.geometry.attributes.position!.count; v++) {
        // Lines have no such function of their own; a skinned mesh has one that skins.
        (mesh.isMesh ? mesh : Mesh.prototype).getVertexPosition
          .call(mesh, v, at)
          .applyMatrix4(mesh.matrixWorld);
        out.push(at.x, at.y, at.z);
      }
    });
    mixer.stopAllAction();
    return Float64Array.from(out);
  }

  /** World places (3 numbers each) of `nodes` with clip `index` (or the rest pose) at `time` seconds. */
  places(index: number | null, time: number, nodes: readonly number[]): number[] {
    const clip = index === null ? null : this.clips[index]!;
    const mixer = new AnimationMixer(this.scene);
    if (clip) {
      const action = mixer.clipAction(clip);
      action.setLoop(LoopOnce, 1);
      action.clampWhenFinished = true;
      action.play();
      mixer.setTime(time);
    }
    this.scene.updateMatrixWorld(true);
    const out = nodes.flatMap((n) => this.objects.get(n)!.getWorldPosition(new Vector3()).toArray());
    if (clip) {
      mixer.stopAllAction();
      mixer.uncacheRoot(this.scene);
    }
    return out;
  }
}
