/** Shows the application to whoever is signed in, and the sign-in to everybody else. */
import { useEffect } from 'react';
import { Outlet } from 'react-router';
import { useAppSelector } from '../app/store.ts';
import { useSessionQuery } from './endpoints.ts';
import { FirstPassword } from './FirstPassword.tsx';
import { SignIn } from './SignIn.tsx';

export function SignedIn() {
  const theme = useAppSelector((state) => state.frame.theme);
  const { data, error, isLoading } = useSessionQuery();
  useEffect(() => {
    document.documentElement.dataset.theme = theme;
  }, [theme]);
  if (isLoading) return <p className="p-6">Loading …</p>;
  if (error || !data)
    return <SignIn failure={error && 'status' in error && error.status !== 401 ? error : undefined} />;
  if (data.operator.mustChangePassword) return <FirstPassword />;
  return <Outlet />;
}
