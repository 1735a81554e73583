/** The places that a change concerns, each before and after: every controller that it touches, and the site as a whole. */

import { createHash } from 'node:crypto';
import type { SiteChange } from '@rawbits/api';
import type { Credential, Lookup } from '@rawbits/core/access';
import type { Place } from '@rawbits/core/dryrun';
import type { Format } from '@rawbits/core/format';
import { and, asc, eq, inArray } from 'drizzle-orm';
import type { Queryable } from '../../platform/database/index.ts';
import { invalid, notFound } from '../../platform/problem/problem.ts';
import { changesOfCards } from '../cards/index.ts';
import { controllerFormatTable, controllerTable } from '../doors/index.ts';
import { checkCode, facilityCodeTable } from '../facilityCodes/index.ts';
import { formatFrom } from '../formats/index.ts';
import { adoptedFormats, siteFormatTable, versionsOf } from '../library/index.ts';
import { CardsAtHand } from './cardsAtHand.ts';

/** How the formats and the cards of the site change. Throws when the change makes no sense here. */
async function effectOf(
  db: Queryable,
  siteId: string,
  adopted: ReadonlyMap<string, Format>,
  change: SiteChange,
): Promise<{
  formats?: (format: Format) => Format | undefined;
  added?: Format[];
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
      return adopted.has(change.format) ? {} : { added: [newest!.format] };
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
        .from(facilityCodeTable)
        .where(and(eq(facilityCodeTable.id, change.id), eq(facilityCodeTable.siteId, siteId)));
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
      const added: Format[] = [];
      for (const id of change.formats.filter((id) => !adopted.has(id))) {
        const [newest] = await versionsOf(db, id);
        added.push(newest!.format);
      }
      return { added, accept: { controller: change.controller, formats: change.formats } };
    }
  }
}

/** What a dry run of a change works on: the places, and the cards that their decisions look up. */
export interface Stage {
  places: Place[];
  onFile: CardsAtHand;
}

/** Throws where the change makes no sense at this site. Costs its formats and controllers, not its cards. */
export async function stageOf(db: Queryable, siteId: string, change: SiteChange): Promise<Stage> {
  const adopted = new Map((await adoptedFormats(db, siteId)).map((f) => [f.format.id, f.format]));
  const effect = await effectOf(db, siteId, adopted, change);
  const onFile = new CardsAtHand(siteId, effect.cards);
  const formatsAfter = (formats: Format[]) =>
    effect.formats ? formats.flatMap((format) => effect.formats!(format) ?? []) : formats;
  const everything = [...adopted.values()];
  const places: Place[] = [
    {
      id: 'site',
      name: 'the site as a whole',
      before: { formats: everything, comparesFacility: true, onFile: onFile.before },
      after: {
        formats: [...formatsAfter(everything), ...(effect.added ?? [])],
        comparesFacility: true,
        onFile: onFile.after,
      },
    },
  ];
  for (const { controller, formatIds } of await controllersOf(db, siteId)) {
    const { comparesFacility } = controller;
    const accepted = effect.accept?.controller === controller.id ? new Set(effect.accept.formats) : formatIds;
    const before = loadedOf(onFile.before, formatIds);
    places.push({
      id: controller.id,
      name: controller.name,
      before: {
        formats: everything.filter((format) => formatIds.has(format.id)),
        comparesFacility,
        onFile: before,
      },
      after: {
        formats: formatsAfter([...everything, ...(effect.added ?? [])].filter((format) => accepted.has(format.id))),
        comparesFacility,
        onFile: onFile.after === onFile.before && accepted === formatIds ? before : loadedOf(onFile.after, accepted),
      },
    });
  }
  if (effect.accept && !places.some((place) => place.id === effect.accept!.controller)) throw notFound('controller');
  // Where one controller changes what it accepts, the site as a whole goes on as before.
  return { onFile, places: effect.accept ? places.filter((place) => place.id === effect.accept!.controller) : places };
}

/** Of what is on file, the cards that a controller has which accepts these formats. */
const loadedOf =
  (onFile: Lookup, accepted: ReadonlySet<string>): Lookup =>
  (number) =>
    onFile(number)?.filter(({ credential }) => accepted.has(credential.format) && credential.state !== 'in stock');

async function controllersOf(db: Queryable, siteId: string) {
  const controllers = await db
    .select()
    .from(controllerTable)
    .where(eq(controllerTable.siteId, siteId))
    .orderBy(asc(controllerTable.name));
  if (controllers.length === 0) return [];
  const wanting = await db
    .select()
    .from(controllerFormatTable)
    .where(
      inArray(
        controllerFormatTable.controllerId,
        controllers.map((c) => c.id),
      ),
    );
  return controllers.map((controller) => ({
    controller,
    formatIds: new Set(wanting.filter((w) => w.controllerId === controller.id).map((w) => w.formatId)),
  }));
}

/**
 * A hash of what a dry run of a site rests on: the changes of its cards so far, the formats it uses, and what its
 * controllers accept. Costs those, not the cards.
 */
export async function basisOf(db: Queryable, siteId: string): Promise<string> {
  const formats = await db
    .select()
    .from(siteFormatTable)
    .where(eq(siteFormatTable.siteId, siteId))
    .orderBy(asc(siteFormatTable.formatId));
  const accepting = (await controllersOf(db, siteId)).map(({ controller, formatIds }) => [
    controller.id,
    controller.comparesFacility,
    [...formatIds].sort(),
  ]);
  const text = JSON.stringify([
    await changesOfCards(db, siteId),
    formats.map((f) => [f.formatId, f.version]),
    accepting,
  ]);
  return createHash('sha256').update(text).digest('hex');
}
