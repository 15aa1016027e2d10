import { fileError, LIMITS, printableName } from './fault';
import { GltfJson } from './schema';
import { unpack } from './zip';

/** A glTF asset taken apart but not yet understood. */
export interface Container {
  readonly fileName: string;
  readonly json: GltfJson;
  /** Bytes of each buffer; null for the placeholder buffers that compressed files declare without data. */
  readonly buffers: readonly (Uint8Array<ArrayBuffer> | null)[];
  /** True when buffer 0 is the GLB's own binary chunk. */
  readonly binaryChunk: boolean;
  /** A file named by a relative uri, when the asset came with others (zip). */
  readonly resource: (uri: string) => Uint8Array<ArrayBuffer> | null;
}

const NOTHING_BESIDE: Container['resource'] = () => null;

/**
 * Opens .glb, .gltf (with embedded data, or its files `beside` it) or a zip of a .gltf/.glb with its files. Throws
 * OscillumError('file.*').
 */
export function openGltf(bytes: Uint8Array, fileName: string, beside = NOTHING_BESIDE): Container {
  const owned = new Uint8Array(bytes.buffer as ArrayBuffer, bytes.byteOffset, bytes.byteLength);
  if (owned.length > LIMITS.fileBytes)
    throw fileError(
      fileName,
      'file.too-large',
      `is larger than ${LIMITS.fileBytes / 2 ** 20} MiB`,
      '',
      'Leave out what is not needed, or split the file.',
    );
  if (owned.length === 0) throw fileError(fileName, 'file.truncated', 'is empty', 'byte 0');
  if (owned.length >= 4 && owned[0] === 0x67 && owned[1] === 0x6c && owned[2] === 0x54 && owned[3] === 0x46)
    return openGlb(owned, fileName, beside);
  if (owned[0] === 0x50 && owned[1] === 0x4b) return openZip(owned, fileName);
  if (isJsonStart(owned)) return openJson(owned, fileName, beside);
  throw fileError(fileName, 'file.not-gltf', 'is neither glTF nor BVH nor USD as text', 'byte 0');
}

function isJsonStart(bytes: Uint8Array): boolean {
  for (let i = 0; i < Math.min(64, bytes.length); i++) {
    const c = bytes[i]!;
    if (c === 0x7b) return true;
    if (!(c === 0x20 || c === 0x0a || c === 0x0d || c === 0x09 || c === 0xef || c === 0xbb || c === 0xbf))
      return false;
  }
  return false;
}

function openGlb(
  bytes: Uint8Array<ArrayBuffer>,
  fileName: string,
  resource: Container['resource'],
): Container {
  const view = new DataView(bytes.buffer, bytes.byteOffset, bytes.byteLength);
  if (bytes.length < 20)
    throw fileError(fileName, 'file.truncated', 'ends inside its header', `byte ${bytes.length}`);
  const version = view.getUint32(4, true);
  if (version !== 2)
    throw fileError(fileName, 'file.unsupported', `is glTF version ${version}; version 2 is read`, 'byte 4');
  const total = view.getUint32(8, true);
  if (total > bytes.length)
    throw fileError(
      fileName,
      'file.truncated',
      `says it has ${total} bytes but has ${bytes.length}`,
      'byte 8',
      'Copy or download it again.',
    );
  let json: Uint8Array | null = null;
  let binary: Uint8Array<ArrayBuffer> | null = null;
  for (let at = 12; at + 8 <= total;) {
    const length = view.getUint32(at, true);
    const type = view.getUint32(at + 4, true);
    if (at + 8 + length > total)
      throw fileError(
        fileName,
        'file.truncated',
        'has a chunk that runs past its end',
        `byte ${at}`,
        'Copy or download it again.',
      );
    const chunk = bytes.subarray(at + 8, at + 8 + length);
    if (type === 0x4e4f534a && !json) json = chunk;
    else if (type === 0x004e4942 && !binary) binary = chunk;
    at += 8 + length + ((4 - (length % 4)) % 4);
  }
  if (!json) throw fileError(fileName, 'file.invalid', 'has no JSON chunk', 'byte 12');
  return assemble(json, binary, fileName, resource);
}

function openJson(bytes: Uint8Array, fileName: string, resource: Container['resource']): Container {
  return assemble(bytes, null, fileName, resource);
}

