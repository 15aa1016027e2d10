import { configureStore } from '@reduxjs/toolkit';
import { shallowEqual, useDispatch, useSelector } from 'react-redux';
import { libraryApi } from '../api/library';
import { shotSlice } from './shot';
import { viewSlice } from './view';

export const store = configureStore({
  reducer: { shot: shotSlice.reducer, view: viewSlice.reducer, [libraryApi.reducerPath]: libraryApi.reducer },
  // Uploads carry a File, which is not serialisable and is never stored.
  middleware: (get) => get({ serializableCheck: false, immutableCheck: false }).concat(libraryApi.middleware),
});

export type State = ReturnType<typeof store.getState>;
export type Dispatch = typeof store.dispatch;
export type Thunk<R = void> = (dispatch: Dispatch, getState: () => State) => R;
export const useAppDispatch = useDispatch.withTypes<Dispatch>();
export const useAppSelector = useSelector.withTypes<State>();
/** The same for lists and records made anew each time: renders again when an entry is another. */
export const useAppEntries = <T>(select: (s: State) => T): T => useAppSelector(select, shallowEqual);

/** The shot as it is being shown: under the hand if one is on a control. */
export const selectShot = (s: State) => s.shot.preview ?? s.shot.shot;
