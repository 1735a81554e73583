/** Stock from its sides: card by card, box by box, from a sheet, and by who holds them. */
import { Tabs } from '../../platform/frame/Tabs.tsx';
import { useSite } from '../../platform/site/useSite.ts';

const SIDES = [
  ['', 'Cards'],
  ['/boxes', 'Boxes'],
  ['/sheet', 'From a sheet'],
  ['/people', 'Cardholders'],
] as const;

export const StockTabs = () => <Tabs label="Stock" at={`/${useSite().id}/stock`} sides={SIDES} />;
