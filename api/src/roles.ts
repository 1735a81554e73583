/** Roles: what an operator may do at a site. */
import { z } from 'zod';

export const ROLES = ['viewer', 'technician', 'key custodian', 'administrator'] as const;

export const roleSchema = z.enum(ROLES);

/** Each role may do all that the ones before it may. */
export type Role = z.infer<typeof roleSchema>;

export const roleAtLeast = (role: Role, least: Role): boolean => ROLES.indexOf(role) >= ROLES.indexOf(least);
