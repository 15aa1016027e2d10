import { useState } from 'react';
import type { BodyPart } from '@oscillum/core/body';
import { documentOf, type Part } from '@oscillum/core/shot';
import { meshesOf } from '@oscillum/core/sheets';
import { copyBody } from '../../../state/parts/body/make';
import { useDesk } from '../../kit/desk';
import { CheckRow, NumberRow } from '../../kit/Rows';
import type { PanelProps } from '../kind';

/** Copies its set-up to meshes that nothing moves yet, each starting some frames later, and links them. */
export function Copies({
  part,
  others,
  run,
}: {
  part: BodyPart;
  others: readonly Part[];
  run: PanelProps['run'];
}) {
  const { character } = useDesk();
  const [chosen, choose] = useState<readonly number[]>([]);
  const [later, setLater] = useState(8);
  const [push, setPush] = useState(true);
  const taken = new Set(
    [part, ...others].flatMap((p) =>
      documentOf(p)
        .claims(p)
        .map((c) => c.node),
    ),
  );
  const free = meshesOf(character).filter((m) => !taken.has(m.node));
  const ready = chosen.filter((n) => free.some((m) => m.node === n));
  if (free.length === 0) return null;
  return (
    <details className="regions">
      <summary>
        Copy to other meshes <span className="muted small">{free.length}</span>
      </summary>
      <div className="minds" role="group" aria-label="Copy to other meshes">
        {free.map(({ node, name }) => (
          <CheckRow
            key={node}
            label={name}
            value={ready.includes(node)}
            onSet={(on) => choose(on ? [...ready, node] : ready.filter((n) => n !== node))}
          />
        ))}
      </div>
      <NumberRow
        label="Each later by, frames"
        says="Every copy starts so many frames later: its animation and its keys"
        whole
        value={later}
        onSet={setLater}
      />
      <CheckRow
        label="They push one another"
        says="The copies and this one touch each other"
        value={push}
        onSet={setPush}
      />
      <button
        className="mini"
        disabled={ready.length === 0}
        onClick={() => {
          run(copyBody(character, part.id, ready, { later, push }));
          choose([]);
        }}
      >
        copy
      </button>
    </details>
  );
}
