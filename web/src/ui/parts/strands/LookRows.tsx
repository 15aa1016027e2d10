import type { StrandsPart } from '@oscillum/core/strands';
import { changeStrands } from '../../../state/parts/strands/edits';
import type { Thunk } from '../../../state/store';
import { NumberRow, Row } from '../../kit/Rows';

type Look = StrandsPart['look'];
type NumberKey = Exclude<keyof Look, 'root' | 'tip'>;

/** What each row is called, its unit, what stands for 1 of it, and its limits. */
const ROWS: readonly (readonly [NumberKey, string, string, number, number, number, string])[] = [
  ['strands', 'Strands', '', 1, 0, 20_000, 'How many are drawn between the guides'],
  [
    'spread',
    'Spread',
    '×',
    1,
    0.02,
    20,
    'How far about its guides hair stands: 1 fills the gaps between them',
  ],
  ['clump', 'Clump', '%', 100, 0, 1, 'How far strands draw together toward their guide at the tip'],
  ['width', 'Width', 'm', 1, 1e-5, 10, 'How wide a strand is at its root'],
  ['taper', 'Tip width', '%', 100, 0, 1, 'Of that at the root'],
  ['curl', 'Curl', 'm', 1, 0, 100, 'The radius of its curls'],
  ['turns', 'Curl turns', '', 1, 0, 60, 'How often a curl goes round'],
  ['curlFrom', 'Curl from', '%', 100, 0, 1, 'Where along the strand the curl begins'],
  ['curlTo', 'Curl to', '%', 100, 0, 1, 'Where it ends'],
  ['frizz', 'Frizz', '%', 100, 0, 1, 'How far strands stray at random, of their length'],
];

/** How the hair between the guides looks: nothing of it moves anything, and nothing is simulated anew. */
export function LookRows({ parts, run }: { parts: readonly StrandsPart[]; run: (t: Thunk) => void }) {
  const ids = parts.map((p) => p.id);
  const one = parts[0]!;
  const set = (name: string, more: Partial<Look>) =>
    run(changeStrands(ids, name, (p) => void Object.assign(p.look, more)));
  return (
    <section className="group" aria-label="Look">
      <h3>Look</h3>
      {ROWS.map(([key, label, unit, per, min, max, says]) => (
        <NumberRow
          key={key}
          {...{ label, unit, says }}
          whole={key === 'strands'}
          value={Number((one.look[key] * per).toPrecision(4))}
          onSet={(v) => {
            const value = Math.min(max, Math.max(min, v / per));
            set(`Set ${label.toLowerCase()}`, { [key]: key === 'strands' ? Math.round(value) : value });
          }}
        />
      ))}
      {(['root', 'tip'] as const).map((key) => (
        <Row key={key} label={key === 'root' ? 'Colour at the root' : 'Colour at the tip'}>
          <input
            type="color"
            aria-label={key === 'root' ? 'Colour at the root' : 'Colour at the tip'}
            value={one.look[key]}
            onChange={(e) => set('Set its colour', { [key]: e.target.value })}
          />
        </Row>
      ))}
    </section>
  );
}
