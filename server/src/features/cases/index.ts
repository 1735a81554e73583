/** Cases: identifications under way. */
export { caseRoutes } from './routes.ts';
export { putSpecimens, specimensOf } from './specimens.ts';
export { caseSpecimenTable, caseTable } from './tables.ts';
