/** Sites. */

import { z } from 'zod';
import { idSchema, name } from './parts.ts';
import { route } from './route.ts';

/** A zone of the IANA time zone database, such as `Europe/Oslo`. */
export const timeZoneSchema = z
  .string()
  .max(60)
  .refine(isTimeZone, 'Give a time zone such as Europe/Oslo, from the IANA database.');

function isTimeZone(zone: string): boolean {
  try {
    new Intl.DateTimeFormat('en', { timeZone: zone });
    return zone !== '';
  } catch {
    return false;
  }
}

export const siteSchema = z.object({
  id: idSchema,
  name,
  shortName: z.string(),
  /** Where its days begin and end. */
  timeZone: z.string(),
  hasRig: z.boolean(),
});

export type Site = z.infer<typeof siteSchema>;

export const newSiteSchema = z.strictObject({
  name,
  shortName: name.max(24),
  timeZone: timeZoneSchema.default('UTC'),
});

export const changedSiteSchema = z.strictObject({
  name: name.optional(),
  shortName: name.max(24).optional(),
  timeZone: timeZoneSchema.optional(),
});

export const siteApi = {
  list: route({
    method: 'get',
    path: '/sites',
    summary: 'The sites of the operator',
    needs: 'signed in',
    answers: z.array(siteSchema),
  }),
  add: route({
    method: 'post',
    path: '/sites',
    summary: 'A new site; whoever makes it becomes its administrator',
    needs: 'manage sites',
    body: newSiteSchema,
    answers: siteSchema,
  }),
  update: route({
    method: 'patch',
    path: '/sites/{site}',
    summary: 'Change the name or the time zone of a site',
    needs: 'manage sites',
    body: changedSiteSchema,
    answers: siteSchema,
  }),
};
