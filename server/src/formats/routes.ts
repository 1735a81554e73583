/** Formats: the library that all sites share, and what a site has adopted from it. */
import { libraryFormatSchema, newFormatSchema, siteFormatSchema } from '@rawbits/core/api';
import { RawBitsError } from '@rawbits/core/failure';
import { assertSound, FORMAT_SCHEMA, type Format, parseLayoutLine } from '@rawbits/core/format';
import { and, eq } from 'drizzle-orm';
import { z } from 'zod';
import { isDuplicate, tables } from '../database/index.ts';
import { route } from '../http/app.ts';
import { conflict, HttpProblem, notFound } from '../http/problem.ts';
import { change, HOUSE } from '../trail/change.ts';
import { adoptedFormats, currentFormats, insertFormat } from './library.ts';

const library = route({
  method: 'get',
  path: '/formats',
  summary: 'The format library: the current version of each format',
  needs: 'signed in',
  answers: z.array(libraryFormatSchema),
  handle: ({ app }) => currentFormats(app.db),
});

/** The layout line as a sound format; a failure keeps its column and is told as one of the field `layout`. */
function formatFrom(body: z.output<typeof newFormatSchema>): Format {
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

const add = route({
  method: 'post',
  path: '/formats',
  summary: 'A new format in the library, from its layout line',
  needs: 'technician',
  body: newFormatSchema,
  answers: libraryFormatSchema,
  handle: async ({ app, operator, body }) => {
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
    return (await currentFormats(app.db)).find((f) => f.format.id === format.id)!;
  },
});

const ofSite = route({
  method: 'get',
  path: '/sites/{site}/formats',
  summary: 'The library as the site sees it: which formats it has adopted, in the version adopted',
  needs: 'viewer',
  answers: z.array(siteFormatSchema),
  handle: async ({ app, site }) => {
    const adopted = new Map((await adoptedFormats(app.db, site)).map((f) => [f.format.id, f]));
    const all = await currentFormats(app.db);
    const rest = [...adopted.values()].filter((f) => all.every((other) => other.format.id !== f.format.id));
    return [
      ...all.map((f) => ({ ...(adopted.get(f.format.id) ?? f), adopted: adopted.has(f.format.id) })),
      ...rest.map((f) => ({ ...f, adopted: true })),
    ];
  },
});

const adopt = route({
  method: 'put',
  path: '/sites/{site}/formats/{format}',
  summary: 'Adopt a format from the library',
  needs: 'technician',
  answers: z.object({}),
  handle: async ({ app, operator, site, params }) => {
    const format = (await currentFormats(app.db)).find((f) => f.format.id === params.format);
    if (!format) throw notFound('format');
    return change(app, operator, site, async (tx, record) => {
      const key = { siteId: site, formatId: format.format.id };
      const [before] = await tx
        .select()
        .from(tables.siteFormats)
        .where(and(eq(tables.siteFormats.siteId, site), eq(tables.siteFormats.formatId, key.formatId)));
      if (before) return {};
      await tx.insert(tables.siteFormats).values({ ...key, version: format.version });
      record.trail({
        action: 'format adopted',
        subject: `format ${key.formatId}`,
        after: { version: format.version, layout: format.layout },
      });
      record.announce('formats');
      return {};
    });
  },
});

const drop = route({
  method: 'delete',
  path: '/sites/{site}/formats/{format}',
  summary: 'Give an adopted format up; refused while cards or controllers of the site use it',
  needs: 'technician',
  answers: z.object({}),
  handle: ({ app, operator, site, params }) =>
    change(app, operator, site, async (tx, record) => {
      const formatId = params.format!;
      const own = and(eq(tables.siteFormats.siteId, site), eq(tables.siteFormats.formatId, formatId));
      const [row] = await tx.select().from(tables.siteFormats).where(own).for('update');
      if (!row) throw notFound('format');
      const used = await tx.$count(
        tables.cards,
        and(eq(tables.cards.siteId, site), eq(tables.cards.formatId, formatId)),
      );
      if (used > 0)
        throw conflict(
          'in-use',
          `${used} ${used === 1 ? 'card uses' : 'cards use'} this format.`,
          'Withdraw them first.',
        );
      const [wanting] = await tx
        .select({ name: tables.controllers.name })
        .from(tables.controllerFormats)
        .innerJoin(tables.controllers, eq(tables.controllers.id, tables.controllerFormats.controllerId))
        .where(and(eq(tables.controllers.siteId, site), eq(tables.controllerFormats.formatId, formatId)));
      if (wanting)
        throw conflict(
          'in-use',
          `The controller ${wanting.name} is to accept this format.`,
          'Take it out there first.',
        );
      await tx.delete(tables.siteFormats).where(own);
      record.trail({ action: 'format given up', subject: `format ${formatId}`, before: { version: row.version } });
      record.announce('formats');
      return {};
    }),
});

export const formatRoutes = [library, add, ofSite, adopt, drop];
