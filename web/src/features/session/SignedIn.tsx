/** Shows the application to whoever is signed in, and the sign-in to everybody else. */
import { useEffect } from 'react';
import { Outlet } from 'react-router';
import { useSessionQuery } from '../../platform/endpoints/session.ts';
import { useAppSelector } from '../../platform/state/hooks.ts';
import { FirstPassword } from './FirstPassword.tsx';
import { SignIn } from './SignIn.tsx';
import { SignInAgain } from './SignInAgain.tsx';

export function SignedIn() {
  const theme = useAppSelector((state) => state.frame.theme);
  const ended = useAppSelector((state) => state.session.ended);
  const { data, error, isLoading } = useSessionQuery();
  useEffect(() => {
    document.documentElement.dataset.theme = theme;
  }, [theme]);
  if (isLoading) return <p className="p-6">Loading …</p>;
  if (!data) return <SignIn failure={error && 'status' in error && error.status !== 401 ? error : undefined} />;
  return (
    <>
      {data.operator.mustChangePassword ? <FirstPassword /> : <Outlet />}
      {ended && <SignInAgain before={data.operator} />}
    </>
  );
}
