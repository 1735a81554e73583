/** What must stay true of a plan, worked out beside the thread that answers. */
import type { ChipPlan } from '@rawbits/api';
import type { Workers } from '../../platform/workers/index.ts';

/** Of each assertion whether it holds, and whose keys break it. Throws where one is about nothing of the plan. */
export const heldBy = (workers: Workers, plan: ChipPlan) => workers.run('checkPlan', plan);
