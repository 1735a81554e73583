/** Keys and versions of them: made from the server's random source, typed, or begun for components. */
import { randomBytes } from 'node:crypto';
import type { KeyVersion, NewKey, newKeySchema } from '@rawbits/api';
import {
  assertParity,
  assertStrong,
  checkValueOf,
  isTripleDes,
  KEY_BYTES,
  type KeyKind,
  keyOf,
  weaknessesOf,
  withParity,
} from '@rawbits/core/key';
import type { Secret } from '@rawbits/core/secret';
import type { z } from 'zod';
import type { Queryable } from '../../platform/database/index.ts';
import { isDuplicate, newId } from '../../platform/database/index.ts';
import type { Asking } from '../../platform/http/app.ts';
import { conflict, invalid } from '../../platform/problem/problem.ts';
import type { Record } from '../../platform/trail/change.ts';
import type { Open } from '../../platform/vault/index.ts';
import type { KeyRow } from './describe.ts';
import { noteHolding } from './holdings.ts';
import { boundOf, calledIn, usualOf } from './rows.ts';
import { keyVersionTable } from './tables.ts';

type Parsed = z.output<typeof newKeySchema>;
export type Comes = Parsed['comes'];
export type { NewKey };

/** A new key of a kind, of which nothing speaks against. */
export function newKeyBytes(kind: KeyKind): Uint8Array {
  for (;;) {
    const random = new Uint8Array(randomBytes(KEY_BYTES[kind]));
    const bytes = isTripleDes(kind) ? withParity(random) : random;
    if (weaknessesOf(kind, bytes).length === 0) return bytes;
  }
}

/** The bytes of a key as typed; throws where they are not the ones whose check value is wanted. */
export function typedBytes(kind: KeyKind, hex: Secret, check: string | null, field: string): Uint8Array {
  const bytes = keyOf(kind, hex.reveal(), field);
  const found = checkValueOf(kind, bytes);
  if (check !== null && check !== found)
    throw invalid(
      field,
      `Its check value is ${found}, not ${check}.`,
      'A digit is mistyped, or the check value is of another kind.',
    );
  return bytes;
}

interface Begun {
  version: number;
  validFrom: string | null;
  validTo: string | null;
  comes: Comes;
}

const instantOf = (text: string | null): Date | null => (text === null ? null : new Date(text));

/** A row of a version; `bytes` is the key where it is there already. */
export function versionRow(
  open: Open,
  key: KeyRow,
  { version, validFrom, validTo }: Omit<Begun, 'comes'>,
  origin: KeyVersion['origin'],
  bytes: Uint8Array | null,
  who: { name: string },
): typeof keyVersionTable.$inferInsert {
  const kind = key.kind as KeyKind;
  const of = usualOf(kind);
  return {
    keyId: key.id,
    version,
    siteId: key.siteId,
    envelope: bytes && open.seal(bytes, boundOf(key, version)),
    checkValue: bytes && checkValueOf(kind, bytes, of),
    checkOf: of,
    origin,
    warning: bytes ? weaknessesOf(kind, bytes).join(' ').slice(0, 200) : '',
    validFrom: instantOf(validFrom),
    validTo: instantOf(validTo),
    madeBy: who.name,
    madeAt: new Date(),
  };
}

/** Adds a version to a key. Throws `version-there` where there is one of this number. */
export async function addVersion(
  tx: Queryable,
  record: Record,
  who: Asking,
  open: Open,
  key: KeyRow & { set: string },
  begun: Begun,
): Promise<typeof keyVersionTable.$inferInsert> {
  const row = rowFor(open, key, begun, who);
  try {
    await tx.insert(keyVersionTable).values(row);
  } catch (error) {
    if (!isDuplicate(error)) throw error;
    throw conflict(
      'version-there',
      `This key has a version ${begun.version} already.`,
      'Take the next number.',
      'version',
    );
  }
  const { comes, version } = begun;
  if (comes.how === 'typed')
    await noteHolding(tx, key, version, {
      kind: 'person',
      holderId: who.id,
      holder: who.name,
      what: 'whole',
      how: 'typed it in',
    });
  record.trail({
    action: 'key version added',
    subject: calledIn(key.set, key.name, version),
    after: { kind: key.kind, how: comes.how, ...(row.checkValue && { checkValue: row.checkValue }), parts: row.parts },
  });
  return row;
}

function rowFor(open: Open, key: KeyRow, begun: Begun, who: Asking) {
  const kind = key.kind as KeyKind;
  const { comes } = begun;
  if (comes.how === 'components')
    return {
      ...versionRow(open, key, begun, 'components', null, who),
      parts: comes.parts,
      wantedCheck: comes.check,
    };
  if (comes.how === 'made') return versionRow(open, key, begun, 'made', newKeyBytes(kind), who);
  const bytes = typedBytes(kind, comes.hex, comes.check, 'comes.hex');
  if (!comes.evenWeak) {
    assertStrong(kind, bytes, 'comes.hex');
    assertParity(kind, bytes, 'comes.hex');
  }
  return versionRow(open, key, begun, 'typed', bytes, who);
}

/** A key's row, before it has a version. */
export const newKeyRow = (siteId: string, { setId, name, kind, purpose, notes }: Parsed): KeyRow => ({
  id: newId(),
  siteId,
  setId,
  name,
  kind,
  purpose,
  notes,
  current: null,
  guard: 0,
  createdAt: new Date(),
  retiredAt: null,
});
