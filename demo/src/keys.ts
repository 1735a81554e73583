/** The keys of the demo: a store that two custodians share, and what stands in it. Everything is invented. */
import {
  keyApi,
  keyHoldingApi,
  keyRequestApi,
  keyStoreApi,
  keyUseApi,
  type NewKey,
  systemIdentifierApi,
} from '@rawbits/api';
import { checkValueOf, keyOf } from '@rawbits/core/key';
import { Client } from './client.ts';
import { OPERATORS } from './skerryPoint.ts';

export const PASSPHRASE = 'kelp under the third winch';

export const CUSTODIANS = OPERATORS.filter(({ roles }) => (roles as readonly string[]).includes('key custodian'));

const SUPPLIER_KEY = '7A1D3C55E0924FB68C13D7205BE94A6F';
const SETS = [
  { name: 'Staff cards', notes: 'The smart cards that also keep the dive log and the loans of the gear store' },
  { name: 'Boat shed line', notes: 'Readers on the OSDP line of the boat shed' },
  { name: 'Visitors’ wristbands', notes: 'Sector cards, to be replaced' },
] as const;

type Entry = Omit<NewKey, 'setId'> & { set: (typeof SETS)[number]['name'] };
const made = { how: 'made' } as const;
const KEYS: Entry[] = [
  {
    set: 'Staff cards',
    name: 'Card master',
    kind: 'aes128',
    purpose: 'card master',
    comes: { how: 'components', parts: 2 },
  },
  {
    set: 'Staff cards',
    name: 'Door number',
    kind: 'aes128',
    purpose: 'read',
    allows: { toReaders: true },
    comes: made,
  },
  { set: 'Staff cards', name: 'Dive log, write', kind: 'aes128', purpose: 'write', comes: made },
  { set: 'Staff cards', name: 'Access master', kind: 'aes128', purpose: 'application master', comes: made },
  { set: 'Staff cards', name: 'Dive office', kind: 'aes128', purpose: 'application master', comes: made },
  { set: 'Staff cards', name: 'Gear store', kind: 'aes128', purpose: 'application master', comes: made },
  {
    set: 'Staff cards',
    name: 'Harbour office',
    kind: 'aes128',
    purpose: 'wrap',
    notes: 'Opens the hand-back grant on each card: the harbour frees cards that are left there',
    comes: made,
  },
  {
    set: 'Staff cards',
    name: 'Canteen',
    kind: 'tdes2',
    purpose: 'application master',
    notes: 'The canteen’s till writes its own balance',
    comes: made,
  },
  { set: 'Boat shed line', name: 'Base key', kind: 'osdp', purpose: 'secure channel', comes: made },
  {
    set: 'Visitors’ wristbands',
    name: 'Sector 1, key A',
    kind: 'sector',
    purpose: 'sector',
    notes: 'As the supplier sent it; the cipher of these is broken',
    comes: { how: 'typed', hex: 'A7C31E5D90B2', check: checkValueOf('sector', keyOf('sector', 'A7C31E5D90B2')) },
  },
  {
    set: 'Visitors’ wristbands',
    name: 'Supplier’s transport key',
    kind: 'aes128',
    purpose: 'other',
    comes: { how: 'typed', hex: SUPPLIER_KEY, check: checkValueOf('aes128', keyOf('aes128', SUPPLIER_KEY)) },
  },
];

/** A custodian agrees to every new use of keys that waits and that another asked for. */
export async function agreeToUses(custodian: Client, site: string): Promise<void> {
  for (const { id, digest, notYou } of await custodian.ask(keyUseApi.requests, { site }))
    if (notYou === null) await custodian.ask(keyUseApi.agree, { site, id }, { digest });
}

/** Fills the key store as its custodians would, and leaves it open; gives the custodians. */
export async function fillKeys(
  url: string,
  site: string,
  readers: ReadonlyMap<string, string>,
): Promise<readonly [Client, Client]> {
  const [first, second] = await Promise.all(
    CUSTODIANS.map(async ({ login, password }) => {
      const client = new Client(url);
      await client.signIn(login, password);
      return client;
    }),
  );
  if (!first || !second) throw new Error('the demo has fewer than two custodians');
  await first.ask(keyStoreApi.make, { site }, { passphrase: PASSPHRASE });
  const sets = new Map<string, string>();
  for (const set of SETS) sets.set(set.name, (await first.ask(keyApi.addSet, { site }, set)).id);
  const keys = new Map<string, string>();
  for (const { set, ...key } of KEYS)
    keys.set(key.name, (await first.ask(keyApi.add, { site }, { ...key, setId: sets.get(set)! })).id);
  const version = (name: string) => ({ site, id: keys.get(name)!, version: '1' });
  for (const custodian of [first, second]) await custodian.ask(keyApi.give, version('Card master'), made);
  await first.ask(keyApi.addVersion, { site, id: keys.get('Door number')! }, { version: 2, comes: made });
  await first.ask(keyApi.carriers, version('Door number'), {
    formatId: '34-16-16',
    facility: '4127',
    from: '20417',
    to: '20418',
  });
  await first.ask(keyApi.use, { ...version('Door number'), version: '2' });
  const has = (name: string, more: object) =>
    first.ask(keyHoldingApi.add, { site }, { keyId: keys.get(name)!, version: 1, ...more } as never);
  const [boatShed] = [...readers].filter(([device]) => device.startsWith('boat-shed')).map(([, id]) => id);
  await has('Base key', { kind: 'reader', reader: boatShed });
  await has('Door number', { kind: 'reader', reader: boatShed });
  await has('Canteen', { kind: 'partner', partner: 'Canteen till' });
  await first.ask(systemIdentifierApi.add, { site }, { name: 'Skerry Point', bytes: '534B59', notes: 'SKY in ASCII' });
  const dive = { kind: 'uncover', keyId: keys.get('Dive log, write')!, version: 1 } as const;
  await second.ask(keyRequestApi.ask, { site }, { ...dive, reason: 'The dive computer’s maker has to enter it once' });
  return [first, second];
}
