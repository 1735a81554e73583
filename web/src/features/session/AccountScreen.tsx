import { useSessionQuery } from '../../platform/endpoints/session.ts';
import { singleKeysToggled, themeToggled } from '../../platform/frame/slice.ts';
import { useAppDispatch, useAppSelector } from '../../platform/state/hooks.ts';
import { PasswordForm } from './PasswordForm.tsx';

export function AccountScreen() {
  const { data } = useSessionQuery();
  const dispatch = useAppDispatch();
  const { theme, singleKeys } = useAppSelector((state) => state.frame);
  return (
    <div className="grid gap-4 p-6">
      <h1>{data?.operator.name}</h1>
      <section className="panel grid gap-3 p-4">
        <h2>Password</h2>
        <PasswordForm />
      </section>
      <section className="panel grid gap-3 p-4">
        <h2>On this machine</h2>
        <label className="flex items-center gap-2">
          <input
            type="checkbox"
            className="checkbox checkbox-sm"
            checked={theme === 'night-watch'}
            onChange={() => dispatch(themeToggled())}
          />
          Dark theme ("night watch")
        </label>
        <label className="flex items-center gap-2">
          <input
            type="checkbox"
            className="checkbox checkbox-sm"
            checked={singleKeys}
            onChange={() => dispatch(singleKeysToggled())}
          />
          Single-key shortcuts (g, p, /, ?); Ctrl+K works in any case
        </label>
      </section>
    </div>
  );
}
