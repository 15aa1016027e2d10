/** The other side's name: left for right, L for R, whole words only. Null when it names no side. */
export function otherSide(name: string): string | null {
  const pairs: Record<string, string> = { left: 'right', right: 'left', l: 'r', r: 'l' };
  let found = false;
  const out = name.replace(/(?<![A-Za-z])(left|right|l|r)(?![A-Za-z])/gi, (word) => {
    found = true;
    const other = pairs[word.toLowerCase()]!;
    return word === word.toUpperCase()
      ? other.toUpperCase()
      : word[0] === word[0]!.toUpperCase()
        ? other[0]!.toUpperCase() + other.slice(1)
        : other;
  });
  return found ? out : null;
}
