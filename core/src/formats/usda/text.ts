/** A number with 9 digits at most: enough for single precision. */
export const digits = (x: number): string => String(Number(x.toPrecision(9)));

/** A prim's name made of a name. */
export const identifier = (name: string): string =>
  name.replace(/[^A-Za-z0-9_]/g, '_').replace(/^(?=[0-9])/, '_') || '_';

export const quoted = (text: string): string =>
  `"${text.replace(/[\\"]/g, (c) => `\\${c}`).replace(/[\n\r\t]/g, ' ')}"`;
