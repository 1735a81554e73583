/** What a device host offers, of that what counts, and what its mark is made of. */
import { type DeviceSort, deviceSorts } from '@rawbits/api';
import type { HostRow } from './tables.ts';

/** What the mark of a host is made of (`platform/marks`): a token that was revoked, or a right that it never had, is not put back. */
export const hostMark = ({
  id,
  tokenHash,
  kind,
  allows,
  revokedAt,
}: Pick<HostRow, 'id' | 'tokenHash' | 'kind' | 'allows' | 'revokedAt'>) => ({
  rowId: id,
  content: [tokenHash, kind, allows ?? null, revokedAt !== null],
});

export interface Offering {
  readers: readonly { id: string }[];
  controllers: readonly { id: string }[];
  pads?: readonly { id: string; name: string }[];
}
const PAD = 'pad/';
/** What a host's token was made for; of one from before that was asked what its kind has. */
export const allowedOf = ({ allows, kind }: HostRow): DeviceSort[] =>
  (allows as DeviceSort[] | null) ?? (kind === 'rig' ? [...deviceSorts] : ['pads', 'readers']);

/** What counts of what a host offers: what its token was made for, and no more. */
export function allowedFrom<T extends Offering>(host: HostRow, offered: T): T {
  const of = <K extends DeviceSort>(sort: K) => (allowedOf(host).includes(sort) ? offered[sort] : []);
  return { ...offered, readers: of('readers'), controllers: of('controllers'), pads: of('pads') };
}

export const namesOf = ({ readers, controllers, pads = [] }: Offering): string[] => [
  ...[...readers, ...controllers].map(({ id }) => id),
  ...pads.map(({ id, name }) => `${PAD}${id}/${name}`),
];
/** The devices that a host offered last, by their names; a reader that is a pad, too, once. */
export const offeredBy = (row: HostRow): string[] => {
  const devices = (row.offers as string[]).filter((offer) => !offer.startsWith(PAD));
  return [...devices, ...padsOf(row).flatMap(({ id, name }) => (devices.includes(id) ? [] : [name]))];
};
/** The pads that a host offered last. */
export const padsOf = ({ offers }: HostRow): { id: string; name: string }[] =>
  (offers as string[]).flatMap((offer) => {
    if (!offer.startsWith(PAD)) return [];
    const [id = '', ...name] = offer.slice(PAD.length).split('/');
    return [{ id, name: name.join('/') }];
  });
