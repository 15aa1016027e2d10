import type { OscillumError } from '../../model/index';
import type { Container } from './container';
import { fileError, LIMITS } from './fault';
import type { Accessor } from './schema';

/** The decoder of EXT_meshopt_compression as the package meshoptimizer offers it; call it only when ready. */
export interface MeshoptDecoder {
  decodeGltfBuffer(
    target: Uint8Array,
    count: number,
    size: number,
    source: Uint8Array,
    mode: string,
    filter?: string,
  ): void;
}

const COMPONENTS = { SCALAR: 1, VEC2: 2, VEC3: 3, VEC4: 4, MAT2: 4, MAT3: 9, MAT4: 16 } as const;
const BYTES = { 5120: 1, 5121: 1, 5122: 2, 5123: 2, 5125: 4, 5126: 4 } as const;
/** Divisors of normalised integers (glTF 2.0, 3.6.2.2). */
const NORMALS: Partial<Record<number, number>> = { 5120: 127, 5121: 255, 5122: 32767, 5123: 65535 };

/** Reads accessors of one container, within its limits. Compressed views are decoded once and kept. */
export class AccessorReader {
  private numbers = 0;
  private readonly views = new Map<number, { bytes: Uint8Array; stride: number | undefined }>();

  constructor(
    private readonly container: Container,
    private readonly meshopt: MeshoptDecoder | null,
  ) {}

  private fail(message: string, place: string, code: OscillumError['code'] = 'file.invalid'): OscillumError {
    return fileError(this.container.fileName, code, message, place);
  }

  accessor(i: number, place: string): Accessor {
    const a = this.container.json.accessors?.[i];
    if (!a) throw this.fail(`refers to accessor ${i}, which does not exist`, place);
    return a;
  }

  /** Bytes of a buffer view, decoded when compressed. Throws when it runs past its buffer. */
  view(i: number, place: string): { bytes: Uint8Array; stride: number | undefined } {
    const cached = this.views.get(i);
    if (cached) return cached;
    const v = this.container.json.bufferViews?.[i];
    if (!v) throw this.fail(`refers to buffer view ${i}, which does not exist`, place);
    const where = `/bufferViews/${i}`;
    const packed = (v.extensions?.EXT_meshopt_compression ?? v.extensions?.KHR_meshopt_compression) as
      | {
          buffer: number;
          byteOffset?: number;
          byteLength: number;
          byteStride: number;
          count: number;
          mode: string;
          filter?: string;
        }
      | undefined;
    let out: { bytes: Uint8Array; stride: number | undefined };
    if (packed) {
      const { byteStride, count } = packed;
      if (!(
        Number.isInteger(byteStride) &&
        byteStride > 0 &&
        byteStride <= 256 &&
        Number.isInteger(count) &&
        count >= 0
      ))
        throw this.fail('has a compressed view with wrong sizes', where);
      this.spend((count * byteStride) / 4, where);
      if (!this.meshopt)
        throw this.fail('is compressed with meshopt, and no decoder is at hand', where, 'file.unsupported');
      const source = this.slice(packed.buffer, packed.byteOffset ?? 0, packed.byteLength, where);
      const bytes = new Uint8Array(count * byteStride);
      try {
        this.meshopt.decodeGltfBuffer(bytes, count, byteStride, source, packed.mode, packed.filter);
      } catch {
        throw this.fail('has damaged compressed data', where);
      }
      out = { bytes, stride: v.byteStride };
    } else {
      out = { bytes: this.slice(v.buffer, v.byteOffset ?? 0, v.byteLength, where), stride: v.byteStride };
    }
    this.views.set(i, out);
    return out;
  }

  private slice(buffer: number, offset: number, length: number, place: string): Uint8Array {
    const b = this.container.buffers[buffer];
    if (!b) throw this.fail(`refers to buffer ${buffer}, which has no data`, place);
    if (!(offset >= 0 && length >= 0 && offset + length <= b.length))
      throw this.fail(`runs past the end of buffer ${buffer}`, place, 'file.truncated');
    return b.subarray(offset, offset + length);
  }

  private spend(count: number, place: string): void {
    this.numbers += count;
    if (!(this.numbers <= LIMITS.numbers))
      throw this.fail('claims more numbers than can be read', place, 'file.too-large');
  }

