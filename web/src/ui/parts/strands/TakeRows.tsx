import { useRef, useState } from 'react';
import { isChain } from '@oscillum/core/chain';
import { inOrder } from '@oscillum/core/model';
import { lineOfJoints } from '@oscillum/core/simulate';
import type { StrandsPart } from '@oscillum/core/strands';
import { sentenceOf } from '../../../state/edits';
import { takeFile, takeLines } from '../../../state/parts/strands/edits';
import { selectShot, useAppDispatch, useAppSelector } from '../../../state/store';
import { useDesk } from '../../kit/desk';

const ALL = 'all';

/** Takes guides from elsewhere: along the joints of chains, or curves of a file. */
export function TakeRows({ part }: { part: StrandsPart }) {
  const dispatch = useAppDispatch();
  const { character } = useDesk();
  const shot = useAppSelector(selectShot)!;
  const input = useRef<HTMLInputElement>(null);
  const [said, setSaid] = useState<readonly string[]>([]);
  const chains = inOrder(shot.parts).filter(isChain);
  const read = async (file: File) => {
    try {
      const bytes = new Uint8Array(await file.arrayBuffer());
      setSaid(dispatch(takeFile(character, part.id, bytes, file.name)));
    } catch (e) {
      setSaid([sentenceOf(e)]);
    }
  };
  const along = (which: string) => {
    const some = chains.filter((c) => which === ALL || c.id === which);
    const { metresPerUnit } = shot.character;
    const lines = some.map(({ joints }) =>
      lineOfJoints(
        character,
        joints.map((j) => j.node),
        metresPerUnit,
      ),
    );
    try {
      setSaid(dispatch(takeLines(character, part.id, lines)));
    } catch (e) {
      setSaid([sentenceOf(e)]);
    }
  };
  return (
    <>
      <div className="presses">
        <button
          className="mini"
          title="OBJ lines, glTF lines, USD text (BasisCurves), or a table with columns strand, x, y, z"
          onClick={() => input.current?.click()}
        >
          guides from a file
        </button>
        <input
          ref={input}
          type="file"
          hidden
          aria-label="Choose a file of curves"
          accept=".obj,.glb,.gltf,.zip,.usda,.csv,.txt"
          onChange={(e) => {
            const file = e.target.files?.[0];
            e.target.value = '';
            if (file) void read(file);
          }}
        />
        {chains.length > 0 && (
          <select
            aria-label="Guides along joints"
            title="A guide along the joints of a chain; the chain stays"
            value=""
            onChange={(e) => along(e.target.value)}
          >
            <option value="" disabled>
              along joints of…
            </option>
            {chains.map((c) => (
              <option key={c.id} value={c.id}>
                {c.name}
              </option>
            ))}
            {chains.length > 1 && <option value={ALL}>all chains</option>}
          </select>
        )}
      </div>
      {said.length > 0 && (
        <p className="muted small" role="status">
          {said.join(' ')}
        </p>
      )}
    </>
  );
}
