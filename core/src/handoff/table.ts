import type { Motion } from '../formats/motion/index';
import { worldOf } from '../formats/motion/index';
import { partsInOrder, type Shot } from '../shot/index';
import type { Frames } from '../frames/index';

/** Numbers by frame. */
export interface Table {
  readonly columns: readonly string[];
  readonly rows: readonly (readonly number[])[];
}

/** Places (of the world) and turns (beside the parent, quaternions) of every joint. */
export function motionTable(motion: Motion): Table {
  const n = motion.joints.length;
  const columns = ['frame', 'seconds'];
  for (const { name } of motion.joints)
    columns.push(...['x', 'y', 'z', 'turn x', 'turn y', 'turn z', 'turn w'].map((c) => `${name} ${c}`));
  const rows = Array.from({ length: motion.count }, (_, f) => {
    const { places } = worldOf(motion, f);
    const row = [motion.first + f, f / motion.fps];
    for (let i = 0; i < n; i++)
      row.push(
        ...places.subarray(3 * i, 3 * i + 3),
        ...motion.r.subarray(4 * (f * n + i), 4 * (f * n + i) + 4),
      );
    return row;
  });
  return { columns, rows };
}

/** What was measured of each part: how far it strays, where its tip is, what it touches. */
export function measuredTable(shot: Shot, frames: Frames): Table {
  const columns = ['frame', 'seconds'];
  const names = new Map(partsInOrder(shot).map((p) => [p.id as string, p.name]));
  const chains = frames.parts.length;
  for (const { partId } of frames.parts)
    columns.push(
      ...[
        'off source °',
        'tip off m',
        'tip x m',
        'tip y m',
        'tip z m',
        'links touching',
        'depth m',
        'stretch',
      ].map((c) => `${names.get(partId) ?? partId} ${c}`),
    );
  const rows = Array.from({ length: frames.done }, (_, f) => {
    const row = [frames.first + f, f / shot.fps];
    for (let c = 0; c < chains; c++) {
      const k = f * chains + c;
      row.push(
        ...[frames.offSource[k]!, frames.tipOffSource[k]!],
        ...frames.tips.subarray(3 * k, 3 * k + 3),
        ...[frames.contacts[k]!, frames.depth[k]!, frames.stretch[k]!],
      );
    }
    return row;
  });
  return { columns, rows };
}

/** Comma-separated values with a line of names; RFC 4180. */
export function toCsv({ columns, rows }: Table): string {
  const quoted = columns.map((c) => (/[",\r\n]/.test(c) ? `"${c.replace(/"/g, '""')}"` : c));
  const lines = rows.map((row) => row.map((x) => String(Number(x.toPrecision(9)))).join(','));
  return [quoted.join(','), ...lines, ''].join('\r\n');
}
