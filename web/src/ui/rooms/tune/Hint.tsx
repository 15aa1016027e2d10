import { useState } from 'react';
import { selectShot, useAppSelector } from '../../../state/store';

const SEEN = 'oscillum.hint';

/** What to do first where something moves, once in a browser; it is in nobody's way and gone at one press. */
export function Hint() {
  const [seen, setSeen] = useState(() => localStorage.getItem(SEEN) !== null);
  const moves = useAppSelector((s) => Object.keys(selectShot(s)!.parts).length > 0);
  if (seen || !moves) return null;
  return (
    <div className="first-steps" role="note" aria-label="First steps">
      <ol>
        <li>
          Press <kbd>Space</kbd>: it plays. Dots along a trail are one frame apart.
        </li>
        <li>Drag Hold, or a ring of the curve: the whole shot answers. Click a lane for another part.</li>
        <li>
          Keep what you like as a take; <kbd>X</kbd> flips between takes.
        </li>
      </ol>
      <p>
        <button
          className="plain"
          onClick={() => {
            localStorage.setItem(SEEN, 'seen');
            setSeen(true);
          }}
        >
          got it
        </button>
      </p>
    </div>
  );
}
