import '@fontsource-variable/atkinson-hyperlegible-next';
import '@fontsource-variable/fraunces';
import '@mantine/core/styles.css';
import '@mantine/notifications/styles.css';
import '@mantine/spotlight/styles.css';
import './styles/index.css';
import { MantineProvider } from '@mantine/core';
import { Notifications } from '@mantine/notifications';
import { StrictMode, useMemo } from 'react';
import { createRoot } from 'react-dom/client';
import { Provider } from 'react-redux';
import { createBrowserRouter, RouterProvider } from 'react-router';
import { startSync } from '../state/sync';
import { store, useAppSelector } from '../state/store';
import { readInks } from '../stage/pen';
import { FilmRoom } from '../ui/rooms/handoff/FilmRoom';
import { Library } from '../ui/rooms/library/Library';
import { Lost } from '../ui/desk/Lost';
import { ShotDesk } from './ShotDesk';
import { theme } from './theme';

const router = createBrowserRouter([
  { path: '/', element: <Library />, errorElement: <Lost /> },
  { path: '/shot/:id/:room', element: <ShotDesk />, errorElement: <Lost /> },
  { path: '/film/:id', element: <FilmRoom />, errorElement: <Lost /> },
  { path: '*', element: <Lost /> },
]);

startSync(store);

/** Everything, in the inks of day or night. */
function Desk() {
  const night = useAppSelector((s) => s.view.night);
  // While rendering, not after it: what is drawn below reads the inks when it is mounted.
  useMemo(() => {
    document.documentElement.dataset.desk = night ? 'night' : 'day';
    readInks();
  }, [night]);
  return (
    <MantineProvider theme={theme} forceColorScheme={night ? 'dark' : 'light'}>
      <Notifications position="bottom-center" />
      <RouterProvider router={router} />
    </MantineProvider>
  );
}

createRoot(document.getElementById('root')!).render(
  <StrictMode>
    <Provider store={store}>
      <Desk />
    </Provider>
  </StrictMode>,
);
