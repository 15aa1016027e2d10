/**
 * A random id of hexadecimal digits. Made of what browsers give every page: `crypto.randomUUID` is for secure contexts
 * only, and a page served over plain HTTP to another machine is none.
 */
export function randomId(digits = 32): string {
  const bytes = crypto.getRandomValues(new Uint8Array(Math.ceil(digits / 2)));
  return Array.from(bytes, (b) => b.toString(16).padStart(2, '0'))
    .join('')
    .slice(0, digits);
}
