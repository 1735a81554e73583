/** Access: who may pass which doors and when, reviewed before it is changed. */
export { accessRoutes } from './routes.ts';
export { saveChange } from './save.ts';
