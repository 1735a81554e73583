/** Every route of the API, in the order of the work. */

import { accessRoutes } from './features/access/index.ts';
import { badgeRoutes } from './features/badges/index.ts';
import { boxRoutes, numberRoutes } from './features/boxes/index.ts';
import { caseRoutes } from './features/cases/index.ts';
import { doorChangeRoutes } from './features/doorChanges/index.ts';
import { doorRoutes, eventRoutes, rightsTouched } from './features/doors/index.ts';
import { dryRunRoutes } from './features/dryRuns/index.ts';
import { facilityCodeRoutes } from './features/facilityCodes/index.ts';
import { exchangeRoutes, formatRoutes } from './features/formats/index.ts';
import { hostRoutes } from './features/hosts/index.ts';
import { keyRoutes } from './features/keys/index.ts';
import { keyUseRoutes } from './features/keyUses/index.ts';
import { liveRoutes } from './features/live/index.ts';
import { operatorRoutes } from './features/operators/index.ts';
import { cardholderRoutes } from './features/people/index.ts';
import { planRoutes } from './features/plans/index.ts';
import { readerPlanRoutes } from './features/readerPlans/index.ts';
import { armingRoutes, readRoutes } from './features/reads/index.ts';
import { type LogIngest, rigRoutes } from './features/rig/index.ts';
import { runRoutes } from './features/runs/index.ts';
import { sessionRoutes } from './features/session/index.ts';
import { siteRoutes } from './features/sites/index.ts';
import { cardRoutes, filterRoutes, sheetRoutes, wholeCardRoutes } from './features/stock/index.ts';
import { tokenRoutes } from './features/tokens/index.ts';
import { trailRoutes } from './features/trail/index.ts';
import { transferRoutes } from './features/transfer/index.ts';
import { translationRoutes } from './features/translations/index.ts';
import { workRoutes } from './features/work/index.ts';
import type { RouteSpec } from './platform/http/app.ts';

export const allRoutes = (ingest: () => LogIngest): RouteSpec[] => [
  ...sessionRoutes,
  ...siteRoutes(rightsTouched),
  ...operatorRoutes,
  ...tokenRoutes,
  ...readRoutes,
  ...armingRoutes,
  ...caseRoutes,
  ...formatRoutes,
  ...exchangeRoutes,
  ...facilityCodeRoutes,
  ...dryRunRoutes,
  ...translationRoutes,
  ...cardholderRoutes,
  ...badgeRoutes,
  ...cardRoutes,
  ...filterRoutes,
  ...wholeCardRoutes,
  ...boxRoutes,
  ...numberRoutes,
  ...sheetRoutes,
  ...keyRoutes,
  ...keyUseRoutes,
  ...planRoutes,
  ...runRoutes,
  ...readerPlanRoutes,
  ...doorRoutes,
  ...doorChangeRoutes,
  ...accessRoutes,
  ...eventRoutes,
  ...workRoutes,
  ...hostRoutes,
  ...rigRoutes(ingest),
  ...trailRoutes,
  ...liveRoutes,
  ...transferRoutes,
];
