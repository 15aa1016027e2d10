import type { MeshRegion } from '@oscillum/core/model';
import { sentenceOf } from '../../../state/edits';
import { makeRegionOf } from '../../../state/parts/soft/make';
import { useAppDispatch } from '../../../state/store';
import { useDesk } from '../../kit/desk';
import { sayTrouble } from '../../kit/say';

/** Makes a mesh or a part of it soft, with one press. */
export function MakeRegion({ node, region }: { node: number; region: MeshRegion | null }) {
  const dispatch = useAppDispatch();
  const { character } = useDesk();
  return (
    <button
      className="press"
      title="It quivers on its skin: flesh, a belly, a wattle"
      onClick={() => {
        try {
          dispatch(makeRegionOf(character, node, region));
        } catch (e) {
          sayTrouble(sentenceOf(e));
        }
      }}
    >
      Make soft
    </button>
  );
}
