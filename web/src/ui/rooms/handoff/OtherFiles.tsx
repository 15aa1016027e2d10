import { measuredTable, toCsv } from '@oscillum/core/handoff';
import { addressOf } from '../../../api/http';
import { useAppSelector } from '../../../state/store';
import { useDesk } from '../../kit/desk';
import { say } from '../../kit/say';
import { bakeable, unmuted } from '../../../state/baking';
import { saveFile } from '../../kit/saveFile';

/** A name as files can have it. */
const fileWord = (name: string): string => name.replace(/[^\w .,-]/g, '');

/** What can be taken along beside a bake: the shot itself, what was measured, the character. */
export function OtherFiles() {
  const { simulation } = useDesk();
  const shot = useAppSelector((s) => s.shot.shot)!;
  return (
    <>
      <h3 style={{ marginTop: 10 }}>Other files</h3>
      <span className="pair" style={{ flexWrap: 'wrap' }}>
        <button
          className="soft"
          onClick={() =>
            saveFile(
              // What only a bake has muted moves again where the shot goes.
              JSON.stringify(
                unmuted(
                  shot,
                  bakeable(shot).map((p) => p.id),
                ),
                null,
                1,
              ),
              `${fileWord(shot.name)}.shot.json`,
              'application/json',
            )
          }
        >
          Shot as JSON
        </button>
        <button
          className="soft"
          title="How far each chain is off its source, where its tip is and what it touches, frame by frame"
          onClick={() => {
            const { frames } = simulation.picture;
            if (frames && frames.done === frames.count && frames.parts.length > 0)
              saveFile(toCsv(measuredTable(shot, frames)), `${fileWord(shot.name)} measures.csv`, 'text/csv');
            else say('There is nothing measured yet: no chain moves, or it is still being simulated.');
          }}
        >
          Measures as CSV
        </button>
        <a
          className="soft"
          style={{ color: 'inherit', textDecoration: 'none' }}
          href={addressOf('downloadCharacter', { params: { hash: shot.character.hash } })}
          download={shot.character.fileName}
        >
          Character file
        </a>
      </span>
    </>
  );
}
