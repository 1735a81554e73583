/** A read as the API gives it. */
import type { Read } from '@rawbits/api';
import type { readerTable } from '../doors/index.ts';
import type { readTable } from './tables.ts';

type Row = { read: typeof readTable.$inferSelect; reader: typeof readerTable.$inferSelect | null };

export function describeRead({ read, reader }: Row): Read {
  return {
    id: read.id,
    at: read.at.toISOString(),
    bits: read.bits,
    source: read.source as Read['source'],
    notation: read.notation,
    reader: reader && { id: reader.id, name: reader.name },
  };
}
