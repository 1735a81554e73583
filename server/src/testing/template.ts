/** What the tests' databases are made from. Apart from the harness: that loads the whole server. */
import { join } from 'node:path';

export const migrationsFolder = join(import.meta.dirname, '../../migrations');

/** The database of the test run that has every migration carried out and nothing else. */
export const TEMPLATE = 'rawbits_template';
