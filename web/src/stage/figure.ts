import type { Character, Primitive } from '@oscillum/core/character';
import * as THREE from 'three';
import { Cords } from './cords';
import { mapInk, paintShares, type MapInk } from './mapInk';

/** What a mesh that is pointed at has added to its colour. */
const LIT = '#4a3a12';
const INK = new THREE.Color('#23263a');
const OUTLINE_PX = 1.6;

/** What can be hit: a mesh with its outline, its node, and how many of the node's vertices come before its own. */
interface Body {
  readonly mesh: THREE.Mesh;
  readonly hull: THREE.Mesh;
  readonly node: number;
  readonly before: number;
  /** Whether a map is drawn on it. */
  readonly ink: MapInk;
  /** The same for vertices with places of their own: made when they first have some. */
  free: THREE.Mesh[] | null;
}

const NO_POINTS: ReadonlyMap<number, Float64Array> = new Map();
const NO_WIDTHS: ReadonlyMap<number, number> = new Map();

/**
 * A drawn character: flat colour with a soft shade and an ink outline (an inverted hull of constant width on screen).
 */
export class Figure {
  readonly group = new THREE.Group();
  private readonly skeletons: { skeleton: THREE.Skeleton; joints: Int32Array }[] = [];
  private readonly rigid: { node: number; object: THREE.Object3D }[] = [];
  private readonly morphing: { node: number; mesh: THREE.Mesh }[] = [];
  private readonly bodies: Body[] = [];
  private readonly outline: THREE.MeshBasicMaterial;
  private readonly disposables: { dispose(): void }[] = [];
  private readonly cords: Cords;
  private readonly viewport = { value: new THREE.Vector2(1, 1) };

  constructor(
    readonly character: Character,
    private readonly changed: () => void,
  ) {
    this.outline = new THREE.MeshBasicMaterial({ color: INK, side: THREE.BackSide });
    this.outline.onBeforeCompile = (shader) => {
      shader.uniforms.viewport = this.viewport;
      shader.vertexShader = shader.vertexShader
        .replace('#include <common>', 'uniform vec2 viewport;\n#include <common>')
        .replace(
          '#include <project_vertex>',
          `#include <project_vertex>
          #ifdef USE_SKINNING
            vec3 hullNormal = (skinMatrix * vec4(normal, 0.0)).xyz;
          #else
            vec3 hullNormal = normal;
          #endif
          vec4 ahead = projectionMatrix * modelViewMatrix * vec4(transformed + hullNormal * 0.01, 1.0);
          vec2 away = ahead.xy / ahead.w - gl_Position.xy / gl_Position.w;
          float reach = length(away * viewport);
          if (reach > 1e-6) gl_Position.xy += away / reach * ${(OUTLINE_PX * 2).toFixed(1)} * gl_Position.w;`,
        );
    };
    this.cords = new Cords(character);
    this.group.add(this.cords.group);
    this.disposables.push(this.outline, this.cords);
    const textures = character.images.map((image) => this.texture(image.mimeType, image.bytes));
    character.nodes.forEach((node, index) => {
      if (node.mesh < 0) return;
      let before = 0;
      for (const p of character.meshes[node.mesh]!.primitives) {
        this.add(index, node.skin, p, textures, before);
        before += p.positions.length / 3;
      }
    });
  }

  private texture(mimeType: string, bytes: Uint8Array): THREE.Texture | null {
    if (!mimeType) return null;
    const texture = new THREE.Texture();
    texture.flipY = false;
    texture.colorSpace = THREE.SRGBColorSpace;
    texture.wrapS = texture.wrapT = THREE.RepeatWrapping;
    this.disposables.push(texture);
    createImageBitmap(new Blob([bytes as Uint8Array<ArrayBuffer>], { type: mimeType })).then(
      (bitmap) => {
        texture.image = bitmap;
        texture.needsUpdate = true;
        this.changed();
      },
      // A damaged picture: the plain colour stays.
      () => undefined,
    );
    return texture;
  }

