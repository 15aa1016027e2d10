import { Unzip, UnzipInflate, unzipSync } from 'fflate';
import { OscillumError } from '../../model/index';
import { fileError, LIMITS } from './fault';

/** So much of what is packed is unpacked at once. A thousand times as much may come out before it is counted. */
const SLICE = 1 << 16;

/**
 * The files of a zip by their paths. What its directory says of sizes is held to the limits first; then the bytes that
 * really come out are held to what the directory says, so that a lying one costs a message and not the machine.
 * Throws OscillumError('file.too-large' or 'file.invalid').
 */
export function unpack(
  bytes: Uint8Array<ArrayBuffer>,
  fileName: string,
): Map<string, Uint8Array<ArrayBuffer>> {
  const damaged = () =>
    fileError(fileName, 'file.invalid', 'is a damaged zip', '', 'Zip it again, or copy it again.');
  try {
    const sizes = readDirectory(bytes, fileName);
    const files = new Map<string, Uint8Array<ArrayBuffer>>();
    const unzip = new Unzip((file) => {
      const size = sizes.get(file.name);
      if (size === undefined || files.has(file.name)) return;
      const out = new Uint8Array(size);
      let at = 0;
      files.set(file.name, out);
      file.ondata = (fault, piece, final) => {
        if (fault) throw fault;
        if (at + piece.length > size || (final && at + piece.length < size)) throw damaged();
        out.set(piece, at);
        at += piece.length;
        if (final) sizes.delete(file.name);
      };
      file.start();
    });
    unzip.register(UnzipInflate);
    for (let at = 0; at < bytes.length; at += SLICE)
      unzip.push(bytes.subarray(at, at + SLICE), at + SLICE >= bytes.length);
    if (sizes.size > 0) throw damaged();
    return files;
  } catch (e) {
    throw e instanceof OscillumError ? e : damaged();
  }
}

/** Size of each file in the zip's directory, bytes. */
function readDirectory(bytes: Uint8Array, fileName: string): Map<string, number> {
  const sizes = new Map<string, number>();
  let total = 0;
  let entries = 0;
  unzipSync(bytes, {
    filter: ({ name, size, originalSize }) => {
      total += originalSize;
      if (
        ++entries > LIMITS.zipEntries ||
        total > LIMITS.unpackedBytes ||
        originalSize > 1000 * (size + 1000)
      )
        throw fileError(
          fileName,
          'file.too-large',
          'unpacks to far more than it may',
          name.slice(0, 80),
          'Zip only the .gltf with its .bin and pictures.',
        );
      if (!name.endsWith('/')) sizes.set(name, originalSize);
      return false;
    },
  });
  return sizes;
}
