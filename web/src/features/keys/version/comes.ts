/** What the forms of a new key and of a new version have in common: where the key comes from, and for how long it is good. */
import type { comesSchema, newKeyVersionSchema } from '@rawbits/api';
import type { z } from 'zod';
import { beginningOf, endOf } from '../../../platform/words/siteDays.ts';

export interface ComesTyped {
  how: 'made' | 'typed' | 'components';
  hex: string;
  check: string;
  evenWeak: boolean;
  parts: string;
  version: string;
  validFrom: string;
  validTo: string;
}

export const emptyComes = (version: number): ComesTyped => ({
  how: 'made',
  hex: '',
  check: '',
  evenWeak: false,
  parts: '2',
  version: String(version),
  validFrom: '',
  validTo: '',
});

type Comes = z.input<typeof comesSchema>;

export function comesOf({ how, hex, check, evenWeak, parts }: ComesTyped): Comes {
  const wanted = check.trim() === '' ? null : check;
  if (how === 'typed') return { how, hex, check: wanted, evenWeak };
  if (how === 'components') return { how, parts: Number(parts), check: wanted };
  return { how };
}

export const versionBodyOf = (typed: ComesTyped, zone: string): z.input<typeof newKeyVersionSchema> => ({
  version: typed.version,
  validFrom: beginningOf(typed.validFrom, zone),
  validTo: endOf(typed.validTo, zone),
  comes: comesOf(typed),
});
