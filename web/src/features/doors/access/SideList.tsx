/** What there is to choose from, at the left of a screen: each with a line about it. */
import type { ReactNode } from 'react';
import { Link } from 'react-router';

export interface Entry {
  to: string;
  name: string;
  about: string;
  /** It needs attention. */
  isWrong?: boolean;
}

interface Props {
  label: string;
  /** Before which the entry's own part of the address stands. */
  at: string;
  entries: readonly Entry[];
  chosen: string | undefined;
  /** What is said where there is nothing yet. */
  children?: ReactNode;
}

export function SideList({ label, at, entries, chosen, children }: Props) {
  return (
    <nav className="panel min-h-0 overflow-auto" aria-label={label}>
      <ul>
        {entries.map(({ to, name, about, isWrong = false }) => (
          <li key={to} className="border-b border-faint">
            <Link
              to={`${at}/${to}`}
              aria-current={to === chosen ? 'page' : undefined}
              className={`block px-3 py-1.5 ${to === chosen ? 'bg-chosen font-bold' : 'hover:bg-base-200'}`}
            >
              {name}
              <span className={`block ${isWrong ? 'font-bold text-signal' : 'font-normal text-ink-2'}`}>{about}</span>
            </Link>
          </li>
        ))}
      </ul>
      {children}
    </nav>
  );
}
