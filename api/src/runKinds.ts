/** What a run does with the cards that come to it. */
import { z } from 'zod';

export const RUN_KINDS = ['encode', 'bring along', 'verify', 'take back', 'hand back'] as const;
export const runKindSchema = z.enum(RUN_KINDS);
export type RunKind = z.infer<typeof runKindSchema>;
