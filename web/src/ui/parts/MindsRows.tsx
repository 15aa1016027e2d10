import { inOrder, minds, withMinded, type Collider, type Minds } from '@oscillum/core/model';
import type { Part } from '@oscillum/core/shot';
import { selectShot, useAppSelector } from '../../state/store';
import { CheckRow } from '../kit/Rows';

interface Minding {
  collidesWith: { colliders: Minds; parts: Minds };
}

interface Props<P extends Minding> {
  readonly parts: readonly P[];
  readonly colliders: readonly Collider[];
  /** Parts that push them back. */
  readonly others: readonly Part[];
  onSet(recipe: (p: Minding) => void): void;
}

/** What parts collide with: colliders, and other parts that feel it. */
export function MindsRows<P extends Minding>({ parts, colliders, others, onSet }: Props<P>) {
  const rows = (
    list: readonly { readonly id: string; readonly name: string; readonly muted: boolean }[],
    key: keyof Minding['collidesWith'],
  ) =>
    list.map((c) => (
      <CheckRow
        key={c.id}
        label={c.muted ? `${c.name}, muted` : c.name}
        {...(key === 'parts' && { says: 'They push each other' })}
        value={parts.every((p) => minds(p.collidesWith[key], c.id))}
        onSet={(on) =>
          onSet((p) => {
            const all = list.map((x) => x.id);
            p.collidesWith[key] = withMinded(p.collidesWith[key], all, c.id, on);
          })
        }
      />
    ));
  return (
    <>
      {colliders.length === 0 && (
        <p className="muted small">There are no colliders yet: fit the body under World.</p>
      )}
      <div className="minds" role="group" aria-label="Collides with">
        {rows(colliders, 'colliders')}
      </div>
      {others.length > 0 && (
        <div className="minds" role="group" aria-label="Collides with parts">
          {rows(others, 'parts')}
        </div>
      )}
    </>
  );
}

/** What solid parts and hair collide with: all colliders, and other parts of some kinds that they push. */
export function TouchRows<P extends Minding & { readonly id: string }>({
  parts,
  kinds,
  onSet,
}: Pick<Props<P>, 'parts' | 'onSet'> & { readonly kinds: readonly Part['kind'][] }) {
  const shot = useAppSelector(selectShot)!;
  const ids = parts.map((p) => p.id);
  const others = inOrder(shot.parts).filter((p) => !ids.includes(p.id) && kinds.includes(p.kind));
  return <MindsRows {...{ parts, onSet, others }} colliders={inOrder(shot.colliders)} />;
}
