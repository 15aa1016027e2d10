import type { PanelPart } from '@oscillum/core/cloth';
import { changeSheets } from '../../../state/parts/cloth/edits';
import { CheckRow, ChoiceRow } from '../../kit/Rows';
import type { PanelProps } from '../kind';
import { SheetRows } from './SheetRows';

/** Settings of panels: those of cloth, how their joints follow, and whether they close to a ring. */
export function PanelPanel({ parts, run }: PanelProps<PanelPart>) {
  const ids = parts.map((p) => p.id);
  const set = (name: string, recipe: (p: PanelPart) => void) =>
    run(changeSheets(ids, name, (p) => p.kind === 'panel' && recipe(p)));
  const rows = parts.reduce((n, p) => n + p.rows.length, 0);
  return (
    <>
      <SheetRows parts={parts} run={run} />
      <h3>Rows</h3>
      <p className="muted small">{rows} rows of joints, side by side. The first joint of each is held.</p>
      <CheckRow
        label="The last row is beside the first"
        says="A ring, as a skirt is; off for a cape"
        value={parts.every((p) => p.closed)}
        onSet={(on) => set('Set whether it is a ring', (p) => void (p.closed = on))}
      />
      <ChoiceRow
        label="Its joints"
        says="Turning keeps the length of each bone; stretching lengthens it along itself; moving keeps each joint's turn"
        value={parts[0]!.moves}
        choices={[
          ['turns', 'turn'],
          ['places', 'turn and stretch'],
          ['points', 'move'],
        ]}
        onSet={(moves) => set('Set how its joints follow', (p) => void (p.moves = moves))}
      />
    </>
  );
}
