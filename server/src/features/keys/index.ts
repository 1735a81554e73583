/** Keys of a site, kept in its vault. */
export { forgetUnanswered as forgetUnansweredKeyRequests } from './requests.ts';
export { keyRoutes } from './routes.ts';
