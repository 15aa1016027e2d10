import { endLink, restWorld, type Character } from '../../character/index';
import { matInvert } from '../../math/index';
import { OscillumError } from '../../model/index';
import { makeSheet, type Sheet } from '../../sheets/index';
import type { SheetLayout } from './layout';
import type { PanelPart } from './panelDocument';

/** One row of a panel: its joints, and which points of the sheet are theirs, with the tip's after them. */
export interface PanelRow {
  readonly joints: Int32Array;
  readonly first: number;
  /** End of the last link in the last joint's own space, file units. */
  readonly tip: Float64Array;
}

/** A panel found on a character. */
export interface PanelLayout extends SheetLayout {
  readonly part: PanelPart;
  readonly rows: readonly PanelRow[];
}

/**
 * Two triangles between each pair of joints of rows that are side by side; a longer row is drawn together at its end.
 */
function trianglesOf(rows: readonly PanelRow[], closed: boolean): number[] {
  const out: number[] = [];
  const pairs = rows.length - (closed && rows.length > 2 ? 0 : 1);
  for (let r = 0; r < pairs; r++) {
    const [a, b] = [rows[r]!, rows[(r + 1) % rows.length]!];
    const most = Math.max(a.joints.length, b.joints.length);
    const at = (row: PanelRow, k: number) => row.first + Math.min(k, row.joints.length);
    for (let k = 0; k < most; k++) {
      const [p, q, s, t] = [at(a, k), at(b, k), at(a, k + 1), at(b, k + 1)];
      // The diagonals lean to both sides by turns.
      out.push(...((k + r) % 2 ? [p, s, q, q, s, t] : [p, s, t, p, t, q]));
    }
  }
  return out;
}

/** Edges that lead along a row or straight across are threads (0); the others run across them (1). */
function diagonalsOf(rows: readonly PanelRow[], { points, edges }: Sheet): Float64Array {
  const place = new Int32Array(points);
  const row = new Int32Array(points);
  rows.forEach(({ first, joints }, r) => {
    place.set(
      Array.from({ length: joints.length + 1 }, (_, k) => k),
      first,
    );
    row.fill(r, first, first + joints.length + 1);
  });
  return Float64Array.from({ length: edges.length / 2 }, (_, e) => {
    const [a, b] = [edges[2 * e]!, edges[2 * e + 1]!];
    return Number(row[a] !== row[b] && place[a] !== place[b]);
  });
}

/** Finds a panel's joints. Throws OscillumError('shot.invalid') when they are not rows of this character. */
export function layOutPanel(character: Character, part: PanelPart): PanelLayout {
  const fail = (message: string, remedy: string) =>
    new OscillumError('shot.invalid', `${part.name}: ${message}`, `/parts/${part.id}/rows`, remedy);
  const again = 'Remove this panel and make it again on this character.';
  const world = restWorld(character);
  const places: number[] = [];
  const inverse = new Float64Array(16);
  const rows = part.rows.map((row): PanelRow => {
    row.forEach((j, i) => {
      const node = character.nodes[j.node];
      if (node?.name !== j.name) throw fail(`the joint ${j.name} is not on this character`, again);
      if (i > 0 && node.parent !== row[i - 1]!.node)
        throw fail(`${j.name} does not hang from ${row[i - 1]!.name}`, again);
    });
    const joints = Int32Array.from(row, (j) => j.node);
    const first = places.length / 3;
    for (const n of joints) places.push(...world.subarray(16 * n + 12, 16 * n + 15));
    const last = joints.at(-1)!;
    const link = endLink(character, last);
    for (let a = 0; a < 3; a++) places.push(world[16 * last + 12 + a]! + link[a]!);
    const whole = matInvert(inverse, 0, world, 16 * last);
    const tip = Float64Array.from([0, 1, 2], (r) =>
      whole ? inverse[r]! * link[0] + inverse[4 + r]! * link[1] + inverse[8 + r]! * link[2] : link[r]!,
    );
    return { joints, first, tip };
  });
  const sheet = makeSheet(Float64Array.from(places), trianglesOf(rows, part.closed));
  if (sheet.points !== places.length / 3)
    throw fail('two of its joints stand at one place', 'Leave one of their rows out.');
  if (sheet.triangles.length === 0)
    throw fail('its rows lie on one line', 'Choose rows that are side by side.');
  const held = new Uint8Array(sheet.points);
  for (const { first } of rows) held[first] = 1;
  return {
    ...{ part, rows, sheet, held, shares: {}, ties: [], diagonal: diagonalsOf(rows, sheet), detail: null },
    joints: Int32Array.from(rows.flatMap((r) => Array.from(r.joints))),
    borne: [...new Set(rows.map((r) => character.nodes[r.joints[0]!]!.parent))].filter((n) => n >= 0),
    above: new Int32Array(0),
  };
}
