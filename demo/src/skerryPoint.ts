/**
 * Skerry Point Marine Station: an invented research station on an island. It has grown over thirty years: proximity
 * cards of two suppliers, fobs, an unlabelled box of longer cards that came with the boat shed, and new smart cards.
 * All people, numbers and codes are invented.
 */
import type { Body, boxApi, cardApi, Role } from '@rawbits/api';
import { Bits } from '@rawbits/core/bits';
import { catalogued } from '@rawbits/core/catalogue';
import { encode } from '@rawbits/core/codec';

export const SITE = {
  name: 'Skerry Point Marine Station',
  shortName: 'Skerry Point',
  timeZone: 'Europe/Oslo',
  hasRig: true,
};
export const SECOND_SITE = { name: 'Gull Holm Ferry Landing', shortName: 'Gull Holm', timeZone: 'Europe/Oslo' };

export const OPERATORS = [
  { login: 'sunniva', name: 'Sunniva Brekke', roles: ['administrator'], password: 'lantern-over-skerry' },
  { login: 'tormod', name: 'Tormod Vik', roles: ['technician'], password: 'two-wires-idle-high' },
  { login: 'aslaug', name: 'Aslaug Rein', roles: ['technician', 'key custodian'], password: 'half-a-key-is-none' },
  { login: 'petter', name: 'Petter Sund', roles: ['viewer'], password: 'just-looking-thanks' },
  { login: 'eirik', name: 'Eirik Tangen', roles: ['key custodian'], password: 'other-half-of-a-key' },
  { login: 'gro', name: 'Gro Lunde', roles: ['administrator'], password: 'north-mark-light' },
] as const satisfies { login: string; name: string; roles: Role[]; password: string }[];

export const FORMATS = ['26-8-16', '34-16-16'];
export const FACILITY_CODES = [
  {
    formatId: '26-8-16',
    code: '58',
    name: 'First supplier, since 1996',
    notes: 'Main building, wet labs, cold store',
    reserved: [
      { from: '10981', to: '10999', note: 'the lighthouse, once it has a door' },
      { from: '30000', to: '30999', note: 'smart cards of the staff', forEncoding: true },
    ],
  },
  { formatId: '34-16-16', code: '4127', name: 'Second supplier, since 2011', notes: 'Bought with the dive-gear store' },
];

export const CARDHOLDERS = [
  { name: 'Ragna Holm', department: 'Wet labs', kind: 'staff', organisation: 'Skerry Point' },
  { name: 'Isak Fjelde', department: 'Dive-gear store', kind: 'staff', organisation: 'Skerry Point' },
  { name: 'Oline Strand', department: 'Boat shed', kind: 'staff', organisation: 'Skerry Point' },
  { name: 'Mikkel Aune', department: 'Cold store', kind: 'staff', organisation: 'Skerry Point' },
  { name: 'Hedda Lyng', department: 'Visiting scientists', kind: 'visitor', organisation: 'Institute of Cold Waters' },
  { name: 'Bård Nes', department: 'Fuel dock', kind: 'contractor', organisation: 'Nes & Daughters, fuel' },
];

/** A card to be entered, its holder by name. */
type NewCard = Omit<Body<typeof cardApi.add>, 'holderId' | 'facility'> & { facility: string; holder: string | null };

/** Cards on file when the demo begins; `in stock` ones open nothing. */
export const CARDS: NewCard[] = [
  { formatId: '26-8-16', facility: '58', number: '10233', printed: '10233', state: 'active', holder: 'Ragna Holm' },
  {
    formatId: '26-8-16',
    facility: '58',
    number: '10871',
    printed: '058 10871',
    state: 'active',
    holder: 'Mikkel Aune',
  },
  { formatId: '34-16-16', facility: '4127', number: '20417', printed: '20417', state: 'active', holder: 'Isak Fjelde' },
  { formatId: '26-8-16', facility: '58', number: '640', printed: '00640', state: 'suspended', holder: 'Bård Nes' },
];

