import type { MeshRegion } from '@oscillum/core/model';
import { sentenceOf } from '../../../state/edits';
import { makeClothOf } from '../../../state/parts/cloth/make';
import { useAppDispatch } from '../../../state/store';
import { useDesk } from '../../kit/desk';
import { sayTrouble } from '../../kit/say';

/** Makes a cloth of a mesh or a part of it, with one press. */
export function MakeCloth({ node, region }: { node: number; region: MeshRegion | null }) {
  const dispatch = useAppDispatch();
  const { character } = useDesk();
  return (
    <button
      className="press"
      title="It hangs from its rim or from the joint that weighs it, and touches the mesh it lies on"
      onClick={() => {
        try {
          dispatch(makeClothOf(character, node, region));
        } catch (e) {
          sayTrouble(sentenceOf(e));
        }
      }}
    >
      Make cloth
    </button>
  );
}
