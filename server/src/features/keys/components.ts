/**
 * A key put together from components, each given by another custodian at their own sign-in: made here for them, to be
 * printed, or typed from a sheet. Nobody is shown another's; with the last one the key is there and the components are
 * forgotten.
 */
import { type ComponentSheet, keyApi } from '@rawbits/api';
import { assertStrong, checkValueOf, combined, type KeyKind } from '@rawbits/core/key';
import { and, asc, eq } from 'drizzle-orm';
import { isDuplicate, type Queryable } from '../../platform/database/index.ts';
import { type Asking, handle } from '../../platform/http/app.ts';
import { conflict, forbidden, notFound } from '../../platform/problem/problem.ts';
import { change, type Record } from '../../platform/trail/change.ts';
import type { Bound, Open } from '../../platform/vault/index.ts';
import { siteTable } from '../sites/index.ts';
import { newKeyBytes, typedBytes, versionRow } from './adding.ts';
import { describeKey, type KeyRow, stateOf, type VersionRow } from './describe.ts';
import { partOut } from './door.ts';
import { noteHolding } from './holdings.ts';
import { isSamePerson } from './people.ts';
import { calledIn, holdKey, usualOf, versionIn, versionOf } from './rows.ts';
import { componentTable, keyHoldingTable, keyTable, keyVersionTable } from './tables.ts';
import { changeKey } from './use.ts';

type Component = typeof componentTable.$inferSelect;
type Held = KeyRow & { set: string };

const boundOf = ({ keyId, version, part, custodianId }: Omit<Component, 'envelope'>): Bound => [
  'component',
  keyId,
  String(version),
  String(part),
  custodianId,
];

/** One person is one custodian, whatever account they come with. */
function checkAnother(given: Component[], who: Asking): void {
  const own = given.find(({ custodianId, custodian }) => isSamePerson({ id: custodianId, name: custodian }, who));
  if (!own) return;
  if (own.custodianId === who.id)
    throw conflict('same-custodian', 'You gave a component of this key already.', 'Another custodian gives the next.');
  throw conflict(
    'same-custodian',
    `Somebody called ${who.name} gave a component already.`,
    'Two custodians are two people. If these are, give them names that tell them apart.',
  );
}

async function waiting(tx: Queryable, key: Held, version: number): Promise<{ row: VersionRow; given: Component[] }> {
  const row = await versionOf(tx, key.id, version);
  if (stateOf(row) !== 'waiting')
    throw conflict('not-waiting', 'This version does not wait for components any more.', 'Look at it as it is now.');
  const given = await tx
    .select()
    .from(componentTable)
    .where(and(eq(componentTable.keyId, key.id), eq(componentTable.version, version)))
    .orderBy(asc(componentTable.part));
  return { row, given };
}

async function sheetOf(tx: Queryable, key: Held, row: VersionRow, own: Component, bytes: Uint8Array) {
  const [site] = await tx.select({ name: siteTable.name }).from(siteTable).where(eq(siteTable.id, key.siteId));
  const sheet: ComponentSheet = {
    site: site!.name,
    set: key.set,
    key: key.name,
    kind: key.kind as KeyKind,
    version: row.version,
    part: own.part,
    of: row.parts,
    custodian: own.custodian,
    hex: Buffer.from(bytes).toString('hex').toUpperCase(),
    checkValue: own.checkValue,
    checkOf: usualOf(key.kind),
  };
  return sheet;
}

const give = handle(keyApi.give, async ({ app, operator, site, params, body }) => {
  const open = await app.vault.open(site);
  return change(app, operator, site, async (tx, record) => {
    const key = await holdKey(tx, site, params.id!);
    const { row, given } = await waiting(tx, key, versionIn(params.version));
    checkAnother(given, operator);
    const kind = key.kind as KeyKind;
    const bytes = body.how === 'made' ? newKeyBytes(kind) : typedBytes(kind, body.hex, body.check, 'hex');
    const taken = new Set(given.map(({ part }) => part));
    const part = [1, 2, 3, 4, 5].find((n) => !taken.has(n))!;
    const about = { keyId: key.id, version: row.version, part, siteId: site, custodianId: operator.id };
    const own = { ...about, custodian: operator.name, checkValue: checkValueOf(kind, bytes), givenAt: new Date() };
    const component: Component = { ...own, envelope: open.seal(bytes, boundOf(own)) };
    try {
      await tx.insert(componentTable).values(component);
    } catch (error) {
      if (!isDuplicate(error)) throw error;
      throw conflict('same-custodian', 'You gave a component of this key already.');
    }
    const how = `component ${part} of ${row.parts}`;
    await noteHolding(tx, key, row.version, {
      kind: 'person',
      holderId: operator.id,
      holder: operator.name,
      what: 'part',
      how,
    });
    record.trail({
      action: 'component given',
      subject: calledIn(key.set, key.name, row.version),
      after: { component: how, how: body.how, checkValue: component.checkValue },
    });
    record.announce('keys');
    const all = [...given, component];
    if (all.length === row.parts)
      await changeKey(app, tx, site, key.id, () => putTogether(tx, record, open, key, row, all));
    const sheet = body.how === 'made' ? await sheetOf(tx, key, row, component, bytes) : null;
    return { key: await describeKey(tx, operator, site, key.id), sheet };
  });
});

