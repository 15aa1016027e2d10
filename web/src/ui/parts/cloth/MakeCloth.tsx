import type { MeshRegion } from '@oscillum/core/model';
import { hasLinesAlone } from '@oscillum/core/sheets';
import { sentenceOf } from '../../../state/edits';
import { makeClothOf } from '../../../state/parts/cloth/make';
import { useAppDispatch } from '../../../state/store';
import { useDesk } from '../../kit/desk';
import { sayTrouble } from '../../kit/say';

/** Makes a cloth of a mesh or a part of it, or a string of lines, with one press. */
export function MakeCloth({ node, region }: { node: number; region: MeshRegion | null }) {
  const dispatch = useAppDispatch();
  const { character } = useDesk();
  const string = hasLinesAlone(character, node);
  return (
    <button
      className="press"
      title={
        string
          ? 'Its lines keep their length, lie on colliders and are drawn as thick as they keep off them'
          : 'It hangs from its rim or from the joint that weighs it, and touches the mesh it lies on'
      }
      onClick={() => {
        try {
          dispatch(makeClothOf(character, node, region));
        } catch (e) {
          sayTrouble(sentenceOf(e));
        }
      }}
    >
      {string ? 'Make string' : 'Make cloth'}
    </button>
  );
}
