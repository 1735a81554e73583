/**
 * The rig for a site that begins: a controller, a door's reader, one for enrolment, and a tray of cards that were made
 * just now and are nobody's yet, so that the way from an unknown card to an open door can be gone at once.
 */
import { randomInt } from 'node:crypto';
import type { TrayCard } from '@rawbits/api';
import { catalogued } from '@rawbits/core/catalogue';
import { encode } from '@rawbits/core/codec';
import { eq } from 'drizzle-orm';
import { RigRefusal, type RigSetup } from '../../devices/client.ts';
import { isDuplicate, newId, type Queryable } from '../../platform/database/index.ts';
import type { App, Asking } from '../../platform/http/app.ts';
import { conflict, HttpProblem } from '../../platform/problem/problem.ts';
import { change } from '../../platform/trail/change.ts';
import { addController, readerTable } from '../doors/index.ts';
import { siteTable } from '../sites/index.ts';

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

/** Gives the rig to a site and puts its devices on file. Throws where it is another site's, or does not answer. */
export async function bringIn(app: App, operator: Asking, siteId: string): Promise<void> {
  const { rig } = app;
  const away = (message: string) => new HttpProblem(503, { code: 'rig-away', message });
  if (!rig) throw away('No rig runs beside this server.');
  const devices = await rig.controllers();
  if (!devices) throw away('The rig does not answer.');
  if (devices.site !== null && devices.site !== siteId)
    throw conflict('rig-taken', 'The rig belongs to another site of this installation.');
  const [site] = await app.db.select().from(siteTable).where(eq(siteTable.id, siteId));
  if (site?.hasRig) throw conflict('rig-here', 'The rig is at this site already.');
  const setup: RigSetup = {
    site: siteId,
    cards: newTray(),
    readers: READERS.map(({ device, controller }) => ({ id: device, controller })),
    controllers: [{ id: CONTROLLER }],
  };
  try {
    // Of two sites that ask at once, the rig gives itself to one.
    await rig.claim(siteId);
    await rig.setUp(setup);
  } catch (error) {
    throw error instanceof RigRefusal ? away(error.message) : error;
  }
  try {
    await change(app, operator, siteId, async (tx, record) => {
      await keepDevices(tx, siteId);
      record.trail({
        action: 'rig brought in',
        subject: `controller ${CONTROLLER}`,
        after: { readers: setup.readers },
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
    await tx.insert(readerTable).values({
      id: newId(),
      siteId,
      ...reader,
      controllerId: controller === null ? null : controllerId,
    });
  await tx.update(siteTable).set({ hasRig: true }).where(eq(siteTable.id, siteId));
}
