/** Named translations: what leads from one device’s number to another’s. */
import { translationSchema } from '@rawbits/core/translate';
import { z } from 'zod';
import { idSchema, instant, name, notes } from './parts.ts';
import { route } from './route.ts';

export const namedTranslationSchema = z.object({
  id: idSchema,
  name,
  notes: z.string(),
  translation: translationSchema,
  createdBy: z.string(),
  createdAt: instant,
});
export type NamedTranslation = z.infer<typeof namedTranslationSchema>;
export const newTranslationSchema = z.strictObject({
  name,
  notes: notes.default(''),
  translation: translationSchema,
});

export const translationApi = {
  list: route({
    method: 'get',
    path: '/sites/{site}/translations',
    summary: 'The named translations of a site',
    needs: 'see the site',
    answers: z.array(namedTranslationSchema),
  }),
  add: route({
    method: 'post',
    path: '/sites/{site}/translations',
    summary: 'Keep a translation under a name',
    needs: 'use formats',
    body: newTranslationSchema,
    answers: namedTranslationSchema,
  }),
  remove: route({
    method: 'delete',
    path: '/sites/{site}/translations/{id}',
    summary: 'Give a translation up',
    needs: 'use formats',
    answers: z.object({}),
  }),
};
