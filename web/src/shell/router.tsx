/** Addresses: one a screen, under the site. Screens come in files of their own. */
import { createBrowserRouter } from 'react-router';
import { SignedIn } from '../features/session/SignedIn.tsx';
import { FirstSite } from './FirstSite.tsx';
import { Frame } from './Frame.tsx';
import { ViewFailed } from './ViewFailed.tsx';

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
              {
                path: 'read',
                lazy: async () => ({ Component: (await import('../features/read/ReadScreen.tsx')).ReadScreen }),
              },
              {
                path: 'identify/:case?',
                lazy: async () => ({
                  Component: (await import('../features/identify/IdentifyScreen.tsx')).IdentifyScreen,
                }),
              },
              {
                path: 'formats/:format?',
                lazy: async () => ({
                  Component: (await import('../features/formats/FormatsScreen.tsx')).FormatsScreen,
                }),
              },
              {
                path: 'stock/boxes/:box?',
                lazy: async () => ({
                  Component: (await import('../features/stock/boxes/BoxesScreen.tsx')).BoxesScreen,
                }),
              },
              {
                path: 'stock/people/badges',
                lazy: async () => ({
                  Component: (await import('../features/stock/badges/BadgesScreen.tsx')).BadgesScreen,
                }),
              },
              {
                path: 'stock/people/sheet',
                lazy: async () => ({
                  Component: (await import('../features/stock/sheet/PeopleSheetScreen.tsx')).PeopleSheetScreen,
                }),
              },
              {
                path: 'stock/people/:person?',
                lazy: async () => ({
                  Component: (await import('../features/stock/people/PeopleScreen.tsx')).PeopleScreen,
                }),
              },
              {
                path: 'stock/sheet',
                lazy: async () => ({
                  Component: (await import('../features/stock/sheet/SheetScreen.tsx')).SheetScreen,
                }),
              },
              {
                path: 'stock/:card?',
                lazy: async () => ({ Component: (await import('../features/stock/StockScreen.tsx')).StockScreen }),
              },
              {
                path: 'keys/:key?',
                lazy: async () => ({ Component: (await import('../features/keys/KeysScreen.tsx')).KeysScreen }),
              },
              {
                path: 'encode/:plan?',
                lazy: async () => ({ Component: (await import('../features/encode/EncodeScreen.tsx')).EncodeScreen }),
              },
              {
                path: 'doors/groups/:group?',
                lazy: async () => ({
                  Component: (await import('../features/doors/access/GroupsScreen.tsx')).GroupsScreen,
                }),
              },
              {
                path: 'doors/schedules/:schedule?',
                lazy: async () => ({
                  Component: (await import('../features/doors/access/SchedulesScreen.tsx')).SchedulesScreen,
                }),
              },
              {
                path: 'doors/passing/:door?',
                lazy: async () => ({
                  Component: (await import('../features/doors/access/PassingScreen.tsx')).PassingScreen,
                }),
              },
              {
                path: 'doors',
                lazy: async () => ({ Component: (await import('../features/doors/DoorsScreen.tsx')).DoorsScreen }),
              },
              {
                path: 'trail',
                lazy: async () => ({ Component: (await import('../features/trail/TrailScreen.tsx')).TrailScreen }),
              },
              {
                path: 'operators',
                lazy: async () => ({
                  Component: (await import('../features/operators/OperatorsScreen.tsx')).OperatorsScreen,
                }),
              },
              {
                path: 'site',
                lazy: async () => ({ Component: (await import('../features/sites/SiteScreen.tsx')).SiteScreen }),
              },
              {
                path: 'account',
                lazy: async () => ({
                  Component: (await import('../features/session/AccountScreen.tsx')).AccountScreen,
                }),
              },
              { path: '*', element: <p className="p-6">There is no such page. Choose a screen at the left.</p> },
            ],
          },
        ],
      },
    ],
  },
]);
