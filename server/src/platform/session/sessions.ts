/** Sessions: who a cookie belongs to. They are in the database, so that any server knows them. */

import { createHash, randomBytes } from 'node:crypto';
import { type Permission, permissionsOf, type Role } from '@rawbits/api';
import { parseCookie } from 'cookie';
import { and, eq, gt, inArray, isNull, ne, not } from 'drizzle-orm';
import type { Request, Response } from 'express';
import { type Database, endsWithin, isPast, type Queryable } from '../database/index.ts';
import type { Settings } from '../settings/settings.ts';
import { bearerIn, bearerOf } from './bearer.ts';
import { operatorSiteTable, operatorTable, sessionTable } from './tables.ts';

/** What sessions need of the server. */
export interface SessionApp {
  db: Database;
  settings: Settings;
  /** Told which sessions have ended, so that their streams do. */
  live: { endOf(tokenHashes: readonly string[]): void };
}

/** Somebody, with the roles that they hold at each of their sites. */
export interface Person {
  id: string;
  name: string;
  roles: Map<string, Role[]>;
}

export interface SignedIn extends Person {
  login: string;
  mustChangePassword: boolean;
  /** Of the session; empty where a script asks with a token. */
  tokenHash: string;
  /** What a token leaves of it, at its one site; undefined for a person at their sign-in. */
  token?: { siteId: string; permissions: readonly Permission[] };
}

/** What somebody may do at a site. */
export function permissionsAt(person: Person & Pick<SignedIn, 'token'>, siteId: string): Set<Permission> {
  const own = permissionsOf(person.roles.get(siteId) ?? []);
  const { token } = person;
  if (!token) return own;
  return new Set(token.siteId === siteId ? token.permissions.filter((permission) => own.has(permission)) : []);
}

export const may = (person: Person & Pick<SignedIn, 'token'>, siteId: string, permission: Permission): boolean =>
  permissionsAt(person, siteId).has(permission);

const COOKIE = 'rawbits_session';
const hashOf = (token: string): string => createHash('sha256').update(token).digest('hex');

const lifetimeMs = ({ sessionHours }: Settings): number => sessionHours * 3_600_000;
const idleMs = ({ idleMinutes }: Settings): number => idleMinutes * 60_000;
/** A use is noted once a minute, or more often where idleness ends a session sooner. */
const touchMs = (settings: Settings): number => Math.min(60_000, idleMs(settings) / 10);

/** The hash of the token that a request carries, whether it is good or not. */
export function tokenHashIn(request: Request): string | undefined {
  const token = parseCookie(request.headers.cookie ?? '')[COOKIE];
  return token ? hashOf(token) : undefined;
}

/** Sessions that stand at an instant: neither past their end nor idle for too long. */
function alive(settings: Settings, now: Date) {
  return and(
    endsWithin(sessionTable.expiresAt, lifetimeMs(settings), now),
    gt(sessionTable.usedAt, new Date(now.getTime() - idleMs(settings))),
    isPast(sessionTable.usedAt, now),
  );
}

const cookieOptions = (app: SessionApp, request: Request) => ({
  httpOnly: true,
  sameSite: 'strict' as const,
  secure: request.secure || (app.settings.publicUrl?.startsWith('https:') ?? false),
  path: '/',
});

/** Opens a session and gives its cookie; the one that the same browser had before ends. */
export async function openSession(
  app: SessionApp,
  operatorId: string,
  request: Request,
  response: Response,
): Promise<void> {
  const token = randomBytes(32).toString('base64url');
  const now = new Date();
  const maxAge = lifetimeMs(app.settings);
  const old = tokenHashIn(request);
  if (old) await endSessions(app, [old]);
  await app.db.insert(sessionTable).values({
    tokenHash: hashOf(token),
    operatorId,
    createdAt: now,
    usedAt: now,
    expiresAt: new Date(now.getTime() + maxAge),
  });
  response.cookie(COOKIE, token, { ...cookieOptions(app, request), maxAge });
}

export async function closeSession(app: SessionApp, request: Request, response: Response): Promise<void> {
  const old = tokenHashIn(request);
  if (old) await endSessions(app, [old]);
  response.clearCookie(COOKIE, cookieOptions(app, request));
}

/** Ends sessions, and their streams with them. */
async function endSessions(app: SessionApp, hashes: string[]): Promise<void> {
  if (hashes.length === 0) return;
  await app.db.delete(sessionTable).where(inArray(sessionTable.tokenHash, hashes));
  app.live.endOf(hashes);
}

/** Ends an operator's sessions, all but one where that is named. Their streams end with `app.live.checkNow()`. */
export async function closeSessionsOf(db: Queryable, operatorId: string, but?: string): Promise<void> {
  const own = eq(sessionTable.operatorId, operatorId);
  await db.delete(sessionTable).where(but === undefined ? own : and(own, ne(sessionTable.tokenHash, but)));
}

/** Who asks, with their roles as they are now; undefined when nobody is signed in. A stream `counts` as no use. */
export async function signedInBy(
  app: Pick<SessionApp, 'db' | 'settings'>,
  request: Request,
  { counts }: { counts: boolean },
): Promise<SignedIn | undefined> {
  const bearer = bearerIn(request);
  if (bearer !== undefined) return bearerOf(app.db, bearer);
  const tokenHash = tokenHashIn(request);
  if (!tokenHash) return undefined;
  const now = new Date();
  const [row] = await app.db
    .select({ operator: operatorTable, usedAt: sessionTable.usedAt })
    .from(sessionTable)
    .innerJoin(operatorTable, eq(operatorTable.id, sessionTable.operatorId))
    .where(and(eq(sessionTable.tokenHash, tokenHash), alive(app.settings, now), isNull(operatorTable.closedAt)));
  if (!row) return undefined;
  if (counts && now.getTime() - row.usedAt.getTime() > touchMs(app.settings))
    await app.db.update(sessionTable).set({ usedAt: now }).where(eq(sessionTable.tokenHash, tokenHash));
  const { id, login, name, mustChangePassword } = row.operator;
  return { id, login, name, mustChangePassword, tokenHash, roles: await rolesOf(app.db, id) };
}

export async function rolesOf(db: Queryable, operatorId: string): Promise<Map<string, Role[]>> {
  const rows = await db.select().from(operatorSiteTable).where(eq(operatorSiteTable.operatorId, operatorId));
  const roles = new Map<string, Role[]>();
  for (const { siteId, role } of rows) roles.set(siteId, [...(roles.get(siteId) ?? []), role as Role]);
  return roles;
}

/** Which of these sessions stand and may see a site: asked for all streams of a site at once. */
export async function stillListening(
  { db, settings }: { db: Database; settings: Settings },
  siteId: string,
  hashes: string[],
): Promise<Set<string>> {
  if (hashes.length === 0) return new Set();
  const rows = await db
    .select({ hash: sessionTable.tokenHash })
    .from(sessionTable)
    .innerJoin(operatorTable, eq(operatorTable.id, sessionTable.operatorId))
    .innerJoin(
      operatorSiteTable,
      and(eq(operatorSiteTable.operatorId, operatorTable.id), eq(operatorSiteTable.siteId, siteId)),
    )
    .where(and(inArray(sessionTable.tokenHash, hashes), alive(settings, new Date()), isNull(operatorTable.closedAt)));
  return new Set(rows.map(({ hash }) => hash));
}

/** Takes sessions away that have ended, by the housekeeping. */
export async function forgetEnded(db: Database, settings: Settings): Promise<void> {
  await db.delete(sessionTable).where(not(alive(settings, new Date())!));
}
