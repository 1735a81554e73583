/** The rig as a site sees it, and the logs of device hosts. */
export { rigBeside, siteFor } from './adopt.ts';
export { LogIngest } from './ingest.ts';
export { identifyOn } from './pad.ts';
export { rigRoutes } from './routes.ts';