/** Boxes as their labels have them, entered before and after those cards: what is on file already is left out. */
export const BOXES: Body<typeof boxApi.review>[] = [
  {
    name: 'White cards, spring order',
    formatId: '26-8-16',
    facility: '58',
    first: '10901',
    last: '10950',
    notes: 'Fifty, shrink-wrapped; one corner of the carton was wet',
  },
  {
    name: 'Grey fobs, last of the first supplier',
    formatId: '26-8-16',
    facility: '58',
    first: '10861',
    last: '10885',
    notes: 'On floats. 10871 went out before there was a list',
  },
  {
    name: 'Blue stripe, the rest of the carton',
    formatId: '34-16-16',
    facility: '4127',
    first: '20419',
    last: '20440',
    print: { kind: 'number' },
    notes: '',
  },
  {
    name: 'Divers’ visitors, kept back',
    formatId: '34-16-16',
    facility: '4127',
    first: '20451',
    last: '20470',
    print: { kind: 'run', first: '001', order: 'up' },
    state: 'suspended',
    notes: 'Printed 001 to 020; used in the course weeks only',
  },
];

/** Issued after the controllers were loaded, so that something is waiting. */
export const LATE_CARD: NewCard = {
  formatId: '34-16-16',
  facility: '4127',
  number: '20418',
  printed: '20418',
  state: 'active',
  holder: 'Hedda Lyng',
};

export const CONTROLLERS = [
  { name: 'Main building', device: 'main-building', formats: ['26-8-16', '34-16-16'] },
  { name: 'Boat shed', device: 'boat-shed', formats: ['26-8-16'] },
  { name: 'Gear store', device: 'gear-store', formats: ['26-8-16', '34-16-16'] },
];
export const READERS = [
  { name: 'Desk pad', kind: 'enrolment', device: 'desk-pad', controller: null },
  { name: 'Main entrance', kind: 'door', device: 'main-entrance', controller: 'main-building' },
  { name: 'Boat shed, outside', kind: 'door', device: 'boat-shed-outside', controller: 'boat-shed' },
  { name: 'Gear store, outside', kind: 'door', device: 'gear-store-outside', controller: 'gear-store' },
  { name: 'Gear store, inside', kind: 'door', device: 'gear-store-inside', controller: 'gear-store' },
] as const;

const bitsOf = (format: string, values: Record<string, string>): string =>
  encode(catalogued(format)!, values).toBinary();
/** A 26-bit card whose last bit was lost when somebody copied it: its trailing parity fails. */
const badCopy = Bits.fromBinary(bitsOf('26-8-16', { facility: '58', number: '10233' }));

