/** Stock from its sides: card by card, box by box, from a sheet, and by who holds them. */
import { NavLink } from 'react-router';
import { useSite } from '../../platform/site/useSite.ts';

export function StockTabs() {
  const { id } = useSite();
  const link = ({ isActive }: { isActive: boolean }) =>
    `px-2 py-0.5 border-b-2 ${isActive ? 'border-primary font-bold' : 'border-transparent text-ink-2 hover:text-base-content'}`;
  return (
    <nav aria-label="Stock" className="flex gap-1">
      <NavLink to={`/${id}/stock`} end className={link}>
        Cards
      </NavLink>
      <NavLink to={`/${id}/stock/boxes`} className={link}>
        Boxes
      </NavLink>
      <NavLink to={`/${id}/stock/sheet`} className={link}>
        From a sheet
      </NavLink>
      <NavLink to={`/${id}/stock/people`} className={link}>
        Cardholders
      </NavLink>
    </nav>
  );
}
