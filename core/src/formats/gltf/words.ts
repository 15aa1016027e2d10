/** "1 node", "3 nodes". */
export function count(n: number, one: string, many = one + 's'): string {
  return `${n} ${n === 1 ? one : many}`;
}

/** A name as it may be shown: without control and direction marks. */
export const shownName = (name: string | undefined): string | undefined =>
  name?.replace(/[\p{Cc}\p{Cf}]/gu, '');
