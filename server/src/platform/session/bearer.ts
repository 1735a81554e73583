/**
 * Tokens of scripts, sent as RFC 6750 §2.1 has it: `Authorization: Bearer rawbits_ID_SECRET`. A token acts for whoever
 * made it, at one site, with some permissions: never with more than that person has themselves at the moment.
 */
import { createHash, randomBytes, timingSafeEqual } from 'node:crypto';
import { type Permission, permissionSchema, type Role } from '@rawbits/api';
import { Secret } from '@rawbits/core/secret';
import { and, eq, gt, isNull } from 'drizzle-orm';
import type { Request } from 'express';
import { z } from 'zod';
import { type Database, isPast, newId } from '../database/index.ts';
import { operatorSiteTable, operatorTable, tokenTable } from './tables.ts';

const FORM = /^rawbits_([a-z0-9]{1,40})_([A-Za-z0-9_-]{43})$/;
/** A use is noted once a minute. */
const TOUCH_MS = 60_000;

const hashOf = (secret: string): string => createHash('sha256').update(secret).digest('hex');

/** A new token's id, the text that its holder gets once, and the hash that is kept. */
export function newBearer(): { id: string; text: Secret; hash: string } {
  const id = newId();
  const secret = randomBytes(32).toString('base64url');
  return { id, text: new Secret(`rawbits_${id}_${secret}`), hash: hashOf(secret) };
}

/** What a request carries as a token, right or wrong; undefined where it carries none. */
export function bearerIn(request: Request): Secret | undefined {
  const [, text] = /^Bearer (.*)$/i.exec(request.headers.authorization ?? '') ?? [];
  return text === undefined ? undefined : new Secret(text.trim());
}

export interface Bearer {
  id: string;
  login: string;
  name: string;
  mustChangePassword: boolean;
  tokenHash: string;
  roles: Map<string, Role[]>;
  token: { siteId: string; permissions: readonly Permission[] };
}

/** Whom a token stands for; undefined where it is none, has ended, was revoked, or its maker's account is disabled. */
export async function bearerOf(db: Database, bearer: Secret): Promise<Bearer | undefined> {
  const [, id, secret] = FORM.exec(bearer.reveal()) ?? [];
  if (id === undefined || secret === undefined) return undefined;
  const [row] = await db
    .select({ token: tokenTable, operator: operatorTable })
    .from(tokenTable)
    .innerJoin(operatorTable, eq(operatorTable.id, tokenTable.operatorId))
    .where(
      and(
        eq(tokenTable.id, id),
        isNull(tokenTable.revokedAt),
        gt(tokenTable.endsAt, new Date()),
        isPast(tokenTable.madeAt),
        isNull(operatorTable.closedAt),
      ),
    );
  if (!row || !timingSafeEqual(Buffer.from(row.token.hash), Buffer.from(hashOf(secret)))) return undefined;
  const { token, operator } = row;
  if (!token.usedAt || Date.now() - token.usedAt.getTime() > TOUCH_MS)
    await db.update(tokenTable).set({ usedAt: new Date() }).where(eq(tokenTable.id, id));
  const held = await db
    .select({ role: operatorSiteTable.role })
    .from(operatorSiteTable)
    .where(and(eq(operatorSiteTable.operatorId, operator.id), eq(operatorSiteTable.siteId, token.siteId)));
  return {
    id: operator.id,
    login: operator.login,
    name: `${operator.name}, token ${token.name}`,
    mustChangePassword: false,
    tokenHash: '',
    roles: held.length === 0 ? new Map() : new Map([[token.siteId, held.map(({ role }) => role as Role)]]),
    token: { siteId: token.siteId, permissions: z.array(permissionSchema).catch([]).parse(token.permissions) },
  };
}
