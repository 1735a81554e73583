/** The places that a change concerns, each before and after: every controller that it touches, and the site as a whole. */
import { createHash } from 'node:crypto';
import type { SiteChange } from '@rawbits/api';
import type { ControllerImage, Credential } from '@rawbits/core/access';
import { greatestOf } from '@rawbits/core/codec';
import type { Place } from '@rawbits/core/dryrun';
import type { Format } from '@rawbits/core/format';
import { and, asc, eq, inArray, sql } from 'drizzle-orm';
import { type Queryable, tables } from '../database/index.ts';
import { credentialFrom } from '../doors/images.ts';
import { adoptedFormats, versionsOf } from '../formats/library.ts';
import { formatFrom } from '../formats/routes.ts';
import { invalid, notFound } from '../http/problem.ts';

export interface CardOnFile {
  id: string;
  formatId: string;
  facility: string;
  number: string;
  /** What the card delivers, whatever its format has become since. */
  bits: string | null;
}

export interface Stage {
  places: Place[];
  cards: CardOnFile[];
}

/** How the formats and the cards of the site change. Throws when the change makes no sense here. */
async function effectOf(
  db: Queryable,
  siteId: string,
  adopted: ReadonlyMap<string, Format>,
  change: SiteChange,
): Promise<{
  formats?: (format: Format) => Format | undefined;
  added?: Format;
  cards?: (card: Credential) => Credential;
  accept?: { controller: string; formats: string[] };
}> {
  const used = (id: string) => {
    const format = adopted.get(id);
    if (!format) throw invalid('format', 'The site does not use this format.', 'Take it up first.');
    return format;
  };
  const replacing = (next: Format) => (format: Format) => (format.id === next.id ? next : format);
  switch (change.kind) {
    case 'adopt': {
      const [newest] = await versionsOf(db, change.format);
      return adopted.has(change.format) ? {} : { added: newest!.format };
    }
    case 'drop':
      used(change.format);
      return { formats: (format) => (format.id === change.format ? undefined : format) };
    case 'version': {
      used(change.format);
      const wanted = (await versionsOf(db, change.format)).find((v) => v.version === change.version);
      if (!wanted) throw notFound('version');
      return { formats: replacing(wanted.format) };
    }
    case 'new version': {
      used(change.format);
      const { name, layout, notes, source } = change;
      return { formats: replacing(formatFrom({ id: change.format, name, layout, notes, source })) };
    }
    case 'facility code': {
      const [row] = await db
        .select()
        .from(tables.facilityCodes)
        .where(and(eq(tables.facilityCodes.id, change.id), eq(tables.facilityCodes.siteId, siteId)));
      if (!row) throw notFound('facility code');
      const code = BigInt(change.code).toString();
      checkCode(adopted, row.formatId || null, code);
      return {
        cards: (card) =>
          card.facility === row.code && (row.formatId === '' || card.format === row.formatId)
            ? { ...card, facility: code }
            : card,
      };
    }
    case 'accept': {
      const foreign = change.formats.find((id) => !adopted.has(id));
      if (foreign !== undefined) throw invalid('formats', `The site has not adopted the format "${foreign}".`);
      return { accept: { controller: change.controller, formats: change.formats } };
    }
  }
}

/** Whether a format, or every format of the site that carries one, can hold a facility code. */
export function checkCode(adopted: ReadonlyMap<string, Format>, formatId: string | null, code: string): void {
  if (formatId !== null && !adopted.has(formatId))
    throw invalid('formatId', 'The site has not adopted this format.', 'Adopt it under Formats first.');
  const formats = formatId === null ? [...adopted.values()] : [adopted.get(formatId)!];
  for (const format of formats) {
    const span = format.spans.find((s) => s.role === 'facility');
    if (!span && formatId !== null) throw invalid('formatId', 'This format carries no facility code.');
    if (span && formatId !== null && BigInt(code) > greatestOf(span))
      throw invalid('code', `${code} is above ${greatestOf(span)}, the greatest in this format.`);
  }
}

