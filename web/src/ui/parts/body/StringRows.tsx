import { MOST_STRINGS, type BodyPart } from '@oscillum/core/body';
import { changeBodies, hangBody } from '../../../state/parts/body/edits';
import type { Thunk } from '../../../state/store';
import { useDesk } from '../../kit/desk';
import { JointRow } from '../../kit/JointRow';
import { NumberBox } from '../../kit/Fields';

/** Strings that a soft body hangs on: which joint, and how long each is. */
export function StringRows({ part, run }: { part: BodyPart; run: (t: Thunk) => void }) {
  const { character } = useDesk();
  const set = (name: string, recipe: (strings: BodyPart['strings']) => BodyPart['strings']) =>
    run(changeBodies([part.id], name, (p) => void (p.strings = recipe(p.strings))));
  return (
    <>
      {part.strings.map((s, k) => (
        <div key={k} className="presses value-keys" role="group" aria-label={`String to ${s.joint.name}`}>
          <span>
            String to <b>{s.joint.name}</b>
          </span>
          <NumberBox
            label={`Length of the string to ${s.joint.name}`}
            unit="m"
            value={s.length}
            onSet={(length) =>
              set('Set how long a string is', (all) =>
                all.with(k, { ...s, length: Math.min(1e4, Math.max(1e-3, length)) }),
              )
            }
          />
          <span className="muted small">m</span>
          <button
            className="mini"
            onClick={() => set('Cut a string', (all) => all.filter((_, i) => i !== k))}
          >
            cut
          </button>
        </div>
      ))}
      {part.strings.length < MOST_STRINGS && (
        <JointRow
          label="Hang on a joint"
          says="By a string from the place of it that is nearest to the joint in the rest pose. The last joint of a chain is its tip."
          value={null}
          onSet={(joint) => joint && run(hangBody(character, part.id, joint))}
        />
      )}
    </>
  );
}
