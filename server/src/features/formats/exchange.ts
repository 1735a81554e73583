/** Files of formats, in and out of the library. An import is reviewed, and saved whole or not at all. */

import { formatApi, type ImportReview, type LibraryFormat } from '@rawbits/api';
import { canonicalJson } from '@rawbits/core/access';
import {
  FORMULA_CELL,
  type Format,
  printLayoutLine,
  type ReadIn,
  spanRows,
  writeJson,
  writeLines,
} from '@rawbits/core/format';
import Papa from 'papaparse';
import type { Queryable } from '../../platform/database/index.ts';
import { handle } from '../../platform/http/app.ts';
import { change, HOUSE } from '../../platform/trail/change.ts';
import { insertFormat, insertVersion, wholeLibrary } from '../library/index.ts';

export const toCsv = (rows: string[][]): string => `${Papa.unparse(rows, { escapeFormulae: FORMULA_CELL })}\r\n`;

const sameFormat = (a: Format, b: Format): boolean => canonicalJson(a) === canonicalJson(b);

/** What is not in a file of layout lines stays as it is in the library. */
function merged(format: Format, now: LibraryFormat | undefined, kind: string): Format {
  if (kind !== 'lines' || !now) return format;
  const { notes, source } = now.format;
  return { ...format, ...(notes && { notes }), ...(source && { source }) };
}

async function review(db: Queryable, read: ReadIn, kind: string) {
  const library = new Map((await wholeLibrary(db)).map((f) => [f.format.id, f]));
  const planned = read.formats.map(({ format: raw, row }) => {
    const now = library.get(raw.id);
    const format = merged(raw, now, kind);
    const does = !now ? ('add' as const) : sameFormat(format, now.format) ? ('nothing' as const) : ('change' as const);
    return { format, row, now, does };
  });
  const rows: ImportReview['rows'] = planned.map(({ format, row, now, does }) => ({
    row,
    id: format.id,
    name: format.name,
    layout: printLayoutLine(format),
    does,
    now: does === 'change' ? now!.layout : null,
  }));
  return { planned, rows };
}

const importFormats = handle(formatApi.importFormats, async ({ app, operator, body }) => {
  const read = await app.workers.run('readFormats', { kind: body.kind, text: body.text });
  const { problems } = read;
  if (!body.save || problems.length > 0)
    return { rows: (await review(app.db, read, body.kind)).rows, problems, saved: false };
  return change(app, operator, HOUSE, async (tx, record) => {
    // Reviewed again inside the transaction: what is saved is what the library is now.
    const { planned, rows } = await review(tx, read, body.kind);
    const counts = { add: 0, change: 0, nothing: 0 };
    for (const { format, now, does } of planned) {
      counts[does]++;
      if (does === 'add') await insertFormat(tx, format, operator.name, body.reason);
      if (does === 'change') await insertVersion(tx, format, now!.version, operator.name, body.reason);
    }
    record.trail({
      action: 'formats imported',
      subject: `${counts.add} added, ${counts.change} changed`,
      after: { counts, formats: planned.filter((p) => p.does !== 'nothing').map((p) => p.format.id) },
    });
    return { rows, problems: [], saved: true };
  });
});

const exportFormats = handle(formatApi.exportFormats, async ({ app, query }) => {
  const ids = query.ids?.split(',');
  const formats = (await wholeLibrary(app.db)).map((f) => f.format).filter((f) => !ids || ids.includes(f.id));
  const name = formats.length === 1 ? formats[0]!.id : 'formats';
  if (query.kind === 'json') return { name: `${name}.json`, text: writeJson(formats) };
  if (query.kind === 'csv') return { name: `${name}.csv`, text: toCsv(spanRows(formats)) };
  return { name: `${name}.txt`, text: writeLines(formats) };
});

export const exchangeRoutes = [importFormats, exportFormats];