/** Everything that a dry run of a change works on. */
export async function stageOf(db: Queryable, siteId: string, change: SiteChange): Promise<Stage> {
  const adopted = new Map((await adoptedFormats(db, siteId)).map((f) => [f.format.id, f.format]));
  const effect = await effectOf(db, siteId, adopted, change);
  const rows = await db
    .select({ card: tables.cards, holder: tables.cardholders.name })
    .from(tables.cards)
    .leftJoin(tables.cardholders, eq(tables.cardholders.id, tables.cards.holderId))
    .where(eq(tables.cards.siteId, siteId));
  const all = rows.map(credentialFrom);
  const next = effect.cards ? all.map(effect.cards) : all;
  const formatsAfter = (formats: Format[]) =>
    effect.formats ? formats.flatMap((format) => effect.formats!(format) ?? []) : formats;
  const image = (formats: Format[], credentials: Credential[], comparesFacility: boolean): ControllerImage => ({
    formats,
    credentials,
    comparesFacility,
  });
  const everything = [...adopted.values()];
  const places: Place[] = [
    {
      id: 'site',
      name: 'the site as a whole',
      before: image(everything, all, true),
      after: image([...formatsAfter(everything), ...(effect.added ? [effect.added] : [])], next, true),
    },
  ];
  for (const { controller, formatIds } of await controllersOf(db, siteId)) {
    const own = everything.filter((format) => formatIds.has(format.id));
    const accepted = effect.accept?.controller === controller.id ? new Set(effect.accept.formats) : formatIds;
    const ownAfter = formatsAfter(everything.filter((format) => accepted.has(format.id)));
    const cards = all.filter((card) => formatIds.has(card.format) && card.state !== 'in stock');
    const cardsAfter =
      next === all && accepted === formatIds
        ? cards
        : next.filter((card) => accepted.has(card.format) && card.state !== 'in stock');
    places.push({
      id: controller.id,
      name: controller.name,
      before: image(own, cards, controller.comparesFacility),
      after: image(ownAfter, cardsAfter, controller.comparesFacility),
    });
  }
  if (effect.accept && !places.some((place) => place.id === effect.accept!.controller)) throw notFound('controller');
  return {
    // Where one controller changes what it accepts, the site as a whole goes on as before.
    places: effect.accept ? places.filter((place) => place.id === effect.accept!.controller) : places,
    cards: rows.map(({ card }) => card),
  };
}

async function controllersOf(db: Queryable, siteId: string) {
  const controllers = await db
    .select()
    .from(tables.controllers)
    .where(eq(tables.controllers.siteId, siteId))
    .orderBy(asc(tables.controllers.name));
  if (controllers.length === 0) return [];
  const wanting = await db
    .select()
    .from(tables.controllerFormats)
    .where(
      inArray(
        tables.controllerFormats.controllerId,
        controllers.map((c) => c.id),
      ),
    );
  return controllers.map((controller) => ({
    controller,
    formatIds: new Set(wanting.filter((w) => w.controllerId === controller.id).map((w) => w.formatId)),
  }));
}

/** A hash of what a dry run of a site rests on: its cards, the formats it uses, and what its controllers accept. */
export async function basisOf(db: Queryable, siteId: string): Promise<string> {
  const [cards] = await db
    .select({
      count: sql<string>`count(*)`,
      sum: sql<string>`coalesce(bit_xor(crc32(concat_ws('|', ${tables.cards.id}, ${tables.cards.revision}, ${tables.cards.facility}))), 0)`,
    })
    .from(tables.cards)
    .where(eq(tables.cards.siteId, siteId));
  const formats = await db
    .select()
    .from(tables.siteFormats)
    .where(eq(tables.siteFormats.siteId, siteId))
    .orderBy(asc(tables.siteFormats.formatId));
  const accepting = (await controllersOf(db, siteId)).map(({ controller, formatIds }) => [
    controller.id,
    controller.comparesFacility,
    [...formatIds].sort(),
  ]);
  const text = JSON.stringify([cards, formats.map((f) => [f.formatId, f.version]), accepting]);
  return createHash('sha256').update(text).digest('hex');
}
