import type { StrandsPart } from '@oscillum/core/strands';
import { changeStrands } from '../../../state/parts/strands/edits';
import { NumberRow } from '../../kit/Rows';
import type { PanelProps } from '../kind';

type Band = StrandsPart['bands'][number];

/** What each number of a band is: its name and unit, what it does, its limits, and how it is shown. */
const NUMBERS: readonly {
  key: keyof Band;
  label: string;
  unit: string;
  says: string;
  limits: readonly [number, number];
  shown: number;
}[] = [
  {
    ...{ key: 'at', label: 'Band at', unit: '%', limits: [0, 1], shown: 100 },
    says: 'How far from root to tip it stands',
  },
  {
    ...{ key: 'bundles', label: 'Bundles', unit: '', limits: [1, 200], shown: 1 },
    says: 'How many bundles it makes: guides go with those that are rooted near them',
  },
  {
    ...{ key: 'firmness', label: 'Firmness', unit: 'Hz', limits: [0.1, 30], shown: 1 },
    says: 'How firmly it holds each guide in its bundle; 4 substeps of 24 frames a second allow 9 Hz, more allow more',
  },
  {
    ...{ key: 'drawn', label: 'Draw in', unit: '%', limits: [0, 100], shown: 1 },
    says: 'How far it draws guides to the middle of their bundle: 0 leaves them as groomed',
  },
  {
    ...{ key: 'weight', label: 'Weighs', unit: 'g', limits: [0, 1e5], shown: 1 },
    says: 'What the ribbon, the ring or the bead on each bundle weighs: more slows it down',
  },
];

/** Bands about hair: a tail has one, a plait several. */
export function BandRows({ part, run }: { part: StrandsPart; run: PanelProps<StrandsPart>['run'] }) {
  const edit = (name: string, recipe: (p: StrandsPart) => void) =>
    run(changeStrands([part.id], name, recipe));
  return (
    <section className="group" aria-label="Bands">
      <h3>Bands</h3>
      {part.bands.map((band, i) => (
        <div key={i} role="group" aria-label={`Band ${i + 1}`}>
          {NUMBERS.map(({ key, label, unit, says, limits: [least, most], shown }) => (
            <NumberRow
              key={key}
              {...{ label, unit, says }}
              whole={key === 'bundles'}
              value={Number((shown * band[key]).toFixed(6))}
              onSet={(v) =>
                edit('Set a band', (p) => {
                  p.bands[i]![key] = Math.min(most, Math.max(least, v / shown));
                })
              }
            />
          ))}
          <div className="presses">
            <button
              className="mini"
              onClick={() => edit('Remove a band', (p) => void p.bands.splice(i, 1))}
              aria-label={`Remove band ${i + 1}`}
            >
              remove this band
            </button>
          </div>
        </div>
      ))}
      <div className="presses">
        <button
          className="mini"
          title="Holds guides together in bundles, as a ribbon does; several make a plait"
          disabled={part.bands.length >= 20}
          onClick={() =>
            edit(
              'Add a band',
              (p) =>
                void p.bands.push({
                  at: p.bands.length === 0 ? 0.5 : 0.8,
                  bundles: 1,
                  firmness: 6,
                  drawn: 0,
                  weight: 0,
                }),
            )
          }
        >
          + band
        </button>
      </div>
    </section>
  );
}
