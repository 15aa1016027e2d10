import { useEffect } from 'react';
import { useStore } from 'react-redux';
import { selectShot, useAppDispatch, useAppSelector, type State } from '../../state/store';
import { viewSlice } from '../../state/view';

/** How often the frames that were really shown are counted, ms. */
const RATE_MS = 1000;

/** Moves the frame with the clock while it plays; between frames too, so that slow playback is smooth. */
export function usePlayer(): void {
  const dispatch = useAppDispatch();
  const store = useStore<State>();
  const playing = useAppSelector((s) => s.view.playing);
  useEffect(() => {
    if (!playing) return;
    let last = performance.now();
    let handle = 0;
    let since = last;
    let shown = 0;
    const tick = (now: number) => {
      const { view } = store.getState();
      const shot = selectShot(store.getState());
      if (!shot) return;
      // A picture's own time may lie before the moment in which playing began: it never goes back.
      const by = (Math.max(0, now - last) / 1000) * shot.fps * view.speed;
      // Every frame is shown: never past the next whole one.
      let frame = view.everyFrame
        ? Math.min(view.frame + by, Math.floor(view.frame + 1e-6) + 1)
        : view.frame + by;
      last = now;
      const { from: first, to: end } = view.bracket ?? { from: shot.range.first, to: shot.range.last };
      const length = end - first;
      if (Math.floor(frame) !== Math.floor(view.frame)) shown++;
      if (now - since > RATE_MS) {
        dispatch(viewSlice.actions.rateMeasured((1000 * shown) / (now - since)));
        since = now;
        shown = 0;
      }
      if (frame > end) {
        if (!view.loop) {
          dispatch(viewSlice.actions.frameSet(end));
          dispatch(viewSlice.actions.playingSet(false));
          return;
        }
        frame = length > 0 ? first + ((frame - first) % length) : first;
      } else if (frame < first) frame = first;
      dispatch(viewSlice.actions.frameSet(frame));
      handle = requestAnimationFrame(tick);
    };
    handle = requestAnimationFrame(tick);
    return () => cancelAnimationFrame(handle);
  }, [playing, dispatch, store]);
}
