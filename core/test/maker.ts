/** Builds small glTF files by hand, odd ones included, for tests. */
type Component = 5120 | 5121 | 5122 | 5123 | 5125 | 5126;
const ARRAYS = {
  5120: Int8Array,
  5121: Uint8Array,
  5122: Int16Array,
  5123: Uint16Array,
  5125: Uint32Array,
  5126: Float32Array,
} as const;
const SIZES: Record<string, number> = { SCALAR: 1, VEC2: 2, VEC3: 3, VEC4: 4, MAT4: 16 };

// Test files are deliberately loose: wrong values must be expressible.
/* eslint-disable @typescript-eslint/no-explicit-any */
export class Maker {
  readonly json: Record<string, any> = {
    asset: { version: '2.0' },
    scene: 0,
    scenes: [{ nodes: [] as number[] }],
    nodes: [],
    accessors: [],
    bufferViews: [],
    buffers: [{ byteLength: 0 }],
  };
  private bytes: number[] = [];

  node(node: Record<string, any>, parent?: number): number {
    const index = this.json.nodes.push(node) - 1;
    if (parent === undefined) this.json.scenes[0].nodes.push(index);
    else (this.json.nodes[parent].children ??= []).push(index);
    return index;
  }

  view(data: ArrayBufferView, extra: Record<string, any> = {}): number {
    while (this.bytes.length % 4) this.bytes.push(0);
    const b = new Uint8Array(data.buffer, data.byteOffset, data.byteLength);
    const byteOffset = this.bytes.length;
    for (const x of b) this.bytes.push(x);
    return this.json.bufferViews.push({ buffer: 0, byteOffset, byteLength: b.length, ...extra }) - 1;
  }

  accessor(
    values: readonly number[],
    type: string,
    component: Component = 5126,
    extra: Record<string, any> = {},
  ): number {
    const bufferView = this.view(ARRAYS[component].from(values as number[]));
    return (
      this.json.accessors.push({
        bufferView,
        componentType: component,
        count: values.length / SIZES[type]!,
        type,
        ...extra,
      }) - 1
    );
  }

  times(values: readonly number[]): number {
    return this.accessor(values, 'SCALAR', 5126, { min: [Math.min(...values)], max: [Math.max(...values)] });
  }

  clip(
    name: string,
    channels: { node: number; path: string; input: number; output: number; interpolation?: string }[],
  ): void {
    (this.json.animations ??= []).push({
      name,
      samplers: channels.map((c) => ({
        input: c.input,
        output: c.output,
        interpolation: c.interpolation ?? 'LINEAR',
      })),
      channels: channels.map((c, i) => ({ sampler: i, target: { node: c.node, path: c.path } })),
    });
  }

  /** A one-triangle mesh skinned to a skin, so that three makes a skeleton of it. */
  skinned(joints: number[], options: { inverseBind?: boolean; weights?: number[] } = {}): number {
    const position = this.accessor([0, 0, 0, 1, 0, 0, 0, 1, 0], 'VEC3', 5126, {
      min: [0, 0, 0],
      max: [1, 1, 0],
    });
    const attributes = {
      POSITION: position,
      JOINTS_0: this.accessor(Array(12).fill(0), 'VEC4', 5121),
      WEIGHTS_0: this.accessor(options.weights ?? [1, 0, 0, 0, 1, 0, 0, 0, 1, 0, 0, 0], 'VEC4'),
    };
    const mesh = (this.json.meshes ??= []).push({ primitives: [{ attributes }] }) - 1;
    const identity = joints.flatMap(() => [1, 0, 0, 0, 0, 1, 0, 0, 0, 0, 1, 0, 0, 0, 0, 1]);
    const skin =
      (this.json.skins ??= []).push({
        joints,
        ...(options.inverseBind === false ? {} : { inverseBindMatrices: this.accessor(identity, 'MAT4') }),
      }) - 1;
    this.node({ mesh, skin });
    return skin;
  }

  glb(): Uint8Array<ArrayBuffer> {
    while (this.bytes.length % 4) this.bytes.push(0);
    this.json.buffers[0].byteLength = Math.max(this.json.buffers[0].byteLength, this.bytes.length);
    const text = new TextEncoder().encode(JSON.stringify(this.json));
    const jsonLength = Math.ceil(text.length / 4) * 4;
    const out = new Uint8Array(28 + jsonLength + this.bytes.length);
    const view = new DataView(out.buffer);
    [0x46546c67, 2, out.length, jsonLength, 0x4e4f534a].forEach((x, i) => view.setUint32(4 * i, x, true));
    out.fill(0x20, 20, 20 + jsonLength);
    out.set(text, 20);
    view.setUint32(20 + jsonLength, this.bytes.length, true);
    view.setUint32(24 + jsonLength, 0x004e4942, true);
    out.set(this.bytes, 28 + jsonLength);
    return out;
  }

  /** As a .gltf with its .bin beside it. */
  files(binName: string): { gltf: Uint8Array; bin: Uint8Array } {
    const json = {
      ...this.json,
      buffers: [{ ...this.json.buffers[0], byteLength: this.bytes.length, uri: binName }],
    };
    return { gltf: new TextEncoder().encode(JSON.stringify(json)), bin: Uint8Array.from(this.bytes) };
  }
}

/** A row of `n` joints hanging along +y from a root, optionally keyed: the everyday case the odd ones start from. */
export function rowOfJoints(n = 4, length = 0.25): { m: Maker; joints: number[] } {
  const m = new Maker();
  const joints: number[] = [];
  for (let i = 0; i < n; i++)
    joints.push(m.node({ name: `joint ${i + 1}`, translation: [0, i ? length : 0, 0] }, joints[i - 1]));
  return { m, joints };
}

/** A unit quaternion about a tilted axis. */
export function tilt(angle: number): number[] {
  const s = Math.sin(angle / 2);
  return [0.36 * s, 0.48 * s, 0.8 * s, Math.cos(angle / 2)];
}