  /**
   * All components of accessor i, as numbers (normalised integers become floats). Throws on NaN and infinities
   * unless `allowWild`; `type` guards the shape.
   */
  read<T extends Float64Array | Float32Array | Uint32Array | Uint16Array>(
    i: number,
    place: string,
    make: (n: number) => T,
    types: readonly Accessor['type'][],
  ): T {
    const a = this.accessor(i, place);
    const where = `/accessors/${i}`;
    if (!types.includes(a.type))
      throw this.fail(`has ${a.type} where ${types.join(' or ')} is needed`, where);
    const size = COMPONENTS[a.type];
    this.spend(a.count * size, where);
    const columns = a.type === 'MAT2' ? 2 : a.type === 'MAT3' ? 3 : a.type === 'MAT4' ? 4 : 1;
    const rows = size / columns;
    const width = BYTES[a.componentType];
    // Matrix columns start on multiples of four bytes (glTF 2.0, 3.6.2.4).
    const columnBytes = columns > 1 ? Math.ceil((rows * width) / 4) * 4 : rows * width;
    const element = columnBytes * columns;
    const scale = a.normalized ? (NORMALS[a.componentType] ?? 1) : 1;

    let view: DataView | null = null;
    let stride = element;
    if (a.bufferView !== undefined) {
      const v = this.view(a.bufferView, where);
      stride = v.stride || element;
      const start = a.byteOffset ?? 0;
      const need = a.count === 0 ? 0 : start + stride * (a.count - 1) + element;
      if (need > v.bytes.length)
        throw this.fail('runs past the end of its buffer view', where, 'file.truncated');
      view = new DataView(v.bytes.buffer, v.bytes.byteOffset + start, v.bytes.length - start);
    }
    const out = make(a.count * size);
    if (view) {
      const get = reader(view, a.componentType, scale);
      let o = 0;
      for (let k = 0; k < a.count; k++) {
        for (let c = 0; c < columns; c++)
          for (let r = 0; r < rows; r++) out[o++] = get(k * stride + c * columnBytes + r * width);
      }
    }
    if (a.sparse) this.applySparse(a, out, size, scale, where);
    if (a.componentType === 5126) {
      for (let k = 0; k < out.length; k++) {
        if (!Number.isFinite(out[k]!)) throw this.fail(`holds ${out[k]} (number ${k})`, where);
      }
    }
    return out;
  }

  private applySparse(
    a: Accessor,
    out: Float64Array | Float32Array | Uint32Array | Uint16Array,
    size: number,
    scale: number,
    where: string,
  ): void {
    const { count, indices, values } = a.sparse!;
    const iv = this.view(indices.bufferView, `${where}/sparse/indices`).bytes;
    const vv = this.view(values.bufferView, `${where}/sparse/values`).bytes;
    const iw = BYTES[indices.componentType];
    const vw = BYTES[a.componentType];
    const i0 = indices.byteOffset ?? 0;
    const v0 = values.byteOffset ?? 0;
    if (i0 + count * iw > iv.length || v0 + count * size * vw > vv.length)
      throw this.fail('has sparse data that runs past its view', where, 'file.truncated');
    const at = reader(new DataView(iv.buffer, iv.byteOffset, iv.length), indices.componentType, 1);
    const get = reader(new DataView(vv.buffer, vv.byteOffset, vv.length), a.componentType, scale);
    for (let k = 0; k < count; k++) {
      const target = at(i0 + k * iw);
      if (target >= a.count)
        throw this.fail(`has a sparse index ${target} beyond its ${a.count} elements`, where);
      for (let c = 0; c < size; c++) out[target * size + c] = get(v0 + (k * size + c) * vw);
    }
  }
}

function reader(view: DataView, type: number, scale: number): (at: number) => number {
  switch (type) {
    case 5120:
      return scale === 1 ? (at) => view.getInt8(at) : (at) => Math.max(view.getInt8(at) / scale, -1);
    case 5121:
      return scale === 1 ? (at) => view.getUint8(at) : (at) => view.getUint8(at) / scale;
    case 5122:
      return scale === 1
        ? (at) => view.getInt16(at, true)
        : (at) => Math.max(view.getInt16(at, true) / scale, -1);
    case 5123:
      return scale === 1 ? (at) => view.getUint16(at, true) : (at) => view.getUint16(at, true) / scale;
    case 5125:
      return (at) => view.getUint32(at, true);
    default:
      return (at) => view.getFloat32(at, true);
  }
}
