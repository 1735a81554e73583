/** What the rig is made of, as it remembers it: the set-up, and the site that it belongs to. */
import { rigSetupSchema } from '@rawbits/api';
import { z } from 'zod';

export const rigMemorySchema = rigSetupSchema.extend({
  /** The site whose devices these are; null while they are nobody's, and in what was kept from before they were. */
  site: z.string().nullable().default(null),
});
export type RigMemory = z.output<typeof rigMemorySchema>;
export const EMPTY_SETUP: RigMemory = { site: null, cards: [], readers: [], controllers: [] };
