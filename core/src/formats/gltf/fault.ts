import { OscillumError } from '../../model/index';

/** Bounds on what is read, so that a lying file costs a message and not the machine. */
export const LIMITS = {
  fileBytes: 512 * 2 ** 20,
  jsonBytes: 128 * 2 ** 20,
  /** Everything unpacked from a zip. */
  unpackedBytes: 1024 * 2 ** 20,
  zipEntries: 5000,
  /** Numbers decoded from all accessors. */
  numbers: 200e6,
} as const;

const REMEDY = 'Export it again as glTF 2.0 (.glb), or as a zip of the .gltf with its .bin and pictures.';

export function fileError(
  fileName: string,
  code: OscillumError['code'],
  message: string,
  place = '',
  remedy = REMEDY,
): OscillumError {
  return new OscillumError(code, `${printableName(fileName)}: ${message}`, place, remedy);
}

/** A file name safe to show: no control characters, no direction marks, at most 120 letters. */
export function printableName(name: string): string {
  const clean = name.replace(/[\p{Cc}\p{Cf}]/gu, '').slice(0, 120);
  return clean || 'This file';
}
