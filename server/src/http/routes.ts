/** Every route of the API, in the order of the work. */

import { cardholderRoutes } from '../cardholders/routes.ts';
import { cardRoutes } from '../cards/routes.ts';
import { caseRoutes } from '../cases/routes.ts';
import { doorRoutes } from '../doors/routes.ts';
import { dryRunRoutes } from '../dryRuns/routes.ts';
import { eventRoutes } from '../events/routes.ts';
import { facilityCodeRoutes } from '../facilityCodes/routes.ts';
import { exchangeRoutes } from '../formats/exchange.ts';
import { formatRoutes } from '../formats/routes.ts';
import { liveRoutes } from '../live/routes.ts';
import { operatorRoutes } from '../operators/routes.ts';
import { readRoutes } from '../reads/routes.ts';
import type { RigIngest } from '../rig/ingest.ts';
import { rigRoutes } from '../rig/routes.ts';
import { sessionRoutes } from '../session/routes.ts';
import { siteRoutes } from '../sites/routes.ts';
import { trailRoutes } from '../trail/routes.ts';
import { translationRoutes } from '../translations/routes.ts';
import type { RouteSpec } from './app.ts';

export const allRoutes = (ingest: () => RigIngest | undefined): RouteSpec[] => [
  ...sessionRoutes,
  ...siteRoutes,
  ...operatorRoutes,
  ...readRoutes,
  ...caseRoutes,
  ...formatRoutes,
  ...exchangeRoutes,
  ...facilityCodeRoutes,
  ...dryRunRoutes,
  ...translationRoutes,
  ...cardholderRoutes,
  ...cardRoutes,
  ...doorRoutes,
  ...eventRoutes,
  ...rigRoutes(ingest),
  ...trailRoutes,
  ...liveRoutes,
];
