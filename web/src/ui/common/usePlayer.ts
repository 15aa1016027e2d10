import { useEffect } from 'react';
import { useStore } from 'react-redux';
import { selectShot, useAppDispatch, useAppSelector, type State } from '../../state/store';
import { viewSlice } from '../../state/view';

/** Moves the frame with the clock while it plays; between frames too, so that slow playback is smooth. */
export function usePlayer(): void {
  const dispatch = useAppDispatch();
  const store = useStore<State>();
  const playing = useAppSelector((s) => s.view.playing);
  useEffect(() => {
    if (!playing) return;
    let last = performance.now();
    let handle = 0;
    const tick = (now: number) => {
      const { view } = store.getState();
      const shot = selectShot(store.getState());
      if (!shot) return;
      let frame = view.frame + ((now - last) / 1000) * shot.fps * view.speed;
      last = now;
      const { first, last: end } = shot.range;
      const length = end - first;
      if (frame > end) {
        if (!view.loop) {
          dispatch(viewSlice.actions.frameSet(end));
          dispatch(viewSlice.actions.playingSet(false));
          return;
        }
        frame = length > 0 ? first + ((frame - first) % length) : first;
      }
      dispatch(viewSlice.actions.frameSet(frame));
      handle = requestAnimationFrame(tick);
    };
    handle = requestAnimationFrame(tick);
    return () => cancelAnimationFrame(handle);
  }, [playing, dispatch, store]);
}
