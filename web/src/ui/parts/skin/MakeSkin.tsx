import type { MeshRegion } from '@oscillum/core/model';
import { sentenceOf } from '../../../state/edits';
import { bodiesBelow, makeSkinOf } from '../../../state/parts/skin/edits';
import { selectShot, useAppDispatch, useAppSelector } from '../../../state/store';
import { useDesk } from '../../kit/desk';
import { sayTrouble } from '../../kit/say';

/** Lays a mesh over the soft bodies of the shot, with one press; offered once there is one. */
export function MakeSkin({ node, region }: { node: number; region: MeshRegion | null }) {
  const dispatch = useAppDispatch();
  const { character } = useDesk();
  const any = useAppSelector((s) => bodiesBelow(selectShot(s)!, node).length > 0);
  const skinned = useAppSelector((s) =>
    Object.values(selectShot(s)!.parts).some((p) => p.kind === 'skin' && p.mesh.node === node),
  );
  if (region || !any || skinned) return null;
  return (
    <button
      className="press"
      title="It goes along with the soft bodies below it, as skin does with muscle and fat"
      onClick={() => {
        try {
          dispatch(makeSkinOf(character, node));
        } catch (e) {
          sayTrouble(sentenceOf(e));
        }
      }}
    >
      Lay over soft bodies
    </button>
  );
}