  private add(
    nodeIndex: number,
    skinIndex: number,
    p: Primitive,
    textures: (THREE.Texture | null)[],
    before: number,
  ): void {
    const geometry = new THREE.BufferGeometry();
    geometry.setAttribute('position', new THREE.BufferAttribute(p.positions, 3));
    geometry.setIndex(new THREE.BufferAttribute(p.indices, 1));
    if (p.normals) geometry.setAttribute('normal', new THREE.BufferAttribute(p.normals, 3));
    else geometry.computeVertexNormals();
    if (p.uvs) geometry.setAttribute('uv', new THREE.BufferAttribute(p.uvs, 2));
    if (p.colours) geometry.setAttribute('color', new THREE.BufferAttribute(p.colours, 4));
    if (p.targets.length) {
      geometry.morphTargetsRelative = true;
      geometry.morphAttributes.position = p.targets.map((t) => new THREE.BufferAttribute(t, 3));
    }
    const source = this.character.materials[p.material];
    const map = source && source.baseImage >= 0 && p.uvs ? textures[source.baseImage] : null;
    const [r, g, b, a] = source?.baseColour ?? [0.85, 0.8, 0.7, 1];
    const material = new THREE.MeshLambertMaterial({
      color: new THREE.Color(r, g, b),
      opacity: a,
      transparent: a < 1,
      vertexColors: p.colours !== null,
      side: source?.doubleSided ? THREE.DoubleSide : THREE.FrontSide,
      ...(map ? { map } : {}),
    });
    this.disposables.push(geometry, material);
    const skin = this.character.skins[skinIndex];
    const make = (m: THREE.Material): THREE.Mesh => {
      if (!skin || !p.joints || !p.weights) return new THREE.Mesh(geometry, m);
      return new THREE.SkinnedMesh(geometry, m);
    };
    if (skin && p.joints && p.weights) {
      geometry.setAttribute('skinIndex', new THREE.BufferAttribute(p.joints, 4));
      geometry.setAttribute('skinWeight', new THREE.BufferAttribute(p.weights, 4));
    }
    const body = make(material);
    const hull = make(this.outline);
    this.bodies.push({ mesh: body, hull, node: nodeIndex, before, ink: mapInk(material), free: null });
    for (const mesh of [body, hull]) {
      mesh.frustumCulled = false;
      mesh.matrixAutoUpdate = false;
      this.group.add(mesh);
      if (mesh instanceof THREE.SkinnedMesh) mesh.bind(this.skeletonOf(skinIndex), new THREE.Matrix4());
      else this.rigid.push({ node: nodeIndex, object: mesh });
      if (p.targets.length) this.morphing.push({ node: nodeIndex, mesh });
    }
  }

  private readonly bySkin = new Map<number, THREE.Skeleton>();
  private skeletonOf(index: number): THREE.Skeleton {
    const known = this.bySkin.get(index);
    if (known) return known;
    const skin = this.character.skins[index]!;
    const bones = Array.from(skin.joints, () => {
      const bone = new THREE.Bone();
      bone.matrixAutoUpdate = bone.matrixWorldAutoUpdate = false;
      return bone;
    });
    const inverses = bones.map((_, i) => new THREE.Matrix4().fromArray(skin.inverseBind, 16 * i));
    const skeleton = new THREE.Skeleton(bones, inverses);
    this.bySkin.set(index, skeleton);
    this.skeletons.push({ skeleton, joints: skin.joints });
    this.disposables.push(skeleton);
    return skeleton;
  }

  /** Where a ray first meets a mesh node as it is drawn, and the vertex nearest to it; null when it misses. */
  vertexAt(ray: THREE.Raycaster, node: number): { vertex: number; point: THREE.Vector3 } | null {
    const bodies = this.bodies.filter((b) => b.node === node);
    const drawn = bodies.map((b) => (b.free?.[0]?.visible ? b.free[0] : b.mesh));
    for (const mesh of drawn) {
      // Kept from another pose they would hide what is hit.
      mesh.geometry.computeBoundingSphere();
      if (mesh instanceof THREE.SkinnedMesh) mesh.computeBoundingSphere();
    }
    const hit = ray.intersectObjects(drawn)[0];
    const body = bodies[drawn.findIndex((m) => m === hit?.object)];
    if (!hit?.face || !body) return null;
    const { a, b, c } = hit.face;
    const p = new THREE.Vector3();
    const mesh = hit.object as THREE.Mesh;
    const away = (v: number) =>
      mesh.getVertexPosition(v, p).applyMatrix4(mesh.matrixWorld).distanceTo(hit.point);
    const vertex = body.before + [a, b, c].reduce((best, v) => (away(v) < away(best) ? v : best));
    return { vertex, point: hit.point };
  }

  /** Where the vertices of a mesh node are drawn, m, 3 numbers each. */
  placesOf(node: number): Float64Array {
    const out: number[] = [];
    const p = new THREE.Vector3();
    for (const { mesh, free, node: own } of this.bodies) {
      if (own !== node) continue;
      const drawn = free?.[0]?.visible ? free[0] : mesh;
      const { count } = drawn.geometry.getAttribute('position');
      drawn.updateMatrixWorld();
      for (let v = 0; v < count; v++)
        out.push(...drawn.getVertexPosition(v, p).applyMatrix4(drawn.matrixWorld).toArray());
    }
    return Float64Array.from(out);
  }

