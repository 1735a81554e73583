/** Formats: the library that all sites share, its versions, and what a site has adopted from it. */

import { formatApi, type newFormatSchema } from '@rawbits/api';
import { RawBitsError } from '@rawbits/core/failure';
import { assertSound, FORMAT_SCHEMA, type Format, parseLayoutLine } from '@rawbits/core/format';
import { eq } from 'drizzle-orm';
import type { z } from 'zod';
import { isDuplicate } from '../../platform/database/index.ts';
import { handle } from '../../platform/http/app.ts';
import { conflict, HttpProblem, notFound } from '../../platform/problem/problem.ts';
import { change, HOUSE } from '../../platform/trail/change.ts';
import {
  adoptedFormats,
  currentFormats,
  formatTable,
  insertFormat,
  insertVersion,
  versionsOf,
  wholeLibrary,
} from '../library/index.ts';
import { giveUp, takeUp } from './adoption.ts';
import { formatUse } from './use.ts';

const library = handle(formatApi.library, ({ app }) => wholeLibrary(app.db));

/** The layout line as a sound format; a failure keeps its column and is told as one of the field `layout`. */
export function formatFrom(body: z.output<typeof newFormatSchema>): Format {
  const { id, name, notes, source } = body;
  try {
    const layout = parseLayoutLine(body.layout);
    assertSound(layout);
    return { schema: FORMAT_SCHEMA, id, name, ...layout, ...(notes && { notes }), ...(source && { source }) };
  } catch (error) {
    if (!(error instanceof RawBitsError)) throw error;
    throw new HttpProblem(422, { ...error.toFailure(), where: { ...error.where, field: 'layout' } });
  }
}

const add = handle(formatApi.add, async ({ app, operator, body }) => {
  const format = formatFrom(body);
  try {
    await change(app, operator, HOUSE, async (tx, record) => {
      await insertFormat(tx, format, operator.name, 'new');
      record.trail({ action: 'format added', subject: `format ${format.id}`, after: format });
    });
  } catch (error) {
    if (!isDuplicate(error)) throw error;
    throw conflict('format-taken', `There is a format "${format.id}" already.`, 'Choose another id.', 'id');
  }
  return (await versionsOf(app.db, format.id))[0]!;
});

const versions = handle(formatApi.versions, ({ app, params }) => versionsOf(app.db, params.format!));

const addVersion = handle(formatApi.addVersion, async ({ app, operator, params, body }) => {
  const { basedOn, reason, ...rest } = body;
  const format = formatFrom({ ...rest, id: params.format! });
  await change(app, operator, HOUSE, async (tx, record) => {
    const version = await insertVersion(tx, format, basedOn, operator.name, reason);
    record.trail({
      action: 'format version added',
      subject: `format ${format.id}`,
      before: { version: basedOn },
      after: { version, reason, format },
    });
  });
  return (await versionsOf(app.db, format.id))[0]!;
});

const setRetired = (spec: typeof formatApi.retire | typeof formatApi.reinstate, retired: boolean) =>
  handle(spec, async ({ app, operator, params, body }) => {
    const formatId = params.format!;
    await change(app, operator, HOUSE, async (tx, record) => {
      const [row] = await tx.select().from(formatTable).where(eq(formatTable.id, formatId)).for('update');
      if (!row) throw notFound('format');
      if ((row.retiredAt !== null) === retired) return;
      await tx
        .update(formatTable)
        .set({ retiredAt: retired ? new Date() : null })
        .where(eq(formatTable.id, formatId));
      record.trail({
        action: retired ? 'format retired' : 'format reinstated',
        subject: `format ${formatId}`,
        after: { reason: body.reason },
      });
    });
    return (await versionsOf(app.db, formatId))[0]!;
  });
const retire = setRetired(formatApi.retire, true);
const reinstate = setRetired(formatApi.reinstate, false);

const ofSite = handle(formatApi.ofSite, async ({ app, site }) => {
  const adopted = new Map((await adoptedFormats(app.db, site)).map((f) => [f.format.id, f]));
  const all = await currentFormats(app.db);
  const rest = [...adopted.values()].filter((f) => all.every((other) => other.format.id !== f.format.id));
  return [
    ...all.map((f) => ({ ...(adopted.get(f.format.id) ?? f), adopted: adopted.has(f.format.id) })),
    ...rest.map((f) => ({ ...f, adopted: true })),
  ];
});

const adopt = handle(formatApi.adopt, async ({ app, operator, site, params }) =>
  change(app, operator, site, async (tx, record) => {
    const formatId = params.format!;
    const [newest] = await versionsOf(tx, formatId);
    const used = (await adoptedFormats(tx, site)).some((f) => f.format.id === formatId);
    if (!used) await takeUp(tx, record, site, formatId, newest!.version);
    return {};
  }),
);

const drop = handle(formatApi.drop, ({ app, operator, site, params }) =>
  change(app, operator, site, async (tx, record) => {
    await giveUp(tx, record, site, params.format!);
    return {};
  }),
);

const use = handle(formatApi.use, ({ app, site, params }) => formatUse(app.db, site, params.format!));

export const formatRoutes = [library, add, versions, addVersion, retire, reinstate, ofSite, adopt, drop, use];
