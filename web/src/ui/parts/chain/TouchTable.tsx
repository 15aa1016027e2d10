import { useDisclosure } from '@mantine/hooks';
import { inOrder, minds } from '@oscillum/core/model';
import { isChain, type ChainPart } from '@oscillum/core/chain';
import { partsInOrder } from '@oscillum/core/shot';
import { setTouch } from '../../../state/touch';
import { Sheet } from '../../kit/Sheet';
import { selectShot, useAppSelector, type Thunk } from '../../../state/store';

/** Who touches whom, as a table of yes and no: chains down, what they may touch across. */
export function TouchTable({ run }: { run: (t: Thunk) => void }) {
  const [opened, { open, close }] = useDisclosure(false);
  const shot = useAppSelector(selectShot)!;
  const parts = partsInOrder(shot).filter(isChain);
  const colliders = inOrder(shot.colliders);
  if (parts.length === 0 || colliders.length + parts.length < 2) return null;
  const cell = (key: string, label: string, on: boolean, set: (on: boolean) => Thunk) => (
    <td key={key}>
      <input type="checkbox" aria-label={label} checked={on} onChange={(e) => run(set(e.target.checked))} />
    </td>
  );
  const whole = (p: ChainPart) =>
    colliders.length > 0 && colliders.every((c) => minds(p.collidesWith.colliders, c.id));
  return (
    <>
      <div className="presses">
        <button className="mini" onClick={open}>
          Who touches whom
        </button>
      </div>
      <Sheet opened={opened} onClose={close} title="Who touches whom">
        <div className="touch">
          <table>
            <thead>
              <tr>
                <td />
                {colliders.length > 0 && <th scope="col">all colliders</th>}
                {colliders.map((c) => (
                  <th key={c.id} scope="col">
                    {c.name}
                  </th>
                ))}
                {parts.map((p) => (
                  <th key={p.id} scope="col" className="part">
                    {p.name}
                  </th>
                ))}
              </tr>
            </thead>
            <tbody>
              {parts.map((p) => (
                <tr key={p.id}>
                  <th scope="row">{p.name}</th>
                  {colliders.length > 0 &&
                    cell('all', `${p.name} touches every collider`, whole(p), (on) =>
                      setTouch(p.id, 'colliders', on ? 'all' : []),
                    )}
                  {colliders.map((c) =>
                    cell(c.id, `${p.name} touches ${c.name}`, minds(p.collidesWith.colliders, c.id), (on) =>
                      setTouch(p.id, 'colliders', c.id, on),
                    ),
                  )}
                  {parts.map((q) =>
                    q === p ? (
                      <td key={q.id} className="muted">
                        –
                      </td>
                    ) : (
                      cell(
                        q.id,
                        `${p.name} touches ${q.name}`,
                        minds(p.collidesWith.parts, q.id) || minds(q.collidesWith.parts, p.id),
                        (on) => setTouch(p.id, 'parts', q.id, on),
                      )
                    ),
                  )}
                </tr>
              ))}
            </tbody>
          </table>
        </div>
      </Sheet>
    </>
  );
}
