/**
 * An error a person may read: what is wrong, where, and what to do about it. `code` is stable for programs.
 * Everything the core refuses is one of these; anything else that escapes is a fault of ours.
 */
export class OscillumError extends Error {
  override readonly name = 'OscillumError';
  constructor(
    readonly code: ErrorCode,
    /** One sentence: what is wrong. */
    message: string,
    /** The place: a JSON pointer, a byte offset, a file name. */
    readonly place: string = '',
    /** One sentence: what to do. */
    readonly remedy: string = '',
  ) {
    super(message);
  }

  /** Message, place and remedy in one line. */
  get sentence(): string {
    const where = this.place ? ` (at ${this.place})` : '';
    return `${this.message.replace(/\.$/, '')}${where}.${this.remedy ? ` ${this.remedy}` : ''}`;
  }
}

export type ErrorCode =
  | 'file.not-gltf'
  | 'file.truncated'
  | 'file.too-large'
  | 'file.invalid'
  | 'file.missing-resource'
  | 'file.unsupported'
  | 'shot.invalid'
  | 'shot.newer'
  | 'edit.invalid'
  | 'joints.invalid'
  | 'bake.invalid'
  | 'bake.cancelled';