async function putTogether(
  tx: Queryable,
  record: Record,
  open: Open,
  key: Held,
  row: VersionRow,
  all: Component[],
): Promise<void> {
  const kind = key.kind as KeyKind;
  const bytes = combined(
    all.map(({ envelope, ...about }) => partOut(open, 'components, put together', envelope!, boundOf(about))),
  );
  const found = checkValueOf(kind, bytes);
  if (row.wantedCheck !== null && row.wantedCheck !== found)
    throw conflict(
      'check-value',
      `Together the components make another key than the one with the check value ${row.wantedCheck}.`,
      'One of them is not the right one. This last one was not kept; the version can be given up and begun anew.',
    );
  assertStrong(kind, bytes);
  const { envelope, checkValue, checkOf } = versionRow(
    open,
    key,
    { version: row.version, validFrom: null, validTo: null },
    'components',
    bytes,
    { name: row.madeBy },
  );
  bytes.fill(0);
  await tx
    .update(keyVersionTable)
    .set({ envelope, checkValue, checkOf, madeAt: new Date() })
    .where(and(eq(keyVersionTable.keyId, key.id), eq(keyVersionTable.version, row.version)));
  await tx
    .update(componentTable)
    .set({ envelope: null })
    .where(and(eq(componentTable.keyId, key.id), eq(componentTable.version, row.version)));
  if (key.current === null) await tx.update(keyTable).set({ current: row.version }).where(eq(keyTable.id, key.id));
  record.trail({
    action: 'key put together',
    subject: calledIn(key.set, key.name, row.version),
    after: { checkValue, custodians: all.map(({ custodian }) => custodian) },
  });
}

const sheet = handle(keyApi.sheet, async ({ app, operator, site, params }) => {
  const open = await app.vault.open(site);
  return change(app, operator, site, async (tx, record) => {
    const key = await holdKey(tx, site, params.id!);
    const { row, given } = await waiting(tx, key, versionIn(params.version));
    const own = given.find(({ custodianId }) => custodianId === operator.id);
    if (!own) throw notFound('component of yours');
    const { envelope, ...about } = own;
    record.trail({
      action: 'component printed again',
      subject: calledIn(key.set, key.name, row.version),
      after: { component: `component ${own.part} of ${row.parts}` },
    });
    return sheetOf(tx, key, row, own, partOut(open, 'component, to print', envelope!, boundOf(about)));
  });
});

const giveUp = handle(keyApi.giveUp, ({ app, operator, site, params }) =>
  change(app, operator, site, async (tx, record) => {
    const key = await holdKey(tx, site, params.id!);
    const { row, given } = await waiting(tx, key, versionIn(params.version));
    if (row.madeBy !== operator.name && !given.some(({ custodianId }) => custodianId === operator.id))
      throw forbidden(`${row.madeBy} began it.`, 'They, or one of those who gave a component, give it up.');
    const ofVersion = [
      [keyVersionTable, and(eq(keyVersionTable.keyId, key.id), eq(keyVersionTable.version, row.version))],
      [componentTable, and(eq(componentTable.keyId, key.id), eq(componentTable.version, row.version))],
    ] as const;
    await changeKey(app, tx, site, key.id, async () => {
      for (const [table, where] of ofVersion) await tx.delete(table).where(where);
    });
    await tx
      .delete(keyHoldingTable)
      .where(and(eq(keyHoldingTable.keyId, key.id), eq(keyHoldingTable.version, row.version)));
    record.trail({ action: 'key version given up', subject: calledIn(key.set, key.name, row.version) });
    record.announce('keys');
    return describeKey(tx, operator, site, key.id);
  }),
);

export const componentRoutes = [give, sheet, giveUp];
