import type { MeshRegion } from '@oscillum/core/model';
import { sentenceOf } from '../../../state/edits';
import { makeBodyOf } from '../../../state/parts/body/make';
import { useAppDispatch } from '../../../state/store';
import { useDesk } from '../../kit/desk';
import { sayTrouble } from '../../kit/say';

/** Makes a whole mesh a soft body, with one press; parts of meshes are regions. */
export function MakeBody({ node, region }: { node: number; region: MeshRegion | null }) {
  const dispatch = useAppDispatch();
  const { character } = useDesk();
  if (region) return null;
  return (
    <button
      className="press"
      title="The whole mesh squashes and wobbles: jelly, a parcel, a dumpling"
      onClick={() => {
        try {
          dispatch(makeBodyOf(character, node));
        } catch (e) {
          sayTrouble(sentenceOf(e));
        }
      }}
    >
      Make soft body
    </button>
  );
}
