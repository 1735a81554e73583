/** A site with cards, for tests of what is drawn of them: a million on file, two holders, formats in use. */
import {
  type Card,
  cardApi,
  cardholderApi,
  type FacilityCode,
  facilityCodeApi,
  formatApi,
  type SiteFormat,
  translationApi,
} from '@rawbits/api';
import { catalogued } from '@rawbits/core/catalogue';
import { type Format, printLayoutLine } from '@rawbits/core/format';
import { SITE, StandIn } from './page.tsx';

export const FORMAT = catalogued('26-8-16')!;
export const inUse = (format: Format = FORMAT): SiteFormat => ({
  format,
  layout: printLayoutLine(format),
  version: 1,
  createdAt: '2026-01-01T00:00:00.000Z',
  createdBy: 'Ylva Holm',
  reason: 'new',
  newest: 1,
  retiredAt: null,
  provenOn: 0,
  adopted: true,
});
/** A code with a name, and numbers that are kept for somebody. */
export const CODE: FacilityCode = {
  id: 'f1',
  formatId: null,
  code: '58',
  name: 'Main stock',
  notes: '',
  orderedBy: '',
  orderedFrom: null,
  reserved: [{ from: '100', to: '199', note: 'divers', forEncoding: false }],
  revision: 1,
};
export const card = (number: number, more: Partial<Card> = {}): Card => ({
  id: `c${number}`,
  formatId: FORMAT.id,
  facility: '58',
  number: String(number),
  printed: '',
  state: 'in stock',
  holder: null,
  box: null,
  validFrom: null,
  validTo: null,
  notes: '',
  revision: 1,
  bits: null,
  groups: [],
  opens: { doors: [], asOther: [], unknownAt: [] },
  loaded: { in: 0, of: 1 },
  ...more,
});

/** `sameBits`: the cards on file that deliver the bits which are asked for. */
export const stockServer = (formats: readonly Format[] = [FORMAT], sameBits: () => Card[] = () => []): StandIn =>
  new StandIn()
    .on(formatApi.ofSite, { site: SITE }, () => formats.map(inUse))
    .on(facilityCodeApi.list, { site: SITE }, () => [])
    .on(translationApi.list, { site: SITE }, () => [])
    .on(cardholderApi.list, { site: SITE }, (_body, query) => {
      const people = ['Oline Strand', 'Peder Moe'].map((name, i) => ({
        id: `h${i}`,
        name,
        department: '',
        organisation: '',
        kind: '',
        cards: 0,
      }));
      const search = query.get('search')?.toLowerCase() ?? '';
      const found = people.filter(({ name }) => name.toLowerCase().startsWith(search));
      return { cardholders: found, next: search === '' ? 'more' : null };
    })
    .on(cardApi.list, { site: SITE }, (_body, query) => {
      if (query.has('bits')) return { cards: sameBits(), foundBy: [], total: 0, more: false, next: null };
      const from = Number(query.get('after') ?? 0);
      const cards = Array.from({ length: Number(query.get('limit') ?? 200) }, (_, i) => card(from + i));
      return { cards, foundBy: [], total: 1_000_000, more: false, next: String(from + 200) };
    });
