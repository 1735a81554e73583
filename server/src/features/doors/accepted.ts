/** What the controllers of a site are to accept, and what one with all of it would decide. */
import { type Decision, decideBy, Engine, lookupIn } from '@rawbits/core/access';
import type { Bits } from '@rawbits/core/bits';
import { formatSchema } from '@rawbits/core/format';
import { and, asc, eq, inArray, ne, sql } from 'drizzle-orm';
import type { Queryable } from '../../platform/database/index.ts';
import { cardTable } from '../cards/index.ts';
import { formatVersionTable, siteFormatTable } from '../library/index.ts';
import { cardsForControllers, credentialFrom } from './credential.ts';
import { passingAsWanted } from './passing.ts';
import { type ControllerRow, controllerFormatTable, controllerTable } from './tables.ts';

/** By controller, the ids of the adopted formats that it is to accept. */
export async function acceptedBy(db: Queryable, siteId: string): Promise<Map<string, string[]>> {
  const rows = await db
    .select({ controllerId: controllerFormatTable.controllerId, formatId: controllerFormatTable.formatId })
    .from(controllerFormatTable)
    .innerJoin(controllerTable, eq(controllerTable.id, controllerFormatTable.controllerId))
    .innerJoin(
      siteFormatTable,
      and(
        eq(siteFormatTable.siteId, controllerTable.siteId),
        eq(siteFormatTable.formatId, controllerFormatTable.formatId),
      ),
    )
    .where(eq(controllerTable.siteId, siteId))
    .orderBy(asc(controllerFormatTable.formatId));
  const accepted = new Map<string, string[]>();
  for (const { controllerId, formatId } of rows)
    accepted.set(controllerId, [...(accepted.get(controllerId) ?? []), formatId]);
  return accepted;
}

/** By controller, the numbers of bits that the formats have which it is to accept. */
export async function acceptedLengths(db: Queryable, siteId: string): Promise<Map<string, Set<number>>> {
  const bits = sql<number>`JSON_VALUE(${formatVersionTable.definition}, '$.bits')`.mapWith(Number);
  const rows = await db
    .selectDistinct({ controllerId: controllerFormatTable.controllerId, bits })
    .from(controllerFormatTable)
    .innerJoin(
      siteFormatTable,
      and(eq(siteFormatTable.siteId, siteId), eq(siteFormatTable.formatId, controllerFormatTable.formatId)),
    )
    .innerJoin(
      formatVersionTable,
      and(
        eq(formatVersionTable.formatId, siteFormatTable.formatId),
        eq(formatVersionTable.version, siteFormatTable.version),
      ),
    )
    .innerJoin(
      controllerTable,
      and(eq(controllerTable.id, controllerFormatTable.controllerId), eq(controllerTable.siteId, siteId)),
    );
  const lengths = new Map<string, Set<number>>();
  for (const { controllerId, bits: length } of rows)
    lengths.set(controllerId, (lengths.get(controllerId) ?? new Set()).add(length));
  return lengths;
}

/** The formats of a controller in the versions that its site uses, compiled; kept while they stay what they are. */
const engines = new Map<string, Engine>();
const MOST_ENGINES = 200;

async function engineOf(db: Queryable, controller: ControllerRow): Promise<Engine> {
  const versions = await db
    .select({ id: siteFormatTable.formatId, version: siteFormatTable.version })
    .from(controllerFormatTable)
    .innerJoin(
      siteFormatTable,
      and(eq(siteFormatTable.siteId, controller.siteId), eq(siteFormatTable.formatId, controllerFormatTable.formatId)),
    )
    .where(eq(controllerFormatTable.controllerId, controller.id))
    .orderBy(asc(siteFormatTable.formatId));
  // A saved version is never changed, so its number is all that has to be looked at.
  const key = JSON.stringify([controller.comparesFacility, versions]);
  const known = engines.get(key);
  if (known) return known;
  const definitions = [];
  for (const { id, version } of versions) {
    const [row] = await db
      .select({ definition: formatVersionTable.definition })
      .from(formatVersionTable)
      .where(and(eq(formatVersionTable.formatId, id), eq(formatVersionTable.version, version)));
    if (row) definitions.push(formatSchema.parse(row.definition));
  }
  const engine = new Engine(definitions, controller.comparesFacility);
  if (engines.size >= MOST_ENGINES) engines.delete(engines.keys().next().value!);
  engines.set(key, engine);
  return engine;
}

/**
 * What a controller would decide on a read from one of its readers (the name of the device) if it were loaded with all that it
 * should have; costs the cards of the read's number.
 */
export async function decideAsWanted(
  db: Queryable,
  controller: ControllerRow,
  bits: Bits,
  atMs: number,
  reader: string,
): Promise<Decision> {
  const engine = await engineOf(db, controller);
  const numbers = engine.numbersOf(bits.words, bits.length);
  const cards =
    numbers.length === 0
      ? []
      : await cardsForControllers(db).where(
          and(
            eq(cardTable.siteId, controller.siteId),
            inArray(cardTable.number, numbers),
            inArray(
              cardTable.formatId,
              engine.formats.map((format) => format.id),
            ),
            ne(cardTable.state, 'in stock'),
          ),
        );
  const passing = await passingAsWanted(db, controller.id, reader, atMs);
  return decideBy(engine, bits, atMs, lookupIn(cards.map(credentialFrom)), passing);
}
