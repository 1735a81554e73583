/** Stock from two sides: card by card, and box by box. */
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
    </nav>
  );
}
