import { Navigate } from 'react-router';
import { useSessionQuery } from '../platform/endpoints/session.ts';

/** Goes to the first site of the operator that has a rig, else the first. */
export function FirstSite() {
  const { data } = useSessionQuery();
  const site = data?.sites.find((s) => s.hasRig) ?? data?.sites[0];
  if (!site)
    return (
      <p className="p-6">You work at no site yet. Ask an administrator to add you to one, then load this page again.</p>
    );
  return <Navigate to={`/${site.id}/read`} replace />;
}
