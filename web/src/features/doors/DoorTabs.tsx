/** Doors from their sides: the controllers, who may pass, the groups that say so, and when their schedules hold. */
import { NavLink } from 'react-router';
import { useSite } from '../../platform/site/useSite.ts';

const TABS = [
  ['', 'Controllers'],
  ['/passing', 'Who may pass'],
  ['/groups', 'Access groups'],
  ['/schedules', 'Schedules'],
] as const;

export function DoorTabs() {
  const { id } = useSite();
  return (
    <nav aria-label="Doors" className="flex flex-wrap gap-1">
      {TABS.map(([path, name]) => (
        <NavLink
          key={name}
          to={`/${id}/doors${path}`}
          end={path === ''}
          className={({ isActive }) =>
            `px-2 py-0.5 border-b-2 ${isActive ? 'border-primary font-bold' : 'border-transparent text-ink-2 hover:text-base-content'}`
          }
        >
          {name}
        </NavLink>
      ))}
    </nav>
  );
}
