/** A house with a key store, a plan of a staff card, cards in stock and blanks in the tray: what tests of plans and runs stand on. */
import {
  type ChipPlan,
  cardApi,
  cardholderApi,
  chipPlanSchema,
  facilityCodeApi,
  keyApi,
  keyStoreApi,
  keyUseApi,
  type NewRun,
  padApi,
  planApi,
  type Run,
  rigApi,
  runApi,
} from '@rawbits/api';
import { eventually, furnish, type House, openHouse, type Person } from './harness.ts';

export const PASSPHRASE = 'kelp under the third winch';

/** Blanks of the tray, and cards that a run refuses. */
export const BLANKS = Array.from({ length: 8 }, (_, i) => `blank-${i}`);
/** The UID of a blank. */
export const uidOf = (n: number) => `04A1B2C3D4E5${n.toString(16).toUpperCase().padStart(2, '0')}`;

export const STAFF_CARD = {
  schema: 'rawbits/plan@1',
  kind: 'files',
  name: 'Staff card',
  card: { key: 'Card master' },
  keys: [
    { name: 'Card master', each: 'card' },
    { name: 'Door number', each: 'card', system: '5350' },
    { name: 'Harbour', each: 'card' },
  ],
  applications: [
    {
      id: '5A0001',
      keys: ['Card master', 'Door number'],
      files: [
        {
          kind: 'standard',
          number: 1,
          size: 32,
          rights: { read: 1, write: 'never', both: 'never', change: 0 },
          fields: [
            { name: 'string', length: 4, content: { is: 'bits' } },
            { name: 'holder', length: 20, content: { is: 'text', of: 'holder' } },
          ],
        },
        {
          kind: 'standard',
          number: 2,
          size: 24,
          mode: 'plain',
          rights: { read: 'free', write: 'never', both: 'never', change: 0 },
          fields: [{ name: 'hand-back', length: 24, content: { is: 'wrapped', key: 'Card master', under: 'Harbour' } }],
        },
      ],
    },
  ],
  assertions: [{ claim: 'only', keys: ['Card master'], can: 'write file 1 of 5A0001' }],
} as const;

export const staffCard = (more: object = {}): ChipPlan => chipPlanSchema.parse({ ...STAFF_CARD, ...more });

/** A custodian agrees to every new use of keys that they may; gives how many. */
export async function agreeToUses(custodian: Person, site: string): Promise<number> {
  const waiting = (await custodian.ask(keyUseApi.requests, { site })).filter(({ notYou }) => notYou === null);
  for (const { id, digest } of waiting) await custodian.ask(keyUseApi.agree, { site, id }, { digest });
  return waiting.length;
}

export interface Station {
  house: House;
  site: string;
  custodian: Person;
  planId: string;
  /** In stock, with holders, in the order of their numbers. */
  cards: string[];
  keys: Map<string, string>;
  pad(): Promise<string>;
  lay(...cards: string[]): Promise<void>;
  /** Does something that uses keys, with the custodian agreeing to whatever new use of them it takes. */
  agreed<T>(work: () => Promise<T>): Promise<T>;
  start(run: Partial<NewRun>): Promise<Run>;
  /** Waits until a run is as wanted, taking a step before each look. */
  until(id: string, wanted: (run: Run) => boolean, step?: () => Promise<unknown>): Promise<Run>;
  close(): Promise<void>;
}

export async function openStation(): Promise<Station> {
  const house = await openHouse();
  const { administrator, site } = house;
  await furnish(house);
  const look = { shape: 'card', printed: '', look: 'blank' } as const;
  await administrator.ask(
    rigApi.setUp,
    { site },
    {
      cards: [
        ...BLANKS.map((id, i) => ({ id, ...look, chip: { kind: 'files' as const, uid: uidOf(i) } })),
        { id: 'band', ...look, chip: { kind: 'sectors' as const, uid: 'B7910E5C' } },
        { id: 'tag', ...look, chip: { kind: 'blank tag' as const, trace: 'E015A1B2C3D4E5F6' } },
      ],
      readers: [
        { id: 'door', controller: 'shed' },
        { id: 'pad', controller: null },
      ],
      controllers: [{ id: 'shed' }],
    },
  );
  const custodian = await house.person('iris', 'key custodian');
  await custodian.ask(keyStoreApi.make, { site }, { passphrase: PASSPHRASE });
  const { id: setId } = await custodian.ask(keyApi.addSet, { site }, { name: 'Staff cards' });
  const keys = new Map<string, string>();
  for (const name of ['Card master', 'Door number', 'Harbour']) {
    const allows = { asItIs: true, toReaders: name === 'Door number' };
    const key = { setId, name, kind: 'aes128', purpose: 'read', allows, comes: { how: 'made' } } as const;
    keys.set(name, (await custodian.ask(keyApi.add, { site }, key)).id);
  }
  await administrator.ask(
    facilityCodeApi.add,
    { site },
    { code: '41', name: 'Staff', reserved: [{ from: '200', to: '999', forEncoding: true }] },
  );
  const holder = await administrator.ask(cardholderApi.add, { site }, { name: 'Åse Vik', department: 'Boats' });
  const cards: string[] = [];
  for (const number of ['201', '202', '203', '204', '205']) {
    const card = { formatId: '26-8-16', facility: '41', number, holderId: holder.id, state: 'issued' } as const;
    cards.push((await administrator.ask(cardApi.add, { site }, card)).id);
  }
  const planId = (await administrator.ask(planApi.add, { site }, { plan: staffCard() })).id;
  await agreeToUses(custodian, site);
  const pad = async () => (await administrator.ask(runApi.pads, { site }))[0]!.id;
  const one = (id: string) => administrator.ask(runApi.one, { site, id });
  const agreed = async <T>(work: () => Promise<T>): Promise<T> => {
    await agreeToUses(custodian, site);
    try {
      return await work();
    } catch (error) {
      if (!String(error).includes('key-use-waits')) throw error;
      await agreeToUses(custodian, site);
      return work();
    }
  };
  return {
    house,
    site,
    custodian,
    planId,
    cards,
    keys,
    pad,
    lay: async (...laid) => void (await administrator.ask(padApi.lay, { site }, { cards: laid })),
    agreed,
    start: (run) =>
      agreed(async () =>
        administrator.ask(
          runApi.start,
          { site },
          {
            kind: 'encode',
            planId,
            pads: [await pad()],
            ...(run.kind ? {} : { cards: { from: 'list', cards } }),
            ...run,
          },
        ),
      ),
    until: (id, wanted, step) => eventually(() => one(id), wanted, step),
    close: () => house.close(),
  };
}
