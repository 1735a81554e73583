/** Permissions: what may be done at a site, and the roles that are sets of them. */
import { z } from 'zod';

/** Each with what it allows, in words for people. */
export const PERMISSIONS = {
  'see the site': 'look at everything of the site but its secrets',
  'take reads': 'paste reads and present credentials of the rig',
  'identify cards': 'open and change cases',
  'define formats': 'add to the library, and change what is in it',
  'use formats': 'take up and drop formats, facility codes and translations, with their dry runs',
  'keep cards': 'enter, issue and change cards and cardholders',
  'see photographs': 'see and keep photographs of cardholders, and all that is kept of one',
  'set up doors': 'add controllers and readers, and say what they accept',
  'load doors': 'load controllers',
  'encode cards': 'make chip plans, and encode cards by them with keys that nobody sees',
  'hold keys': 'take part in keeping keys',
  'agree on custodians': 'be the second person where somebody becomes a key custodian, or is one',
  'manage operators': 'add, change and close operators of the site',
  'manage sites': 'add sites',
  'keep the trail': 'see the record of the house, and settle what is found wrong in a record',
  'manage tokens': 'make and revoke tokens for scripts',
} as const satisfies Record<string, string>;

export type Permission = keyof typeof PERMISSIONS;
export const ALL_PERMISSIONS = Object.keys(PERMISSIONS) as [Permission, ...Permission[]];
export const permissionSchema = z.enum(ALL_PERMISSIONS);

const LOOKING: Permission[] = ['see the site'];
const WORKING: Permission[] = [
  ...LOOKING,
  'take reads',
  'identify cards',
  'define formats',
  'use formats',
  'keep cards',
  'see photographs',
  'set up doors',
  'load doors',
  'encode cards',
];

/**
 * A key custodian stands beside the others, not above or below them: whoever administers a site holds no keys by that,
 * and whoever holds keys administers nothing.
 */
export const ROLE_PERMISSIONS = {
  viewer: LOOKING,
  technician: WORKING,
  'key custodian': [...LOOKING, 'hold keys', 'agree on custodians'],
  administrator: [
    ...WORKING,
    'agree on custodians',
    'manage operators',
    'manage sites',
    'keep the trail',
    'manage tokens',
  ],
} as const satisfies Record<string, readonly Permission[]>;

export type Role = keyof typeof ROLE_PERMISSIONS;
export const ROLES = Object.keys(ROLE_PERMISSIONS) as [Role, ...Role[]];
export const roleSchema = z.enum(ROLES);
/** The roles that somebody holds at a site; none means that the site is not theirs. */
export const rolesSchema = z.array(roleSchema).max(ROLES.length);

/** All that these roles allow together. */
export const permissionsOf = (roles: readonly Role[]): Set<Permission> =>
  new Set(roles.flatMap((role): readonly Permission[] => ROLE_PERMISSIONS[role]));
