import { change } from '../../state/edits';
import { Row } from '../kit/Rows';
import type { PanelProps } from './kind';

interface Props extends Pick<PanelProps, 'run'> {
  readonly parts: readonly { readonly id: string; readonly pulls: readonly unknown[] }[];
}

/** What hands have pulled at parts, to be let go: as many as the first has. */
export function PullsRow({ parts, run }: Props) {
  const { length } = parts[0]!.pulls;
  if (length === 0) return null;
  return (
    <Row label={`${length} ${length === 1 ? 'pull' : 'pulls'} by hand`}>
      <button
        className="mini"
        onClick={() =>
          run(
            change('Let the pulls go', (d) => {
              for (const { id } of parts) {
                const own = d.parts[id];
                if (own && 'pulls' in own) own.pulls = [];
              }
            }),
          )
        }
      >
        let them go
      </button>
    </Row>
  );
}