  /** Draws a map of shares, one a vertex, on the mesh of a node; null takes all maps away. */
  paint(node: number | null, shares: Float64Array | null): void {
    for (const body of this.bodies) {
      if (node !== null && body.node !== node) continue;
      body.ink.painted.value = shares ? 1 : 0;
      if (shares) paintShares([body.mesh, ...(body.free ?? [])], shares, body.before);
    }
  }

  /** A ball round the vertices that follow each joint (or node), in that joint's own space: for framing. */
  reach(): Map<number, { centre: THREE.Vector3; radius: number }> {
    const boxes = new Map<number, THREE.Box3>();
    const bind = new THREE.Matrix4();
    const v = new THREE.Vector3();
    this.character.nodes.forEach((node, index) => {
      const skin = this.character.skins[node.skin];
      for (const p of this.character.meshes[node.mesh]?.primitives ?? []) {
        for (let i = 0; i < p.positions.length / 3; i++) {
          v.fromArray(p.positions, 3 * i);
          let joint = index;
          if (skin && p.joints && p.weights) {
            let most = 0;
            for (let k = 1; k < 4; k++) if (p.weights[4 * i + k]! > p.weights[4 * i + most]!) most = k;
            const column = p.joints[4 * i + most]!;
            if (column >= skin.joints.length) continue;
            joint = skin.joints[column]!;
            v.applyMatrix4(bind.fromArray(skin.inverseBind, 16 * column));
          }
          let box = boxes.get(joint);
          if (!box) boxes.set(joint, (box = new THREE.Box3()));
          box.expandByPoint(v);
        }
      }
    });
    return new Map(
      [...boxes].map(([joint, box]) => {
        const sphere = box.getBoundingSphere(new THREE.Sphere());
        return [joint, { centre: sphere.center, radius: sphere.radius }];
      }),
    );
  }

  /** Puts the figure in a pose: world matrices, 16 numbers a node; and how wide the lines of meshes are, by node. */
  pose(
    world: Float64Array,
    morphs: ReadonlyMap<number, Float64Array>,
    points: ReadonlyMap<number, Float64Array> = NO_POINTS,
    widths: ReadonlyMap<number, number> = NO_WIDTHS,
  ): void {
    for (const { skeleton, joints } of this.skeletons) {
      joints.forEach((j, i) => skeleton.bones[i]!.matrixWorld.fromArray(world, 16 * j));
    }
    for (const { node, object } of this.rigid) {
      object.matrix.fromArray(world, 16 * node);
      object.matrixWorldNeedsUpdate = true;
    }
    for (const { node, mesh } of this.morphing) {
      const weights = morphs.get(node);
      if (weights && mesh.morphTargetInfluences)
        for (let i = 0; i < weights.length; i++) mesh.morphTargetInfluences[i] = weights[i]!;
    }
    this.posePoints(points);
    this.cords.show((node) => this.placesOf(node), widths);
  }

  /** Lights the mesh of a node, or none. */
  light(node: number | null): void {
    this.cords.light(node);
    for (const { mesh, node: own } of this.bodies)
      (mesh.material as THREE.MeshLambertMaterial).emissive.set(own === node ? LIT : 0x000000);
  }

  /** Where vertices have places of their own the mesh is drawn there, instead of as it is posed. */
  private posePoints(points: ReadonlyMap<number, Float64Array>): void {
    for (const body of this.bodies) {
      const places = points.get(body.node);
      body.mesh.visible = body.hull.visible = !places;
      for (const m of body.free ?? []) m.visible = places !== undefined;
      if (!places) continue;
      body.free ??= this.freed(body);
      const { geometry } = body.free[0]!;
      const positions = geometry.getAttribute('position') as THREE.BufferAttribute;
      const { before } = body;
      positions.array.set(places.subarray(3 * before, 3 * (before + positions.count)));
      positions.needsUpdate = true;
      geometry.computeVertexNormals();
    }
  }

  /** A body and its outline again, for vertices that stand in the world without skin or node. */
  private freed({ mesh, hull }: Body): THREE.Mesh[] {
    const geometry = new THREE.BufferGeometry();
    geometry.setIndex(mesh.geometry.index);
    const { count } = mesh.geometry.getAttribute('position');
    geometry.setAttribute('position', new THREE.BufferAttribute(new Float32Array(3 * count), 3));
    for (const key of ['uv', 'color', 'share'])
      if (mesh.geometry.hasAttribute(key)) geometry.setAttribute(key, mesh.geometry.getAttribute(key));
    this.disposables.push(geometry);
    return [mesh, hull].map(({ material }) => {
      const free = new THREE.Mesh(geometry, material);
      free.frustumCulled = free.matrixAutoUpdate = false;
      this.group.add(free);
      return free;
    });
  }

  resize(width: number, height: number): void {
    this.viewport.value.set(width, height);
  }

  dispose(): void {
    for (const d of this.disposables) d.dispose();
  }
}
