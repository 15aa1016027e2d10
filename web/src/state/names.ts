/** A name for what is made of a mesh, which nothing beside it has: "poncho mesh" gives "Poncho". */
export function freeName(mesh: string, beside: Readonly<Record<string, { readonly name: string }>>): string {
  const base =
    mesh
      .replace(/[_.]/g, ' ')
      .replace(/\s*mesh\s*$/i, '')
      .trim() || mesh;
  const name = (base[0] ?? 'C').toUpperCase() + base.slice(1, 100);
  const taken = new Set(Object.values(beside).map((x) => x.name));
  let out = name;
  for (let n = 2; taken.has(out); n++) out = `${name} ${n}`;
  return out;
}
