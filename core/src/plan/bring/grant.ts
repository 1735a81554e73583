/**
 * Hand-back grants: the card’s master key, which is another on each card, stands on the card under a third party’s key (AES key
 * wrap, RFC 3394). Whoever has that key frees this card with it, and knows nothing of any other.
 */
import { fail } from '../../failure/index.ts';
import type { FilesHost, HostKey } from '../../host/index.ts';
import { unwrapped, wrapped } from '../../key/index.ts';
import { placed } from '../fields/index.ts';
import type { Plan } from '../schema/index.ts';
import { type Freeing, freeCard } from './free.ts';
import { wayOf } from './keys.ts';
import type { Ring } from './ring.ts';

/** Keys of a card under others, as the fields of a plan take them. */
export const wrappedBy =
  (ring: Ring) =>
  (key: string, under: string): Uint8Array | undefined => {
    const [own, theirs] = [ring(key, null)?.now, ring(under, null)?.now];
    return own && theirs ? wrapped(theirs.bytes.subarray(0, 16), own.bytes) : undefined;
  };

/** Where a plan has a grant. */
export interface Grant {
  application: string;
  file: number;
  field: string;
  /** The key that is handed out, and the one that opens it. */
  key: string;
  under: string;
  from: number;
  to: number;
}

export const grantsOf = ({ applications }: Plan): Grant[] =>
  applications.flatMap(({ id, files }) =>
    files.flatMap((file) =>
      'fields' in file
        ? placed(file.fields).flatMap(({ field, from, to }) =>
            field.content.is === 'wrapped'
              ? [
                  {
                    application: id,
                    file: file.number,
                    field: field.name,
                    key: field.content.key,
                    under: field.content.under,
                    from,
                    to,
                  },
                ]
              : [],
          )
        : [],
    ),
  );

/**
 * Frees a card by a grant: reads it, takes the card’s own key out of it, and deletes everything. `theirs` is the third party’s
 * key, `reads` the key of the application that reads the file where not everybody may. Throws `grant` where it does not open.
 */
export async function freeByGrant(
  host: FilesHost,
  plan: Plan,
  { application, file, from, to, key }: Grant,
  theirs: Uint8Array,
  reads: { slot: number; key: HostKey } | undefined,
  before?: Freeing['before'],
): ReturnType<typeof freeCard> {
  await host.select(Number.parseInt(application, 16));
  const found = plan.applications.find(({ id }) => id === application)?.files.find(({ number }) => number === file);
  if (reads) await host.authenticate(wayOf(reads.key.kind), reads.slot, reads.key);
  const bytes = await host.read(file, from, to - from, reads ? (found?.mode ?? 'plain') : 'plain');
  const own = opened(theirs, bytes);
  if (plan.card.key !== key)
    fail('grant', `"${key}" is not the card’s own key, and does not free it.`, { field: 'grant' });
  const ring: Ring = (name) =>
    name === key ? { now: { kind: plan.card.keyKind, bytes: own, version: 1 }, before: [] } : undefined;
  return freeCard(host, { plan, ring, before });
}

function opened(theirs: Uint8Array, bytes: Uint8Array): Uint8Array {
  try {
    return unwrapped(theirs, bytes);
  } catch {
    return fail(
      'grant',
      'This key does not open the grant on this card.',
      { field: 'grant' },
      'It was revoked, or is another party’s.',
    );
  }
}
