/** A whole site out of an installation, and into another. */
export { CLEARING, carryClearing } from './clear.ts';
export { giveUpQuietImports } from './import.ts';
export { transferRoutes } from './routes.ts';
