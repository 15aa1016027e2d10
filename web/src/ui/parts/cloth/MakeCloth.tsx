import { sentenceOf } from '../../../state/edits';
import { makeClothOf } from '../../../state/parts/cloth/make';
import { useAppDispatch } from '../../../state/store';
import { useDesk } from '../../kit/desk';
import { sayTrouble } from '../../kit/say';

/** Makes a cloth of a mesh, with one press. */
export function MakeCloth({ node }: { node: number }) {
  const dispatch = useAppDispatch();
  const { character } = useDesk();
  return (
    <button
      className="press"
      title="It hangs from its rim or from the joint that weighs it, and touches the mesh it lies on"
      onClick={() => {
        try {
          dispatch(makeClothOf(character, node));
        } catch (e) {
          sayTrouble(sentenceOf(e));
        }
      }}
    >
      Make cloth
    </button>
  );
}
