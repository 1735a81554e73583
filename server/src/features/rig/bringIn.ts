/**
 * The rig for a site that begins: a controller, a door's reader, one for enrolment, and a tray of cards that were made
 * just now and are nobody's yet, so that the way from an unknown card to an open door can be gone at once.
 */
import { randomInt } from 'node:crypto';
import type { RigSetup, TrayCard } from '@rawbits/api';
import { catalogued } from '@rawbits/core/catalogue';
import { encode } from '@rawbits/core/codec';
import { and, eq, isNull } from 'drizzle-orm';
import { HostRefusal } from '../../devices/line.ts';
import { deviceHostTable, type HostRow } from '../../devices/tables.ts';
import { isDuplicate, type Queryable } from '../../platform/database/index.ts';
import type { App, Asking } from '../../platform/http/app.ts';
import { conflict } from '../../platform/problem/problem.ts';
import { change } from '../../platform/trail/change.ts';
import { addController, addReader } from '../doors/index.ts';
import { siteTable } from '../sites/index.ts';
import { away } from './away.ts';

const CONTROLLER = 'first-door';
const READERS = [
  { name: 'First door', kind: 'door', device: 'first-door-outside', controller: CONTROLLER },
  { name: 'Enrolment desk', kind: 'enrolment', device: 'enrolment-desk', controller: null },
] as const;

/** Two cards of one box and a fob of another make, with codes and numbers that nobody chose. */
function newTray(): RigSetup['cards'] {
  const facility = String(randomInt(1, 255));
  const first = randomInt(1000, 60_000);
  const short = catalogued('26-8-16')!;
  const long = catalogued('37-16-19')!;
  const longNumber = String(randomInt(100_000, 500_000));
  const card = (id: string, shape: TrayCard['shape'], printed: string, look: string, bits: string) => ({
    id,
    shape,
    printed,
    look,
    bits,
  });
  return [
    ...[first, first + 1].map((number, i) => {
      const printed = String(number).padStart(5, '0');
      const bits = encode(short, { facility, number: String(number) }).toBinary();
      return card(`card-${i + 1}`, 'card', printed, 'white', bits);
    }),
    card(
      'fob-1',
      'fob',
      longNumber,
      'grey, no name on it',
      encode(long, { facility: String(randomInt(1, 60_000)), number: longNumber }).toBinary(),
    ),
  ];
}

/** The rig that nobody has taken in, or that is this site's; throws where it is another site's, or does not answer. */
async function freeRig(app: App, siteId: string): Promise<HostRow> {
  const hosts = await app.db
    .select()
    .from(deviceHostTable)
    .where(and(eq(deviceHostTable.kind, 'rig'), isNull(deviceHostTable.revokedAt)));
  const host = hosts.find((h) => h.siteId === siteId) ?? hosts.find((h) => h.siteId === null) ?? hosts[0];
  if (!host) throw away(new HostRefusal('No rig runs beside this server.'));
  if (host.siteId !== null && host.siteId !== siteId)
    throw conflict('rig-taken', 'The rig belongs to another site of this installation.');
  return host;
}

/** Gives the rig to a site and puts it together; a rig that does not answer stays nobody's. */
async function takeAndSetUp(app: App, host: HostRow, siteId: string, setup: RigSetup): Promise<void> {
  const wasFree = host.siteId === null;
  await take(app, host, siteId);
  try {
    await app.devices.setUp(host, siteId, setup);
  } catch (error) {
    const ours = and(eq(deviceHostTable.id, host.id), eq(deviceHostTable.siteId, siteId));
    if (wasFree) await app.db.update(deviceHostTable).set({ siteId: null }).where(ours);
    throw away(error);
  }
  await app.devices.hosts.refresh(host.id);
}

/** Gives the rig to a site: of two that ask at once, one gets it. */
async function take(app: App, host: HostRow, siteId: string): Promise<void> {
  if (host.siteId === siteId) return;
  const [taken] = await app.db
    .update(deviceHostTable)
    .set({ siteId })
    .where(and(eq(deviceHostTable.id, host.id), isNull(deviceHostTable.siteId)));
  if (taken.affectedRows === 0) throw conflict('rig-taken', 'The rig belongs to another site of this installation.');
  host.siteId = siteId;
}

/** Puts the rig of a site together, taking it in where it is nobody's; no card, reader or controller is put on file. */
export async function setUpRig(app: App, operator: Asking, siteId: string, setup: RigSetup): Promise<void> {
  const host = await freeRig(app, siteId);
  await takeAndSetUp(app, host, siteId, setup);
  await change(app, operator, siteId, async (tx, record) => {
    await tx.update(siteTable).set({ hasRig: true }).where(eq(siteTable.id, siteId));
    const { cards, readers, controllers } = setup;
    record.trail({
      action: 'rig set up',
      subject: 'the rig',
      after: { cards: cards.length, readers: readers.length, controllers: controllers.length },
    });
    record.announce('controllers');
  });
}

/** Gives the rig to a site and puts its devices on file. Throws where it is another site's, or does not answer. */
export async function bringIn(app: App, operator: Asking, siteId: string): Promise<void> {
  const [site] = await app.db.select().from(siteTable).where(eq(siteTable.id, siteId));
  if (site?.hasRig) throw conflict('rig-here', 'The rig is at this site already.');
  const host = await freeRig(app, siteId);
  const setup: RigSetup = {
    cards: newTray(),
    readers: READERS.map(({ device, controller }) => ({
      id: device,
      controller,
      pulseWidthUs: 50,
      pulseSpacingUs: 1000,
    })),
    controllers: [{ id: CONTROLLER }],
  };
  await takeAndSetUp(app, host, siteId, setup);
  try {
    await change(app, operator, siteId, async (tx, record) => {
      await keepDevices(tx, siteId);
      record.trail({
        action: 'rig brought in',
        subject: `controller ${CONTROLLER}`,
        after: { readers: setup.readers.map(({ id, controller }) => ({ id, controller })) },
      });
      record.announce('controllers');
    });
  } catch (error) {
    if (!isDuplicate(error)) throw error;
    throw conflict('device-taken', `A device called "${CONTROLLER}" is on file here already.`);
  }
}

async function keepDevices(tx: Queryable, siteId: string): Promise<void> {
  const controllerId = await addController(tx, siteId, {
    name: 'First door',
    device: CONTROLLER,
    comparesFacility: true,
  });
  for (const { controller, ...reader } of READERS)
    await addReader(tx, siteId, { ...reader, controllerId: controller === null ? null : controllerId });
  await tx.update(siteTable).set({ hasRig: true }).where(eq(siteTable.id, siteId));
}
