/** Addresses: one a screen, under the site. Screens come in files of their own. */
import { createBrowserRouter } from 'react-router';
import { FirstSite } from '../frame/FirstSite.tsx';
import { Frame } from '../frame/Frame.tsx';
import { ViewFailed } from '../frame/ViewFailed.tsx';
import { SignedIn } from '../session/SignedIn.tsx';

export const router = createBrowserRouter([
  {
    element: <SignedIn />,
    errorElement: <ViewFailed />,
    hydrateFallbackElement: <p className="p-6">Loading …</p>,
    children: [
      { path: '/', element: <FirstSite /> },
      {
        path: '/:site',
        element: <Frame />,
        children: [
          {
            // The frame stays when one of its views cannot be shown.
            errorElement: <ViewFailed />,
            children: [
              { path: 'read', lazy: async () => ({ Component: (await import('../read/ReadScreen.tsx')).ReadScreen }) },
              {
                path: 'identify/:case?',
                lazy: async () => ({ Component: (await import('../identify/IdentifyScreen.tsx')).IdentifyScreen }),
              },
              {
                path: 'formats/:format?',
                lazy: async () => ({ Component: (await import('../formats/FormatsScreen.tsx')).FormatsScreen }),
              },
              {
                path: 'stock/:card?',
                lazy: async () => ({ Component: (await import('../stock/StockScreen.tsx')).StockScreen }),
              },
              {
                path: 'doors',
                lazy: async () => ({ Component: (await import('../doors/DoorsScreen.tsx')).DoorsScreen }),
              },
              {
                path: 'trail',
                lazy: async () => ({ Component: (await import('../trail/TrailScreen.tsx')).TrailScreen }),
              },
              {
                path: 'operators',
                lazy: async () => ({ Component: (await import('../operators/OperatorsScreen.tsx')).OperatorsScreen }),
              },
              {
                path: 'account',
                lazy: async () => ({ Component: (await import('../session/AccountScreen.tsx')).AccountScreen }),
              },
              { path: '*', element: <p className="p-6">There is no such page. Choose a screen at the left.</p> },
            ],
          },
        ],
      },
    ],
  },
]);
