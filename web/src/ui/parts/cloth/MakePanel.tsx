import { sentenceOf } from '../../../state/edits';
import { chainsOf, makePanelOf } from '../../../state/parts/cloth/panel';
import { selectShot, useAppDispatch, useAppSelector } from '../../../state/store';
import { useDesk } from '../../kit/desk';
import { sayTrouble } from '../../kit/say';

/** Chains that are selected together can become one sheet. */
export function MakePanel() {
  const dispatch = useAppDispatch();
  const { character } = useDesk();
  const shot = useAppSelector(selectShot)!;
  const ids = useAppSelector((s) => s.view.parts);
  const chains = chainsOf(shot, ids);
  if (chains.length === 0) return null;
  const make = () => {
    try {
      dispatch(makePanelOf(character, ids));
    } catch (e) {
      sayTrouble(sentenceOf(e));
    }
  };
  return (
    <div className="float offer" role="region" aria-label="Make panel">
      <span>{chains.length} chains side by side can move as one sheet, as a skirt or a cape does.</span>
      <button className="press" onClick={make}>
        Make panel
      </button>
    </div>
  );
}
