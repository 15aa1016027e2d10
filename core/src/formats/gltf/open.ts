import { readBvh } from '../bvh/index';
import type { Motion } from '../motion/index';
import { readUsda } from '../usda/index';
import { openGltf, type Container } from './container';
import { LIMITS, printableName } from './fault';
import { containerOf } from './fromMotion';

/** A text format begins within so many bytes. */
const HEAD = 512;

/**
 * Opens a character: .glb, .gltf (with embedded data, or its files `beside` it) or a zip of a .gltf/.glb with its
 * files; or a skeleton with its motion: .bvh, .usda. Throws OscillumError('file.*').
 */
export function openContainer(
  bytes: Uint8Array,
  fileName: string,
  beside?: Container['resource'],
): Container {
  const motion = bytes.length > LIMITS.fileBytes ? null : readMotion(bytes, fileName);
  return motion ? containerOf(motion, fileName) : openGltf(bytes, fileName, beside);
}

/** The motion of a BVH or USDA file, or null when the bytes are neither. */
export function readMotion(bytes: Uint8Array, fileName: string): Motion | null {
  const text = (part: Uint8Array) => new TextDecoder().decode(part).replace(/^\uFEFF/, '');
  const head = text(bytes.subarray(0, HEAD));
  const name = printableName(fileName);
  if (/^\s*HIERARCHY\s/.test(head)) return readBvh(text(bytes), name);
  return /^#usda\s/.test(head) ? readUsda(text(bytes), name) : null;
}
