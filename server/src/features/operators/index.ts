/** Operators and their roles. */

export { forgetUnanswered } from './approvals.ts';
export { operatorRoutes } from './routes.ts';
