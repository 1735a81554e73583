/** Loads the demo site through the published API, as people would have done it. */
import {
  accessApi,
  approvalApi,
  type Body,
  badgeApi,
  boxApi,
  cardApi,
  cardholderApi,
  caseApi,
  doorApi,
  facilityCodeApi,
  formatApi,
  keyStoreApi,
  operatorApi,
  type Params,
  planApi,
  rigApi,
  sessionApi,
  siteApi,
} from '@rawbits/api';
import { ALWAYS } from '@rawbits/core/access/schedule';
import { ASSERTION, GEAR_STORE, GROUPS, HOLIDAYS, RULES, SCHEDULES } from './access.ts';
import { Client } from './client.ts';
import { agreeToUses, fillKeys, PASSPHRASE } from './keys.ts';
import { markOfTheStation } from './mark.ts';
import { STAFF_CARD, WORKBOAT_FOB } from './plan.ts';
import {
  BOXES,
  CARDHOLDERS,
  CARDS,
  CASE,
  CONTROLLERS,
  FACILITY_CODES,
  FORMATS,
  LATE_CARD,
  OPERATORS,
  PRESENTATIONS,
  READERS,
  SECOND_SITE,
  SITE,
  TRAY,
} from './skerryPoint.ts';

export interface DemoTarget {
  url: string;
  setupToken: string;
}

export const demoSignIns = OPERATORS.map(({ login, password, roles }) => ({
  login,
  password,
  role: roles.join(' and '),
}));

/** What opens the key store of the demo. */
export const demoPassphrase = PASSPHRASE;

/** Loads the demo; false, and nothing done, when the database has operators already. */
export async function loadDemo(target: DemoTarget): Promise<boolean> {
  const [administrator, ...others] = OPERATORS;
  const client = new Client(target.url);
  let siteId: string;
  try {
    const { login, name, password } = administrator;
    const made = await client.ask(
      sessionApi.setup,
      {},
      { token: target.setupToken, login, name, password, site: SITE },
    );
    siteId = made.siteId;
  } catch (error) {
    if ((error as { code?: string }).code === 'already-set-up') return false;
    throw error;
  }
  await client.signIn(administrator.login, administrator.password);
  await client.ask(siteApi.add, {}, SECOND_SITE);
  // The administrators first: it takes a second one for a key custodian.
  const inOrder = [...others].sort((a, b) => seniority(b.roles) - seniority(a.roles));
  for (const operator of inOrder) await addOperator(target.url, client, siteId, operator);
  const technician = new Client(target.url);
  await technician.signIn(OPERATORS[1].login, OPERATORS[1].password);
  await setUpRig(technician, siteId);
  const readers = await fillSite(technician, siteId);
  const [first, second] = await fillKeys(target.url, siteId, readers);
  for (const [plan, notes] of [
    [STAFF_CARD, 'As the heads of the departments agreed on it'],
    [WORKBOAT_FOB, 'Floats, and the reader at the slip hears it through a glove'],
  ] as const)
    await technician.ask(planApi.add, { site: siteId }, { plan, notes });
  await agreeToUses(second, siteId);
  await first.ask(keyStoreApi.lock, { site: siteId });
  return true;
}

const seniority = (roles: readonly string[]): number => (roles.includes('administrator') ? 1 : 0);

/** Adds an operator with a first password and changes it as they would have to. */
async function addOperator(
  url: string,
  client: Client,
  site: string,
  { login, name, roles, password }: (typeof OPERATORS)[number],
): Promise<void> {
  const first = `first-${password}`;
  const added = await client.ask(operatorApi.add, { site }, { login, name, roles: [...roles], password: first });
  if ('awaiting' in added) {
    const second = OPERATORS.find((other) => other !== OPERATORS[0] && seniority(other.roles) > 0)!;
    const agreeing = new Client(url);
    await agreeing.signIn(second.login, second.password);
    await agreeing.ask(approvalApi.agree, { site, id: added.awaiting.id });
  }
  const own = new Client(url);
  await own.signIn(login, first);
  await own.ask(sessionApi.changePassword, {}, { current: first, next: password });
}

/** Puts the rig together; it dials in by itself, a moment after the server is there. */
async function setUpRig(client: Client, site: string): Promise<void> {
  const setup = {
    cards: TRAY.map((card) => ({ ...card })),
    readers: READERS.map(({ device, controller }) => ({ id: device, controller })),
    controllers: CONTROLLERS.map(({ device }) => ({ id: device })),
  };
  for (let tries = 0; ; tries++) {
    try {
      await client.ask(rigApi.setUp, { site }, setup);
      return;
    } catch (error) {
      if ((error as { code?: string }).code !== 'rig-away' || tries >= 100) throw error;
      await new Promise((resolve) => setTimeout(resolve, 100));
    }
  }
}

