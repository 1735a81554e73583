/** A load's progress from the live feed, put where the controllers are kept. */
import type { Load } from '@rawbits/api';
import { doorApi } from '../endpoints/doors.ts';

export const loadProgressed = (site: string, data: unknown) =>
  doorApi.util.updateQueryData('controllers', site, (controllers) => {
    const { controllerId, ...load } = data as Load & { controllerId: string };
    const controller = controllers.find((c) => c.id === controllerId);
    if (controller) controller.load = load;
  });
