/** What each controller of a site should have, and what it was last loaded with. */

import { createHash } from 'node:crypto';
import {
  type ControllerImage,
  type Credential,
  controllerImageSchema,
  EMPTY_IMAGE,
  imageText,
} from '@rawbits/core/access';
import { and, asc, eq, inArray, ne } from 'drizzle-orm';
import type { Queryable } from '../../platform/database/index.ts';
import { cardholderTable, cardTable } from '../cards/index.ts';
import { adoptedFormats } from '../library/index.ts';
import { controllerFormatTable, controllerTable } from './tables.ts';

export type ControllerRow = typeof controllerTable.$inferSelect;

export interface Images {
  controller: ControllerRow;
  wanted: ControllerImage;
  loaded: ControllerImage;
}

/** SHA-256 over the image's text; the device works it out over what it keeps. */
export const digestOf = (image: ControllerImage): string => createHash('sha256').update(imageText(image)).digest('hex');

/** All credentials of a site that belong into controllers: every card but those in stock. */
async function credentialsOf(db: Queryable, siteId: string): Promise<Credential[]> {
  const rows = await db
    .select({ card: cardTable, holder: cardholderTable.name })
    .from(cardTable)
    .leftJoin(cardholderTable, eq(cardholderTable.id, cardTable.holderId))
    .where(and(eq(cardTable.siteId, siteId), ne(cardTable.state, 'in stock')));
  return rows.map(credentialFrom);
}

/** A card as a controller knows it. */
export function credentialFrom({
  card,
  holder,
}: {
  card: typeof cardTable.$inferSelect;
  holder: string | null;
}): Credential {
  return {
    id: card.id,
    format: card.formatId,
    facility: card.facility || null,
    number: card.number,
    holder,
    state: card.state as Credential['state'],
    validFrom: card.validFrom?.toISOString() ?? null,
    validTo: card.validTo?.toISOString() ?? null,
  };
}

/** The images of every controller of a site, or of one. A controller gets the cards of the formats that it accepts. */
export async function siteImages(db: Queryable, siteId: string, only?: string): Promise<Images[]> {
  const own = eq(controllerTable.siteId, siteId);
  const controllers = await db
    .select()
    .from(controllerTable)
    .where(only === undefined ? own : and(own, eq(controllerTable.id, only)))
    .orderBy(asc(controllerTable.name));
  if (controllers.length === 0) return [];
  const formats = new Map((await adoptedFormats(db, siteId)).map((f) => [f.format.id, f.format]));
  const credentials = await credentialsOf(db, siteId);
  const wanting = await db
    .select()
    .from(controllerFormatTable)
    .where(
      inArray(
        controllerFormatTable.controllerId,
        controllers.map((c) => c.id),
      ),
    );
  return controllers.map((controller) => {
    const ids = new Set(wanting.filter((w) => w.controllerId === controller.id).map((w) => w.formatId));
    const wanted = {
      formats: [...formats.values()].filter((format) => ids.has(format.id)),
      credentials: credentials.filter((credential) => ids.has(credential.format)),
      comparesFacility: controller.comparesFacility,
    };
    const loaded = controller.loadedImage
      ? controllerImageSchema.parse(controller.loadedImage)
      : { ...EMPTY_IMAGE, comparesFacility: controller.comparesFacility };
    return { controller, wanted, loaded };
  });
}
