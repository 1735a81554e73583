/** Sessions: who a cookie belongs to. They are in the database, so that any server knows them. */
import { createHash, randomBytes } from 'node:crypto';
import type { Role } from '@rawbits/core/api';
import { parseCookie } from 'cookie';
import { and, eq, gt, isNull, ne } from 'drizzle-orm';
import type { Request, Response } from 'express';
import { type Database, type Queryable, tables } from '../database/index.ts';
import type { SignedIn } from '../http/app.ts';

const COOKIE = 'rawbits_session';
const LIFETIME_MS = 12 * 3_600_000;
const TOUCH_MS = 60_000;

const hashOf = (token: string): string => createHash('sha256').update(token).digest('hex');

export async function openSession(
  db: Queryable,
  operatorId: string,
  response: Response,
  secure: boolean,
): Promise<void> {
  const token = randomBytes(32).toString('base64url');
  const now = new Date();
  await db.insert(tables.sessions).values({
    tokenHash: hashOf(token),
    operatorId,
    createdAt: now,
    usedAt: now,
    expiresAt: new Date(now.getTime() + LIFETIME_MS),
  });
  response.cookie(COOKIE, token, { httpOnly: true, sameSite: 'strict', secure, path: '/', maxAge: LIFETIME_MS });
}

export async function closeSession(db: Queryable, tokenHash: string, response: Response): Promise<void> {
  await db.delete(tables.sessions).where(eq(tables.sessions.tokenHash, tokenHash));
  response.clearCookie(COOKIE, { httpOnly: true, sameSite: 'strict', path: '/' });
}

/** Ends an operator's sessions, all but one where that is named. */
export async function closeSessionsOf(db: Queryable, operatorId: string, but?: string): Promise<void> {
  const own = eq(tables.sessions.operatorId, operatorId);
  await db.delete(tables.sessions).where(but === undefined ? own : and(own, ne(tables.sessions.tokenHash, but)));
}

/** Who asks, with their roles as they are now; undefined when nobody is signed in. */
export async function signedInBy(db: Database, request: Request): Promise<SignedIn | undefined> {
  const token = parseCookie(request.headers.cookie ?? '')[COOKIE];
  if (!token) return undefined;
  const tokenHash = hashOf(token);
  const now = new Date();
  const [row] = await db
    .select({ operator: tables.operators, usedAt: tables.sessions.usedAt })
    .from(tables.sessions)
    .innerJoin(tables.operators, eq(tables.operators.id, tables.sessions.operatorId))
    .where(
      and(
        eq(tables.sessions.tokenHash, tokenHash),
        gt(tables.sessions.expiresAt, now),
        isNull(tables.operators.closedAt),
      ),
    );
  if (!row) return undefined;
  if (now.getTime() - row.usedAt.getTime() > TOUCH_MS)
    await db
      .update(tables.sessions)
      .set({ usedAt: now, expiresAt: new Date(now.getTime() + LIFETIME_MS) })
      .where(eq(tables.sessions.tokenHash, tokenHash));
  const { id, login, name, mustChangePassword } = row.operator;
  return { id, login, name, mustChangePassword, tokenHash, roles: await rolesOf(db, id) };
}

export async function rolesOf(db: Queryable, operatorId: string): Promise<Map<string, Role>> {
  const rows = await db.select().from(tables.operatorSites).where(eq(tables.operatorSites.operatorId, operatorId));
  return new Map(rows.map((row) => [row.siteId, row.role as Role]));
}