/** The tray: what each card shows in the hand, and the bits that it sends. */
export const TRAY = [
  {
    id: 'ragna',
    shape: 'card',
    printed: '10233',
    look: 'white, scuffed, a sticker "wet labs"',
    chip: { kind: 'carrier', bits: bitsOf('26-8-16', { facility: '58', number: '10233' }) },
  },
  {
    id: 'mikkel-fob',
    shape: 'fob',
    printed: '058 10871',
    look: 'grey fob on a float',
    // 58 and 10871 in its low 24 bits.
    chip: { kind: 'tag', data: '06003A2A77' },
  },
  {
    id: 'isak',
    shape: 'card',
    printed: '20417',
    look: 'blue stripe, second supplier',
    bits: bitsOf('34-16-16', { facility: '4127', number: '20417' }),
  },
  {
    id: 'hedda',
    shape: 'card',
    printed: '20418',
    look: 'blue stripe, second supplier',
    bits: bitsOf('34-16-16', { facility: '4127', number: '20418' }),
  },
  {
    id: 'stock-10902',
    shape: 'card',
    printed: '10902',
    look: 'white, new, from the box',
    bits: bitsOf('26-8-16', { facility: '58', number: '10902' }),
  },
  {
    id: 'bard',
    shape: 'fingerprint card',
    printed: '00640',
    look: 'fingerprint window, works under the enrolled finger',
    bits: bitsOf('26-8-16', { facility: '58', number: '640' }),
  },
  {
    id: 'unlabelled-1',
    shape: 'card',
    printed: '118406',
    look: 'no name on it, from the boat shed’s box',
    bits: bitsOf('37-16-19', { facility: '2214', number: '118406' }),
  },
  {
    id: 'unlabelled-2',
    shape: 'card',
    printed: '118931',
    look: 'no name on it, from the boat shed’s box',
    bits: bitsOf('37-16-19', { facility: '2214', number: '118931' }),
  },
  {
    id: 'unlabelled-3',
    shape: 'card',
    printed: '131502',
    look: 'no name on it, from the boat shed’s box',
    bits: bitsOf('37-16-19', { facility: '2214', number: '131502' }),
  },
  ...['40961', '40962', '40964', '40967', '106503', '106500'].map((number, i) => ({
    id: `fuel-${i + 1}`,
    shape: 'fob' as const,
    printed: number,
    look: 'green fob from the fuel dock’s tin, no label',
    bits: bitsOf('34-0-32', { number }),
  })),
  {
    id: 'dive-band',
    shape: 'wristband',
    printed: '5C 0E 91 B7',
    look: 'dive-gear wristband, UID printed inside',
    // Printed as the desk reader types it, bytes reversed.
    chip: { kind: 'sectors', size: '1K', uid: 'B7910E5C' },
  },
  {
    id: 'smart-staff',
    shape: 'card',
    printed: '04 63 1D 92 A8 70 80',
    look: 'new smart card, UID on the back',
    chip: { kind: 'files', generation: 2, masterKey: 'aes128', uid: '04631D92A87080' },
  },
  {
    id: 'smart-blank',
    shape: 'card',
    printed: '04 63 1D 92 A8 70 81',
    look: 'blank smart card, still in its film',
    chip: { kind: 'files', generation: 2, masterKey: 'aes128', uid: '04631D92A87081' },
  },
  ...['82', '83', '84', '85'].map((last, i) => ({
    id: `smart-blank-${i + 2}`,
    shape: 'card' as const,
    printed: `04 63 1D 92 A8 70 ${last}`,
    look: 'blank smart card, still in its film',
    chip: { kind: 'files' as const, generation: 2 as const, masterKey: 'aes128' as const, uid: `04631D92A870${last}` },
  })),
  {
    id: 'slow-fob',
    shape: 'fob',
    printed: '058 10880',
    look: 'grey fob; no reader here has ever seen it',
    // Set up to send twice as fast as the readers listen.
    chip: { kind: 'tag', data: '06003A2A80', rate: 32 },
  },
  ...['5E', '5F'].map((last, i) => ({
    id: `blank-fob-${i + 1}`,
    shape: 'fob' as const,
    printed: '',
    look: 'new yellow fob for the boat keys, rewritable',
    chip: { kind: 'blank tag' as const, trace: `E0157A20C41B09${last}` },
  })),
  {
    id: 'bad-copy',
    shape: 'fob',
    printed: '',
    look: 'cheap blue fob, nothing printed; "it used to work"',
    bits: Bits.build(26, (p) => (badCopy.at(p) === 1) !== (p === 26)).toBinary(),
  },
] as const;

/** A case under way when the demo begins: five cards of the boat shed's box, read at the desk. */
export const CASE = {
  name: 'The boat shed’s unlabelled box',
  specimens: ['118406', '118931', '131502', '118407', '118410', '118438', '118439', '118411'].map((number) => ({
    bits: bitsOf('37-16-19', { facility: '2214', number }),
    printed: number,
    source: 'Desk pad',
  })),
  questions: { predict: ['118442', '118422', '700000'], range: { from: '118400', to: '118599' } },
};

/** What happened before today: each card held to a reader, in this order. */
export const PRESENTATIONS = [
  ['isak', 'gear-store-outside'],
  ['ragna', 'main-entrance'],
  ['isak', 'main-entrance'],
  ['bad-copy', 'main-entrance'],
  ['bard', 'boat-shed-outside'],
  ['mikkel-fob', 'boat-shed-outside'],
] as const;
