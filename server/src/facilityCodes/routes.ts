/** Facility codes of a site, by name. */
import { facilityCodeSchema, newFacilityCodeSchema } from '@rawbits/core/api';
import { greatestOf } from '@rawbits/core/codec';
import { asc, eq } from 'drizzle-orm';
import { z } from 'zod';
import { isDuplicate, newId, tables } from '../database/index.ts';
import { adoptedFormats } from '../formats/library.ts';
import { route } from '../http/app.ts';
import { conflict, invalid } from '../http/problem.ts';
import { change } from '../trail/change.ts';

const list = route({
  method: 'get',
  path: '/sites/{site}/facility-codes',
  summary: 'The facility codes of a site',
  needs: 'viewer',
  answers: z.array(facilityCodeSchema),
  handle: async ({ app, site }) => {
    const rows = await app.db
      .select()
      .from(tables.facilityCodes)
      .where(eq(tables.facilityCodes.siteId, site))
      .orderBy(asc(tables.facilityCodes.name));
    return rows.map((row) => ({ ...row, formatId: row.formatId || null }));
  },
});

const add = route({
  method: 'post',
  path: '/sites/{site}/facility-codes',
  summary: 'Name a facility code',
  needs: 'technician',
  body: newFacilityCodeSchema,
  answers: facilityCodeSchema,
  handle: async ({ app, operator, site, body }) => {
    if (body.formatId !== null) {
      const format = (await adoptedFormats(app.db, site)).find((f) => f.format.id === body.formatId)?.format;
      if (!format) throw invalid('formatId', 'The site has not adopted this format.', 'Adopt it under Formats first.');
      const span = format.spans.find((s) => s.role === 'facility');
      if (!span) throw invalid('formatId', 'This format carries no facility code.');
      if (BigInt(body.code) > greatestOf(span))
        throw invalid('code', `${body.code} is above ${greatestOf(span)}, the greatest in this format.`);
    }
    const code = BigInt(body.code).toString();
    const row = { ...body, id: newId(), siteId: site, code, formatId: body.formatId ?? '' };
    try {
      await change(app, operator, site, async (tx, record) => {
        await tx.insert(tables.facilityCodes).values(row);
        record.trail({ action: 'facility code named', subject: `facility code ${code}`, after: { ...body, code } });
        record.announce('formats');
      });
    } catch (error) {
      if (!isDuplicate(error)) throw error;
      throw conflict('code-taken', `Facility code ${code} has a name already.`, undefined, 'code');
    }
    return { ...row, formatId: body.formatId };
  },
});

export const facilityCodeRoutes = [list, add];
