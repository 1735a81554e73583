/** What is made of a case: format, facility code and translation for the site, with the specimens as evidence. */

import type { Case, caseResultSchema } from '@rawbits/api';
import { Bits } from '@rawbits/core/bits';
import { decode, greatestOf } from '@rawbits/core/codec';
import type { Format } from '@rawbits/core/format';
import { agreementOf, printedNumbers } from '@rawbits/core/identify';
import { and, eq } from 'drizzle-orm';
import type { z } from 'zod';
import { newId, type Queryable } from '../../platform/database/index.ts';
import { conflict, HttpProblem, invalid } from '../../platform/problem/problem.ts';
import type { Record } from '../../platform/trail/change.ts';
import { facilityCodeTable, namedCode } from '../facilityCodes/index.ts';
import { formatFrom, takeUp } from '../formats/index.ts';
import { adoptedFormats, formatTable, insertFormat, noteEvidence, versionsOf } from '../library/index.ts';
import { translationTable } from '../translations/index.ts';

type Result = z.output<typeof caseResultSchema>;

/** Makes it all, or throws: the transaction then leaves nothing behind. */
export async function makeResult(
  tx: Queryable,
  record: Record,
  siteId: string,
  who: string,
  found: Case,
  { format: wanted, standing, settledFor, facility, translation }: Result,
): Promise<{ formatId: string; version: number; evidence: number }> {
  const cards = found.specimens.filter((s) => !s.setAside);
  if ('layout' in wanted) {
    const format = formatFrom({ ...wanted, source: `case ${found.name}` });
    const [taken] = await tx.select().from(formatTable).where(eq(formatTable.id, format.id));
    if (taken)
      throw conflict('format-taken', `There is a format "${format.id}" already.`, 'Choose another id.', 'format.id');
    const why = `${standing} by ${cards.length} cards of the case ${found.name}${rangeInWords(settledFor)}`;
    await insertFormat(tx, format, who, why.slice(0, 400));
    record.houseTrail({ action: 'format added', subject: `format ${format.id}`, after: format });
  }
  const used = (await adoptedFormats(tx, siteId)).find((f) => f.format.id === wanted.id);
  const [newest] = await versionsOf(tx, wanted.id);
  const version = used ?? newest!;
  const { format } = version;
  const proving = cards.filter((card) => proves(card.bits, card.printed, format));
  if (proving.length === 0)
    throw invalid('format', `${format.name} fits no specimen of this case.`, 'Choose a layout that fits.');
  if (!used) await takeUp(tx, record, siteId, format.id, version.version);
  await noteEvidence(
    tx,
    { siteId, formatId: format.id, layout: format, source: 'case', sourceId: found.id },
    proving.map((card) => card.bits),
  );
  if (facility) await nameFacility(tx, record, siteId, format, facility, found.name);
  if (translation) await keepTranslation(tx, record, siteId, who, translation, found.name);
  record.trail({
    action: 'format made of a case',
    subject: `case ${found.name}`,
    after: {
      format: format.id,
      version: version.version,
      standing,
      cards: proving.length,
      settledFor,
      facility,
      translation,
    },
  });
  return { formatId: format.id, version: version.version, evidence: proving.length };
}

/** `; of the 200 cards 118400 to 118599 the bits of 37 are proven, of 151 settled`. */
function rangeInWords(range: Result['settledFor']): string {
  if (!range) return '';
  return `; of the ${range.of} cards ${range.from} to ${range.to} the bits of ${range.proven} are proven, of ${range.settled} settled`;
}

/** A specimen proves a format when it fits in full and its print, where there is one, comes out. */
function proves(bits: string, printed: string | undefined, format: Format): boolean {
  const { fit, values } = decode(Bits.fromBinary(bits), format);
  if (fit !== 'full') return false;
  return !printed?.trim() || agreementOf(values, printedNumbers(printed), format) !== undefined;
}

async function nameFacility(
  tx: Queryable,
  record: Record,
  siteId: string,
  format: Format,
  { code, name }: { code: string; name: string },
  caseName: string,
): Promise<void> {
  const span = format.spans.find((s) => s.role === 'facility');
  if (!span) return;
  const plain = BigInt(code).toString();
  if (BigInt(code) > greatestOf(span))
    throw invalid('facility', `${plain} is above ${greatestOf(span)}, the greatest in this format.`);
  if (await namedCode(tx, siteId, format.id, plain)) return;
  await tx.insert(facilityCodeTable).values({
    id: newId(),
    siteId,
    formatId: format.id,
    code: plain,
    name,
    notes: `From the case ${caseName}`,
  });
  record.trail({
    action: 'facility code named',
    subject: `facility code ${plain}`,
    after: { name, format: format.id },
  });
}

async function keepTranslation(
  tx: Queryable,
  record: Record,
  siteId: string,
  who: string,
  { name, translation }: NonNullable<Result['translation']>,
  caseName: string,
): Promise<void> {
  const [taken] = await tx
    .select()
    .from(translationTable)
    .where(and(eq(translationTable.siteId, siteId), eq(translationTable.name, name)));
  if (taken)
    throw new HttpProblem(409, {
      code: 'name-taken',
      message: `There is a translation "${name}" already.`,
      hint: 'Choose another name.',
      where: { field: 'translation.name' },
    });
  await tx.insert(translationTable).values({
    id: newId(),
    siteId,
    name,
    notes: `From the case ${caseName}`,
    definition: translation,
    createdBy: who,
    createdAt: new Date(),
  });
  record.trail({ action: 'translation kept', subject: `translation ${name}`, after: translation });
}
