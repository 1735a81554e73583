/** Doors from their sides: the controllers, who may pass, the groups that say so, and when their schedules hold. */
import { Tabs } from '../../platform/frame/Tabs.tsx';
import { useSite } from '../../platform/site/useSite.ts';

const SIDES = [
  ['', 'Controllers'],
  ['/passing', 'Who may pass'],
  ['/groups', 'Access groups'],
  ['/schedules', 'Schedules'],
] as const;

export const DoorTabs = () => <Tabs label="Doors" at={`/${useSite().id}/doors`} sides={SIDES} />;
