import { rootMatrix, restWorld, skinVertices } from '../../character/index';
import { OscillumError } from '../../model/index';
import { readGltf } from '../gltf/index';
import { parseUsda, type UsdPrim, type UsdValue } from '../usda/parse';

/** Lines of a file: places, 3 numbers each, m with +Y up, or of no unit that the file says. */
export interface Lines {
  readonly lines: readonly Float64Array[];
  /** m a unit, where the file says it. */
  readonly metresPerUnit: number | null;
}

/** Lines that are read of a file at most, and places of them all. */
const MOST_LINES = 200_000;
const MOST_PLACES = 5e6;

/**
 * Reads lines: `l` elements of OBJ, line primitives of glTF (as they rest), BasisCurves of USD text (their points, in
 * the first sample where they move; transforms above them are not applied), or a table (CSV) with columns x, y, z and
 * one that says which line a place belongs to. Throws OscillumError('file.invalid') where there are none.
 */
export function readLines(bytes: Uint8Array<ArrayBuffer>, fileName: string): Lines {
  const begin = new TextDecoder().decode(bytes.subarray(0, 64));
  const fail: Fail = (message) => {
    throw new OscillumError(
      'file.invalid',
      `${fileName.slice(0, 120)}: ${message}`,
      '',
      'Export curves as OBJ lines, glTF lines, USD text (BasisCurves) or a table with columns strand, x, y, z.',
    );
  };
  const text = () => new TextDecoder().decode(bytes);
  const found = /^(glTF|PK|\s*\{)/.test(begin)
    ? { lines: ofGltf(bytes, fileName), metresPerUnit: 1 }
    : begin.startsWith('#usda')
      ? ofUsda(text(), fileName, fail)
      : /\.obj$/i.test(fileName)
        ? { lines: ofObj(text(), fail), metresPerUnit: null }
        : { lines: ofTable(text(), fail), metresPerUnit: null };
  if (found.lines.length === 0) fail('has no lines');
  if (found.lines.length > MOST_LINES) fail(`has ${found.lines.length} lines, more than are read`);
  if (found.lines.reduce((n, l) => n + l.length / 3, 0) > MOST_PLACES) fail('has more places than are read');
  if (found.lines.some((l) => !l.every(Number.isFinite))) fail('has places that are no numbers');
  return found;
}

type Fail = (message: string) => never;

/** Line elements of Wavefront OBJ: numbers of vertices count from 1, or back from the last one (below 0). */
function ofObj(text: string, fail: Fail): Float64Array[] {
  const places: number[] = [];
  const out: Float64Array[] = [];
  text.split(/\r?\n/).forEach((row, k) => {
    const [word, ...rest] = row.trim().split(/\s+/);
    if (word === 'v') places.push(...rest.slice(0, 3).map(Number));
    else if (word === 'l') {
      const own = rest.map((r) => {
        const n = parseInt(r, 10);
        return n < 0 ? places.length / 3 + n : n - 1;
      });
      if (own.some((v) => !(v >= 0 && 3 * v + 2 < places.length)))
        fail(`names a vertex that is not there, on line ${k + 1}`);
      out.push(Float64Array.from(own.flatMap((v) => places.slice(3 * v, 3 * v + 3))));
    }
  });
  return out;
}

/** Lines of glTF: links that go on from each other are one. */
function ofGltf(bytes: Uint8Array<ArrayBuffer>, fileName: string): Float64Array[] {
  const character = readGltf(bytes, fileName);
  const world = restWorld(character);
  return character.nodes.flatMap(({ mesh }, node) => {
    const { primitives } = character.meshes[mesh] ?? { primitives: [] };
    const all = primitives.reduce((n, p) => n + p.positions.length, 0);
    const places = new Float64Array(all);
    if (primitives.some((p) => p.lines.length > 0)) skinVertices(places, character, node, world);
    let first = 0;
    return primitives.flatMap(({ lines, positions }) => {
      const out: number[][] = [];
      for (let k = 0; k + 1 < lines.length; k += 2) {
        const [a, b] = [first + lines[k]!, first + lines[k + 1]!];
        const last = out.at(-1);
        if (last?.at(-1) === a) last.push(b);
        else out.push([a, b]);
      }
      first += positions.length / 3;
      return out.map((l) => Float64Array.from(l.flatMap((v) => [...places.subarray(3 * v, 3 * v + 3)])));
    });
  });
}

/** Curves of USD text, +Y up. */
function ofUsda(text: string, fileName: string, fail: Fail): Lines {
  const layer = parseUsda(text, fileName);
  const metres = layer.metadata.get('metersPerUnit');
  const metresPerUnit = typeof metres === 'number' && metres > 0 ? metres : 0.01;
  const stand = rootMatrix(1, layer.metadata.get('upAxis') === 'Z' ? 'Z' : 'Y');
  const curves: UsdPrim[] = [];
  const look = (list: readonly UsdPrim[]): void => {
    for (const p of list) {
      if (p.type === 'BasisCurves') curves.push(p);
      look(p.children);
    }
  };
  look(layer.prims);
  const lines = curves.flatMap((p) => {
    const counts = numbersIn(p.properties.get('curveVertexCounts'));
    const samples = p.properties.get('points.timeSamples');
    const sample = samples instanceof Map ? [...samples.values()][0] : undefined;
    const places = numbersIn(p.properties.get('points') ?? sample);
    if (counts.reduce((n, c) => n + 3 * c, 0) !== places.length)
      fail(`has ${places.length / 3} points in ${p.name}, whose curves count others`);
    let at = 0;
    return counts.map((n) => {
      const out = new Float64Array(3 * n);
      for (let o = 0; o < out.length; o += 3, at += 3)
        for (let r = 0; r < 3; r++)
          out[o + r] = [0, 1, 2].reduce((s, a) => s + stand[4 * a + r]! * places[at + a]!, 0);
      return out;
    });
  });
  return { lines, metresPerUnit };
}

/** All numbers in a value, in order. */
function numbersIn(value: UsdValue | undefined): number[] {
  if (typeof value === 'number') return [value];
  return Array.isArray(value) ? value.flatMap(numbersIn) : [];
}

/** Words that a table calls its columns by. */
const WORDS = { line: /^(strand|curve|guide|line|hair|id)$/i, x: /^x$/i, y: /^y$/i, z: /^z$/i } as const;

/** Rows of a table, place after place: a line goes on as long as its name is the same. */
function ofTable(text: string, fail: Fail): Float64Array[] {
  const rows = text
    .split(/\r?\n/)
    .filter((r) => r.trim() && !r.startsWith('#'))
    .map((r) => r.split(/[,;\t]/).map((c) => c.trim()));
  const head = rows[0] ?? [];
  const named = head.some((c) => WORDS.x.test(c));
  const column = (key: keyof typeof WORDS, otherwise: number) =>
    named ? head.findIndex((c) => WORDS[key].test(c)) : otherwise;
  const [line, x, y, z] = [column('line', 0), column('x', 1), column('y', 2), column('z', 3)];
  const bare = !named && !head.slice(1, 4).every((c) => c !== '' && Number.isFinite(Number(c)));
  if (bare || head.length < 4 || Math.min(line, x, y, z) < 0)
    fail('is a table without columns strand, x, y and z');
  const out: { name: string; places: number[] }[] = [];
  rows.slice(named ? 1 : 0).forEach((row, k) => {
    const place = [x, y, z].map((c) => (row[c] ? Number(row[c]) : NaN));
    if (!place.every(Number.isFinite)) fail(`has no place in row ${k + (named ? 2 : 1)}`);
    const name = row[line]!;
    if (out.at(-1)?.name !== name) out.push({ name, places: [] });
    out.at(-1)!.places.push(...place);
  });
  return out.map((l) => Float64Array.from(l.places));
}
