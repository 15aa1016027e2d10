import { documentOf, type Part } from '@oscillum/core/shot';
import { breatheBy } from '../../state/parts/pendulum/edits';
import type { Thunk } from '../../state/store';
import { Row } from '../kit/Rows';

/** Makes a pendulum that drives one of a part's settings, with one press. */
export function Breathe({ part, run }: { part: Part; run: (t: Thunk) => void }) {
  const { driven, settings } = documentOf(part);
  return (
    <Row label="Breathe by" says="Makes a pendulum with a drawn breath that drives this setting">
      <span className="presses" role="group" aria-label="Breathe by">
        {driven.map((setting) => (
          <button key={setting} className="mini" onClick={() => run(breatheBy({ part: part.id, setting }))}>
            {settings[setting]!.label.toLowerCase()}
          </button>
        ))}
      </span>
    </Row>
  );
}
