import type { OscillumError } from '../../model/index';

/** The parts of the Draco decoder module (package draco3dgltf) that are used here. */
export interface DracoModule {
  Decoder: new () => DracoDecoder;
  DecoderBuffer: new () => { Init(bytes: Int8Array, length: number): void };
  Mesh: new () => DracoMesh;
  DT_FLOAT32: number;
  DT_UINT16: number;
  HEAPF32: Float32Array;
  HEAPU16: Uint16Array;
  HEAPU32: Uint32Array;
  _malloc(n: number): number;
  _free(p: number): void;
  destroy(o: unknown): void;
}
interface DracoMesh {
  num_faces(): number;
  num_points(): number;
}
interface DracoDecoder {
  DecodeBufferToMesh(buffer: unknown, mesh: DracoMesh): { ok(): boolean };
  GetAttributeByUniqueId(mesh: DracoMesh, id: number): { num_components(): number };
  GetAttributeDataArrayForAllPoints(
    mesh: DracoMesh,
    attribute: unknown,
    type: number,
    bytes: number,
    pointer: number,
  ): boolean;
  GetTrianglesUInt32Array(mesh: DracoMesh, bytes: number, pointer: number): boolean;
}

/** A decoded KHR_draco_mesh_compression primitive. */
export interface DracoPrimitive {
  readonly indices: Uint32Array;
  readonly count: number;
  /** All components of an attribute as floats, or as whole numbers for joint indices; null when it is not there. */
  attribute(id: number, size: number, whole: boolean): Float32Array | Uint16Array | null;
  free(): void;
}

/**
 * Decodes one compressed primitive; `fail` makes the error thrown when the data is damaged or larger than `mostPoints`.
 */
export function decodeDraco(
  draco: DracoModule,
  bytes: Uint8Array,
  mostPoints: number,
  fail: (message: string) => OscillumError,
): DracoPrimitive {
  const decoder = new draco.Decoder();
  const buffer = new draco.DecoderBuffer();
  const mesh = new draco.Mesh();
  const free = () => [mesh, buffer, decoder].forEach((o) => draco.destroy(o));
  try {
    buffer.Init(new Int8Array(bytes.buffer, bytes.byteOffset, bytes.length), bytes.length);
    if (!decoder.DecodeBufferToMesh(buffer, mesh).ok()) throw fail('has damaged Draco data');
    const count = mesh.num_points();
    const faces = mesh.num_faces();
    if (count > mostPoints) throw fail(`has ${count} Draco points where ${mostPoints} were declared`);
    const copy = <T>(size: number, take: (pointer: number) => T): T => {
      const pointer = draco._malloc(size);
      try {
        return take(pointer);
      } finally {
        draco._free(pointer);
      }
    };
    const indices = copy(faces * 12, (p) => {
      decoder.GetTrianglesUInt32Array(mesh, faces * 12, p);
      return draco.HEAPU32.slice(p / 4, p / 4 + faces * 3);
    });
    return {
      indices,
      count,
      attribute: (id, size, whole) => {
        const attribute = decoder.GetAttributeByUniqueId(mesh, id);
        if (attribute.num_components() < size) return null;
        const n = count * attribute.num_components();
        return whole
          ? copy(
              n * 2,
              (p) => (
                decoder.GetAttributeDataArrayForAllPoints(mesh, attribute, draco.DT_UINT16, n * 2, p),
                draco.HEAPU16.slice(p / 2, p / 2 + n)
              ),
            )
          : copy(
              n * 4,
              (p) => (
                decoder.GetAttributeDataArrayForAllPoints(mesh, attribute, draco.DT_FLOAT32, n * 4, p),
                draco.HEAPF32.slice(p / 4, p / 4 + n)
              ),
            );
      },
      free,
    };
  } catch (e) {
    free();
    throw e;
  }
}