function openZip(bytes: Uint8Array<ArrayBuffer>, fileName: string): Container {
  const byPath = new Map([...unpack(bytes, fileName)].map(([name, data]) => [normalPath(name), data]));
  const mains = [...byPath.keys()]
    .filter((n) => /\.(gltf|glb)$/i.test(n) && !n.includes('__MACOSX'))
    .sort((a, b) => a.split('/').length - b.split('/').length || (a < b ? -1 : 1));
  if (mains.length === 0)
    throw fileError(fileName, 'file.not-gltf', 'is a zip without a .gltf or .glb in it');
  const main = mains[0]!;
  const folder = main.slice(0, main.lastIndexOf('/') + 1);
  const resource = (uri: string) => {
    let decoded = uri;
    try {
      decoded = decodeURIComponent(uri);
    } catch {
      // Not percent-encoded after all: take it literally.
    }
    return byPath.get(normalPath(folder + decoded)) ?? byPath.get(normalPath(folder + uri)) ?? null;
  };
  const data = byPath.get(main)!;
  return /\.glb$/i.test(main) ? openGlb(data, fileName, resource) : openJson(data, fileName, resource);
}

function normalPath(path: string): string {
  const out: string[] = [];
  for (const piece of path.replace(/\\/g, '/').split('/')) {
    if (piece === '..') out.pop();
    else if (piece !== '.' && piece !== '') out.push(piece);
  }
  return out.join('/');
}

function assemble(
  jsonBytes: Uint8Array,
  binary: Uint8Array<ArrayBuffer> | null,
  fileName: string,
  resource: Container['resource'],
): Container {
  if (jsonBytes.length > LIMITS.jsonBytes)
    throw fileError(fileName, 'file.too-large', `has more than ${LIMITS.jsonBytes / 2 ** 20} MiB of JSON`);
  let data: unknown;
  try {
    data = JSON.parse(new TextDecoder('utf-8', { fatal: true }).decode(jsonBytes));
  } catch (e) {
    const at = e instanceof SyntaxError ? e.message.replace(/^JSON\.parse: /, '').slice(0, 120) : 'not UTF-8';
    throw fileError(fileName, 'file.invalid', `its JSON cannot be read (${at})`);
  }
  const parsed = GltfJson.safeParse(data);
  if (!parsed.success) {
    const issue = parsed.error.issues[0]!;
    throw fileError(
      fileName,
      'file.invalid',
      `is not valid glTF: ${issue.message}`,
      '/' + issue.path.join('/'),
    );
  }
  const json = parsed.data;
  if (!/^2\./.test(json.asset.version))
    throw fileError(
      fileName,
      'file.unsupported',
      `is glTF version ${json.asset.version.slice(0, 20)}; version 2 is read`,
      '/asset/version',
    );
  const buffers = (json.buffers ?? []).map((b, i) => {
    let found: Uint8Array<ArrayBuffer> | null;
    if (b.uri === undefined) {
      if (i === 0 && binary) found = binary;
      else if (b.extensions?.EXT_meshopt_compression || b.extensions?.KHR_meshopt_compression) return null;
      else throw fileError(fileName, 'file.missing-resource', 'has a buffer without data', `/buffers/${i}`);
    } else {
      found = b.uri.startsWith('data:') ? fromDataUri(b.uri) : resource(b.uri);
      if (!found)
        throw fileError(
          fileName,
          'file.missing-resource',
          `needs ${b.uri.startsWith('data:') ? 'its embedded data' : printableName(b.uri)}, which is not there`,
          `/buffers/${i}/uri`,
          'Zip the .gltf together with its .bin and pictures, and drop the zip.',
        );
    }
    if (found.length < b.byteLength)
      throw fileError(
        fileName,
        'file.truncated',
        `has a buffer of ${found.length} bytes that should have ${b.byteLength}`,
        `/buffers/${i}/byteLength`,
        'Copy or download it again.',
      );
    return found.subarray(0, b.byteLength);
  });
  return {
    fileName,
    json,
    buffers,
    binaryChunk: binary !== null && json.buffers?.[0] !== undefined && json.buffers[0].uri === undefined,
    resource,
  };
}

/** Bytes of a base64 data URI, or null when it is not one. */
export function fromDataUri(uri: string): Uint8Array<ArrayBuffer> | null {
  const comma = uri.indexOf(',');
  if (comma < 0 || !uri.slice(0, comma).endsWith(';base64')) return null;
  try {
    const text = atob(uri.slice(comma + 1));
    const out = new Uint8Array(text.length);
    for (let i = 0; i < text.length; i++) out[i] = text.charCodeAt(i);
    return out;
  } catch {
    return null;
  }
}
