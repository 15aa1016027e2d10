import type { MeshRegion } from '@oscillum/core/model';
import { sentenceOf } from '../../../state/edits';
import { makeHairOn } from '../../../state/parts/strands/make';
import { useAppDispatch } from '../../../state/store';
import { useDesk } from '../../kit/desk';
import { sayTrouble } from '../../kit/say';

/** Grows hair on a mesh or a part of it, with one press. */
export function MakeHair({ node, region }: { node: number; region: MeshRegion | null }) {
  const dispatch = useAppDispatch();
  const { character } = useDesk();
  const make = (drawn: boolean) => {
    try {
      dispatch(makeHairOn(character, node, region, drawn));
    } catch (e) {
      sayTrouble(sentenceOf(e));
    }
  };
  return (
    <>
      <button
        className="press"
        title="Guides grow on it, with hair between them: fur, down, a fringe, a mane"
        onClick={() => make(false)}
      >
        Grow hair
      </button>
      <button
        className="press"
        title="Draw one curve or a few from the skin on, and hair stands about them"
        onClick={() => make(true)}
      >
        Draw a tuft
      </button>
    </>
  );
}
