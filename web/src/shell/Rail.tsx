import { CircleHelp, Keyboard, LogOut, Moon, Sun, UserRound } from 'lucide-react';
import { NavLink, useNavigate } from 'react-router';
import { api } from '../platform/api/api.ts';
import { useSessionQuery, useSignOutMutation } from '../platform/endpoints/session.ts';
import { helpShown, shortcutsShown, themeToggled } from '../platform/frame/slice.ts';
import { useSite } from '../platform/site/useSite.ts';
import { useAppDispatch, useAppSelector } from '../platform/state/hooks.ts';
import { zoneHint } from '../platform/words/siteDays.ts';
import { OTHER_SCREENS, SCREENS } from './screens.ts';

const small = 'grid size-8 cursor-pointer place-items-center text-ink-2 hover:text-primary';

export function Rail() {
  const { id, site, zone, may } = useSite();
  const { data } = useSessionQuery();
  const navigate = useNavigate();
  const dispatch = useAppDispatch();
  const theme = useAppSelector((state) => state.frame.theme);
  const [signOut] = useSignOutMutation();
  const leave = async () => {
    await signOut();
    dispatch(api.util.resetApiState());
    void navigate('/');
  };
  return (
    <nav
      aria-label="Screens"
      className="col-start-1 row-span-3 flex min-h-0 flex-col overflow-y-auto border-r border-base-300 bg-base-200"
    >
      <div className="p-2">
        <select
          aria-label="Site"
          value={id}
          onChange={(event) => void navigate(`/${event.target.value}/read`)}
          className="w-full cursor-pointer appearance-none whitespace-normal border border-base-content bg-base-100 px-1 py-1.5 text-center text-[0.85rem] leading-tight font-bold uppercase"
          title={site?.name}
        >
          {data?.sites.map((s) => (
            <option key={s.id} value={s.id}>
              {s.shortName}
            </option>
          ))}
        </select>
        {zoneHint(zone) && (
          <p
            className="pt-1 text-center text-[0.75rem] leading-tight text-ink-2"
            title={`All times and days are those of the site, in ${zone}`}
          >
            times of {zone.split('/').at(-1)!.replaceAll('_', ' ')}
          </p>
        )}
      </div>
      {SCREENS.map(({ path, name, icon: Icon, about }) => (
        <NavLink
          key={path}
          to={`/${id}/${path}`}
          title={about}
          className={({ isActive }) =>
            `flex flex-col items-center gap-0.5 border-l-4 py-2 pr-1 ${isActive ? 'border-primary bg-base-100 font-bold' : 'border-transparent text-ink-2 hover:text-base-content'}`
          }
        >
          <Icon size={22} aria-hidden="true" />
          <span className="max-sm:text-xs">{name}</span>
        </NavLink>
      ))}
      <div className="mt-auto flex flex-wrap justify-center gap-x-1 border-t border-base-300 py-1">
        {OTHER_SCREENS.filter((screen) => may(screen.needs)).map(({ path, name }) =>
          path === 'account' ? (
            <NavLink
              key={path}
              to={`/${id}/${path}`}
              className={small}
              aria-label={name}
              title={`${name}: ${data?.operator.name}`}
            >
              <UserRound size={18} aria-hidden="true" />
            </NavLink>
          ) : (
            <NavLink
              key={path}
              to={`/${id}/${path}`}
              className="w-full py-1 text-center text-[0.85rem] text-ink-2 hover:text-primary"
            >
              {name}
            </NavLink>
          ),
        )}
        <button
          type="button"
          className={small}
          onClick={() => dispatch(themeToggled())}
          aria-label={theme === 'chart-room' ? 'Dark theme' : 'Light theme'}
          title={theme === 'chart-room' ? 'Dark theme' : 'Light theme'}
        >
          {theme === 'chart-room' ? <Moon size={18} aria-hidden="true" /> : <Sun size={18} aria-hidden="true" />}
        </button>
        <button
          type="button"
          className={small}
          onClick={() => dispatch(helpShown(''))}
          aria-label="Help for this screen"
          title="Help for this screen (h)"
        >
          <CircleHelp size={18} aria-hidden="true" />
        </button>
        <button
          type="button"
          className={small}
          onClick={() => dispatch(shortcutsShown(true))}
          aria-label="Shortcuts"
          title="Shortcuts (?)"
        >
          <Keyboard size={18} aria-hidden="true" />
        </button>
        <button type="button" className={small} onClick={() => void leave()} aria-label="Sign out" title="Sign out">
          <LogOut size={18} aria-hidden="true" />
        </button>
      </div>
    </nav>
  );
}
