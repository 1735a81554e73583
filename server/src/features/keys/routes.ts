/** Keys of a site: sets, keys and versions. */
import { keyApi } from '@rawbits/api';
import { and, eq, isNull } from 'drizzle-orm';
import { isDuplicate, newId } from '../../platform/database/index.ts';
import { handle } from '../../platform/http/app.ts';
import { conflict, notFound } from '../../platform/problem/problem.ts';
import { change } from '../../platform/trail/change.ts';
import { addVersion, newKeyRow } from './adding.ts';
import { backupRoutes } from './backup.ts';
import { carrierRoutes } from './carriers.ts';
import { componentRoutes } from './components.ts';
import { describeKey, describeSets } from './describe.ts';
import { holdingRoutes } from './holdings.ts';
import { identifierRoutes } from './identifiers.ts';
import { sealedRoutes } from './openSealed.ts';
import { requestRoutes } from './requests.ts';
import { calledIn, readyVersionOf, versionIn } from './rows.ts';
import { storeRoutes } from './store.ts';
import { keySetTable, keyTable } from './tables.ts';
import { changeKey, markKey, newUse, writeUse } from './use.ts';

const list = handle(keyApi.list, ({ app, operator, site }) => describeSets(app.db, operator, site));

const taken = (what: string, name: string) =>
  conflict('name-taken', `There is a ${what} "${name}" already.`, 'Choose another name.', 'name');

const addSet = handle(keyApi.addSet, async ({ app, operator, site, body }) => {
  const row = { id: newId(), siteId: site, ...body, createdAt: new Date() };
  try {
    await change(app, operator, site, async (tx, record) => {
      await tx.insert(keySetTable).values(row);
      record.trail({ action: 'key set added', subject: `key set ${row.name}` });
      record.announce('keys');
    });
  } catch (error) {
    throw isDuplicate(error) ? taken('key set', row.name) : error;
  }
  return { id: row.id, name: row.name, notes: row.notes, keys: [] };
});

const add = handle(keyApi.add, async ({ app, operator, site, body }) => {
  const open = await app.vault.open(site);
  const row = newKeyRow(site, body);
  try {
    return await change(app, operator, site, async (tx, record) => {
      const [set] = await tx
        .select()
        .from(keySetTable)
        .where(and(eq(keySetTable.id, body.setId), eq(keySetTable.siteId, site)));
      if (!set) throw notFound('key set');
      await tx.insert(keyTable).values(row);
      const added = await addVersion(tx, record, operator, open, { ...row, set: set.name }, body);
      if (added.envelope) await tx.update(keyTable).set({ current: body.version }).where(eq(keyTable.id, row.id));
      await writeUse(open, tx, row, newUse(row.kind, body.allows));
      await markKey(app, tx, site, row.id);
      record.announce('keys');
      return describeKey(tx, operator, site, row.id);
    });
  } catch (error) {
    throw isDuplicate(error) ? taken('key in this set called', row.name) : error;
  }
});

const addOne = handle(keyApi.addVersion, async ({ app, operator, site, params, body }) => {
  const open = await app.vault.open(site);
  return change(app, operator, site, async (tx, record) => {
    await changeKey(app, tx, site, params.id!, async (key) => {
      if (key.retiredAt) throw conflict('retired', 'This key is retired.', 'Add another.');
      await addVersion(tx, record, operator, open, key, body);
    });
    record.announce('keys');
    return describeKey(tx, operator, site, params.id!);
  });
});

const use = handle(keyApi.use, ({ app, operator, site, params }) =>
  change(app, operator, site, async (tx, record) => {
    await changeKey(app, tx, site, params.id!, async (key) => {
      const { version, validTo } = await readyVersionOf(tx, key.id, versionIn(params.version));
      if (validTo && validTo <= new Date())
        throw conflict('past-its-end', 'This version is past its last day.', 'Make a new version.');
      await tx.update(keyTable).set({ current: version }).where(eq(keyTable.id, key.id));
      if (key.current !== version)
        record.trail({
          action: 'key version put in use',
          subject: calledIn(key.set, key.name),
          before: key.current,
          after: version,
        });
    });
    record.announce('keys');
    return describeKey(tx, operator, site, params.id!);
  }),
);

const retire = handle(keyApi.retire, ({ app, operator, site, params }) =>
  change(app, operator, site, async (tx, record) => {
    await changeKey(app, tx, site, params.id!, async (key) => {
      await tx
        .update(keyTable)
        .set({ retiredAt: new Date() })
        .where(and(eq(keyTable.id, key.id), isNull(keyTable.retiredAt)));
      if (!key.retiredAt) record.trail({ action: 'key retired', subject: calledIn(key.set, key.name) });
    });
    record.announce('keys');
    return describeKey(tx, operator, site, params.id!);
  }),
);

export const keyRoutes = [
  ...storeRoutes,
  list,
  addSet,
  add,
  addOne,
  use,
  retire,
  ...componentRoutes,
  ...requestRoutes,
  ...backupRoutes,
  ...sealedRoutes,
  ...holdingRoutes,
  ...identifierRoutes,
  ...carrierRoutes,
];
