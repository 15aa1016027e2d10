import { applyRemedy } from '@oscillum/core/measure';
import type { Shot } from '@oscillum/core/model';
import { change } from '../../state/edits';
import type { Thunk } from '../../state/store';
import { usePicture } from '../common/desk';

/** What keeps parts from moving well, each with what would cure it at one press. `ids` empty is all parts. */
export function Advice({ ids, run }: { ids: readonly string[]; run: (t: Thunk) => void }) {
  const { advice } = usePicture();
  const found = advice?.diagnoses.filter((d) => ids.length === 0 || ids.includes(d.partId)) ?? [];
  if (found.length === 0) return null;
  return (
    <ul className="advice" aria-label="Advice">
      {found.map((d) => (
        <li key={`${d.partId} ${d.cause}`}>
          <span>{d.sentence}</span>
          <button
            className="plain"
            onClick={() =>
              run(
                change(d.remedy.says.slice(0, 120), (draft) =>
                  applyRemedy(draft as Shot, d.partId, d.remedy),
                ),
              )
            }
          >
            {d.remedy.says}
          </button>
        </li>
      ))}
    </ul>
  );
}
