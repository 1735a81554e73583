import type { Permission } from '@rawbits/api';
import { useParams } from 'react-router';
import { useSessionQuery } from '../endpoints/session.ts';

/** The site of the address, with what the operator may do at it. */
export function useSite() {
  const { site: id = '' } = useParams();
  const { data } = useSessionQuery();
  const site = data?.sites.find((s) => s.id === id);
  return {
    id,
    site,
    /** Where the site's days begin and end. */
    zone: site?.timeZone ?? 'UTC',
    may: (permission: Permission) => site?.permissions.includes(permission) ?? false,
  };
}
