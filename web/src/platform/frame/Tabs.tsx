/** The sides of a screen, each under an address of its own below that of the screen. */
import { NavLink } from 'react-router';

interface Props {
  label: string;
  /** The address of the screen. */
  at: string;
  /** What stands behind it, and what the side is called; the first side is the screen itself. */
  sides: readonly (readonly [path: string, name: string])[];
}

export function Tabs({ label, at, sides }: Props) {
  return (
    <nav aria-label={label} className="flex flex-wrap gap-1">
      {sides.map(([path, name]) => (
        <NavLink
          key={name}
          to={`${at}${path}`}
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
