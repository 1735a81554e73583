/** A station with seven people of every role, blank cards, what was said to a card, and a backup of the keys. */
import { exchangeApi, type KeptExchange, keyApi, keyBackupApi, keyRequestApi, rigApi } from '@rawbits/api';
import type { Person } from './harness.ts';
import { BLANKS, openStation, type Station, uidOf } from './station.ts';

/** Halves of the passphrase of the backup. */
export const HALVES = { first: 'herring rope lantern slate', second: 'osprey tide barrel copper' };

export const isCustodian = (name: string) => name.includes('custodian') || name.includes('holds keys');
/** Who may write plans, start runs and set readers up. */
export const encodes = (name: string) => name.includes('technician') || name === 'administrator';

export interface KeyPeople {
  station: Station;
  /** By what they are. */
  people: ReadonlyMap<string, Person>;
  /** Of the keys. */
  setId: string;
  /** What was said to a card that was encoded as everybody has agreed to. */
  kept: KeptExchange;
  backup: string;
}

/** `blanks` is how many blank cards, `own-0` and on, there are. */
export async function openKeyPeople(blanks: number): Promise<KeyPeople> {
  const station = await openStation();
  const { custodian, site } = station;
  const people = await peopleOf(station);
  const { setId } = (await custodian.ask(keyApi.list, { site }))[0]!.keys[0]!;
  await layOut(station, blanks);
  const kept = await keptExchange(station);
  return { station, people, setId, kept, backup: await backedUp(station, people.get('another custodian')!) };
}

async function peopleOf({ house, custodian, site }: Station): Promise<Map<string, Person>> {
  const { administrator } = house;
  const second = await house.person('ivar', 'key custodian');
  const both = await house.person('bo', 'key custodian');
  const { operator } = await both.do('GET', '/session');
  await administrator.do('PATCH', `/sites/${site}/operators/${operator.id}`, {
    roles: { [site]: ['technician', 'key custodian'] },
  });
  const [asked] = await administrator.do('GET', `/sites/${site}/approvals`);
  if (asked) await second.do('POST', `/sites/${site}/approvals/${asked.id}/agree`);
  return new Map([
    ['administrator', administrator],
    ['custodian', custodian],
    ['another custodian', second],
    ['viewer', await house.person('vera', 'viewer')],
    ['technician', await house.person('tora', 'technician')],
    ['another technician', await house.person('tom', 'technician')],
    ['technician who holds keys', both],
  ]);
}

async function layOut({ house, site }: Station, blanks: number): Promise<void> {
  const ids = [...Array.from({ length: blanks }, (_, n) => `own-${n}`), BLANKS[0]!];
  await house.administrator.ask(
    rigApi.setUp,
    { site },
    {
      cards: ids.map((id, n) => ({
        id,
        shape: 'card' as const,
        printed: '',
        look: 'blank',
        chip: { kind: 'files' as const, uid: uidOf(n) },
      })),
      readers: [{ id: 'pad', controller: null }],
      controllers: [{ id: 'shed' }],
    },
  );
}

async function keptExchange(station: Station): Promise<KeptExchange> {
  const run = await station.start({ cards: { from: 'list', cards: station.cards.slice(0, 1) } });
  await station.lay(BLANKS[0]!);
  await station.until(run.id, ({ state, pads }) => state === 'done' && pads.length === 0);
  await station.lay();
  return station.house.administrator.ask(exchangeApi.one, { site: station.site, id: run.id, seq: '1' });
}

async function backedUp({ custodian, site }: Station, second: Person): Promise<string> {
  const asking = { kind: 'backup', reason: 'for the safe', part: HALVES.first } as const;
  const { id } = await custodian.ask(keyRequestApi.ask, { site }, asking);
  await second.ask(keyRequestApi.agree, { site, id }, { part: HALVES.second });
  const [made] = await custodian.ask(keyBackupApi.list, { site });
  return (await custodian.ask(keyBackupApi.file, { site, id: made!.id })).jwe;
}