/** Gives the readers by their devices. */
async function fillSite(client: Client, site: string): Promise<ReadonlyMap<string, string>> {
  for (const format of FORMATS) await client.ask(formatApi.adopt, { site, format });
  for (const code of FACILITY_CODES) await client.ask(facilityCodeApi.add, { site }, code);
  const holders = new Map<string, string>();
  for (const holder of CARDHOLDERS)
    holders.set(holder.name, (await client.ask(cardholderApi.add, { site }, holder)).id);
  const addCard = ({ holder, ...card }: (typeof CARDS)[number]) =>
    client.ask(cardApi.add, { site }, { ...card, holderId: holder === null ? null : holders.get(holder)! });
  for (const card of CARDS) await addCard(card);
  for (const box of BOXES) await enterBox(client, site, box);
  const controllers = new Map<string, string>();
  for (const { name, device, formats } of CONTROLLERS) {
    const { id } = await client.ask(doorApi.add, { site }, { name, device });
    controllers.set(device, id);
    await client.ask(doorApi.setFormats, { site, id }, { formats });
  }
  const readers = new Map<string, string>();
  for (const { name, kind, device, controller } of READERS) {
    const controllerId = controller === null ? null : controllers.get(controller)!;
    readers.set(device, (await client.ask(doorApi.addReader, { site }, { name, kind, device, controllerId })).id);
  }
  await fillAccess(client, site, holders, readers);
  const late = controllers.get(LOADED_LATE)!;
  for (const id of controllers.values()) if (id !== late) await loadController(client, { site, id });
  await addCard(LATE_CARD);
  await loadController(client, { site, id: late });
  await client.ask(caseApi.add, { site }, CASE);
  for (const [card, reader] of PRESENTATIONS)
    await client.ask(rigApi.present, { site }, { card, reader: readers.get(reader)! });
  return readers;
}

/** The controller that has the last card, too. */
const LOADED_LATE = 'gear-store';

/** Who may pass the gear store: its door asks for groups, which let their people through by schedules. */
async function fillAccess(
  client: Client,
  site: string,
  holders: ReadonlyMap<string, string>,
  readers: ReadonlyMap<string, string>,
): Promise<void> {
  const save = async (change: Body<typeof accessApi.save>['change']): Promise<string> => {
    const { seen } = await client.ask(accessApi.review, { site }, { change });
    return (await client.ask(accessApi.save, { site }, { change, seen })).id!;
  };
  await client.ask(cardholderApi.setRules, { site }, RULES);
  await client.ask(badgeApi.setMark, { site }, { organisation: '', data: markOfTheStation() });
  await save({ kind: 'holidays', holidays: HOLIDAYS });
  const schedules = new Map([[ALWAYS.name, ALWAYS.id]]);
  for (const schedule of SCHEDULES)
    schedules.set(schedule.name, await save({ kind: 'schedule', id: null, ...schedule }));
  const outside = readers.get(GEAR_STORE.in)!;
  const { doors } = await client.ask(accessApi.all, { site });
  const door = doors.find((one) => one.readers.some(({ id }) => id === outside))!.id;
  await save({
    kind: 'door',
    id: door,
    name: GEAR_STORE.name,
    byGroups: true,
    readers: (['in', 'out'] as const).map((way) => ({ id: readers.get(GEAR_STORE[way])!, way })),
  });
  const groups = new Map<string, string>();
  for (const { name, by, people } of GROUPS) {
    const rights = by.map(({ schedule, ways }) => ({
      doors: [{ door, ways: [...ways] }],
      schedule: schedules.get(schedule)!,
    }));
    const group = await save({ kind: 'group', id: null, name, rights });
    groups.set(name, group);
    const change = {
      kind: 'members' as const,
      add: [group],
      remove: [],
      holders: people.map((person) => holders.get(person)!),
    };
    const { seen } = await client.ask(accessApi.review, { site }, { change });
    await client.ask(accessApi.saveMembers, { site }, { change, seen });
  }
  const { but, ...assertion } = ASSERTION;
  await client.ask(
    accessApi.assert,
    { site },
    { id: null, ...assertion, but: but.map((name) => groups.get(name)!), doors: [door] },
  );
}

/** Enters a box as it is reviewed, without the cards that are on file. */
async function enterBox(client: Client, site: string, box: (typeof BOXES)[number]): Promise<void> {
  const { seen } = await client.ask(boxApi.review, { site }, box);
  const { id } = await client.ask(boxApi.enter, { site }, { ...box, seen, leaveOut: true });
  for (let i = 0; i < 1200; i++) {
    const { state, message } = await client.ask(boxApi.work, { site, id });
    if (state === 'done') return;
    if (state === 'failed') throw new Error(message);
    await new Promise((resolve) => setTimeout(resolve, 50));
  }
  throw new Error(`the box ${box.name} was not entered in time`);
}

async function loadController(client: Client, controller: Params<typeof doorApi.load>): Promise<void> {
  await client.ask(doorApi.load, controller);
  for (let i = 0; i < 1200; i++) {
    const { load } = await client.ask(doorApi.one, controller);
    if (load?.state === 'done') return;
    if (load?.state === 'failed') throw new Error(load.message);
    await new Promise((resolve) => setTimeout(resolve, 50));
  }
  throw new Error(`the controller ${controller.id} was not loaded in time`);
}
