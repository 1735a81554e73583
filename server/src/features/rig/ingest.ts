/**
 * Taking in the logs of device hosts: every presentation becomes a read, and an event where a controller decided. The
 * server that has the line follows the log. The cursor is moved in the same transaction, so each entry is taken in once,
 * and what happened while no server heard the host is taken in later.
 */

import type { LogEntry } from '@rawbits/api';
import { type Decision, formatKey } from '@rawbits/core/access';
import { Bits } from '@rawbits/core/bits';
import { formatSchema } from '@rawbits/core/format';
import { and, eq } from 'drizzle-orm';
import type { Connected } from '../../devices/hosts.ts';
import { inSnapshot, type Queryable } from '../../platform/database/index.ts';
import type { App } from '../../platform/http/app.ts';
import { change, HOUSE, type Record } from '../../platform/trail/change.ts';
import { cardTable } from '../cards/index.ts';
import { controllerItemTable, controllerTable, decideAsWanted, eventTable, readerTable } from '../doors/index.ts';
import { noteEvidence } from '../library/index.ts';
import { describeRead, fillArmed, readTable } from '../reads/index.ts';
import { rigCursorTable } from './tables.ts';

export interface Ingested {
  readId: string | null;
  eventId: string | null;
  outcome: 'opened' | 'refused' | 'read';
  reason: string;
}

const RIG = { id: 'rig', name: 'rig' };
const WAIT_MS = 20_000;
const ANSWER_MS = 5000;

/** The log of one host whose line is here. */
class Following {
  private epoch = '';
  private draining: Promise<void> = Promise.resolve();

  constructor(
    private readonly app: App,
    private readonly connected: Connected,
  ) {}

  /** Follows the log until the line ends. */
  async follow(): Promise<void> {
    let running = true;
    void this.connected.line.ended.then(() => (running = false));
    while (running) {
      try {
        await this.drain(WAIT_MS);
      } catch (error) {
        if (!running) return;
        this.app.log.debug({ message: (error as Error).message }, 'the log of a host could not be followed');
        await new Promise((resolve) => setTimeout(resolve, 1000).unref());
      }
    }
  }

  /** Takes in what there is, or what comes within a time. */
  async drain(waitMs: number): Promise<void> {
    // What belongs to no site is nobody's to see yet.
    if (this.connected.host.siteId === null)
      return void (await new Promise((resolve) => setTimeout(resolve, 200).unref()));
    const { seq, entry } = await this.cursor();
    const asked = { epoch: this.epoch, seq, entry, waitMs };
    const { epoch, entries } = await this.connected.line.call('log', asked, waitMs + ANSWER_MS);
    if (epoch !== this.epoch) {
      this.epoch = epoch;
      await this.app.db.insert(rigCursorTable).ignore().values({ epoch, seq: 0 });
      return;
    }
    for (const taken of entries) await this.takeIn(taken);
  }

  /** As `drain`, for whoever waits for an entry: one after the other. */
  now(): Promise<void> {
    const next = this.draining.then(() => this.drain(0));
    this.draining = next.catch(() => {});
    return next;
  }

  private async cursor(): Promise<{ seq: number; entry: string }> {
    const [row] = await this.app.db.select().from(rigCursorTable).where(eq(rigCursorTable.epoch, this.epoch));
    return row ?? { seq: 0, entry: '' };
  }

  /**
   * What of an entry is this host's to say: what came at a reader that it offers, and what a controller of it decided. Undefined
   * where it is about another host's reader.
   */
  private async ownOf(entry: LogEntry, site: string): Promise<LogEntry | undefined> {
    const { devices, log } = this.app;
    const { id, name } = this.connected.host;
    if (!(await devices.speaksFor(site, id, 'readers', entry.reader))) {
      log.warn({ host: name, reader: entry.reader }, 'a host wrote of a reader that another host offers');
      return undefined;
    }
    const decides = entry.controller !== null && (await this.decides(entry.controller, entry.reader, site));
    return decides ? entry : { ...entry, decision: null };
  }

  /** Whether a controller is this host's, and at the end of that reader's line. */
  private async decides(controller: string, reader: string, site: string): Promise<boolean> {
    const { host } = this.connected;
    if (!(await this.app.devices.speaksFor(site, host.id, 'controllers', controller))) return false;
    const [wired] = await this.app.db
      .select({ id: controllerTable.id })
      .from(readerTable)
      .innerJoin(controllerTable, eq(controllerTable.id, readerTable.controllerId))
      .where(and(eq(readerTable.siteId, site), eq(readerTable.device, reader), eq(controllerTable.device, controller)));
    return wired !== undefined;
  }

  private async takeIn(entry: LogEntry): Promise<void> {
    const site = this.connected.host.siteId!;
    const own = await this.ownOf(entry, site);
    const [reader] = await this.app.db
      .select()
      .from(readerTable)
      .where(and(eq(readerTable.device, entry.reader), eq(readerTable.siteId, site)));
    await change(this.app, RIG, reader?.siteId ?? HOUSE, async (tx, record) => {
      const mine = eq(rigCursorTable.epoch, this.epoch);
      const [cursor] = await tx.select().from(rigCursorTable).where(mine).for('update');
      if (!cursor || cursor.seq >= entry.seq) return;
      await tx.update(rigCursorTable).set({ seq: entry.seq, entry: entry.id }).where(mine);
      const ids = idsOf(entry.id);
      // After a new epoch the whole log comes again: what is there stays as it is.
      const known =
        (await tx.$count(readTable, eq(readTable.id, ids.read))) +
        (await tx.$count(eventTable, eq(eventTable.id, ids.event)));
      if (own && reader && known === 0) await keep(tx, record, reader, own, ids);
    });
  }
}

/** The card of a decision, and its holder as it was loaded with; what is no card of this site is nobody's. */
async function credentialOf(
  tx: Queryable,
  site: string,
  decision: Decision,
): Promise<{ cardId: string | null; holder: string | null }> {
  const { credential } = decision;
  if (!credential) return { cardId: null, holder: null };
  const [card] = await tx
    .select({ id: cardTable.id })
    .from(cardTable)
    .where(and(eq(cardTable.id, credential.id), eq(cardTable.siteId, site)));
  return card ? { cardId: card.id, holder: credential.holder } : { cardId: null, holder: null };
}

/** The logs of all hosts, as far as their lines are here. */
export class LogIngest {
  private readonly followed = new Set<Following>();

  constructor(private readonly app: () => App) {}

  /** Begins to follow the log of a host whose line is here now. */
  begin(connected: Connected): void {
    const following = new Following(this.app(), connected);
    this.followed.add(following);
    void following.follow().finally(() => this.followed.delete(following));
  }

  /** Takes in what there is until an entry has come, here or at the server that has the line; says what became of it. */
  async upTo(id: string): Promise<Ingested | undefined> {
    for (let i = 0; i < 12; i++) {
      await Promise.all([...this.followed].map((following) => following.now().catch(() => {})));
      const found = await this.find(id);
      if (found) return found;
      await new Promise((resolve) => setTimeout(resolve, 30 * (i + 1)));
    }
    return undefined;
  }

  private async find(id: string): Promise<Ingested | undefined> {
    const ids = idsOf(id);
    // As of one moment: the server that has the line commits both at once, perhaps between the two.
    const [read, event] = await inSnapshot(this.app().db, async (tx) => [
      (await tx.select().from(readTable).where(eq(readTable.id, ids.read)))[0],
      (await tx.select().from(eventTable).where(eq(eventTable.id, ids.event)))[0],
    ]);
    if (!read && !event) return undefined;
    if (!event) return { readId: read!.id, eventId: null, outcome: 'read', reason: `${read!.length} bits read.` };
    return {
      readId: read?.id ?? null,
      eventId: event.id,
      outcome: event.outcome as Ingested['outcome'],
      reason: event.advice ?? event.reason,
    };
  }
}

/** Made from the entry's own name, so that every server finds them again and none takes it in twice. */
const idsOf = (entry: string) => ({ read: `r-${entry}`, event: `e-${entry}` });

async function keep(
  tx: Queryable,
  record: Record,
  reader: typeof readerTable.$inferSelect,
  entry: LogEntry,
  ids: ReturnType<typeof idsOf>,
): Promise<void> {
  if (entry.bits === '') return keepStopped(tx, record, reader, entry, ids.event);
  const bits = Bits.fromBinary(entry.bits);
  const read = {
    id: ids.read,
    siteId: reader.siteId,
    at: new Date(entry.at),
    bits: entry.bits,
    hex: bits.toHex(),
    length: bits.length,
    source: 'reader',
    notation: null,
    readerId: reader.id,
  };
  await tx.insert(readTable).values(read);
  const { decision } = entry;
  const { controllerId } = reader;
  const decided = decision &&
    controllerId !== null && {
      at: read.at,
      outcome: decision.outcome,
      stoppedAt: decision.stoppedAt ?? null,
      reason: decision.reason,
      advice: await adviceFor(tx, controllerId, bits, read.at, reader.device, decision),
    };
  record.announce('read', describeRead({ read, reader, event: decided || null }));
  await fillArmed(tx, record, reader.id, read.id);
  if (!decision || !decided) return;
  await tx.insert(eventTable).values({
    ...decided,
    id: ids.event,
    siteId: reader.siteId,
    kind: 'presented',
    controllerId,
    readerId: reader.id,
    readId: read.id,
    bits: entry.bits,
    formatId: decision.formatId ?? null,
    ...(await credentialOf(tx, reader.siteId, decision)),
    chip: entry.chip ?? null,
  });
  record.announce('event', { id: ids.event, outcome: decision.outcome });
  if (decision.outcome === 'opened') await noteOpened(tx, reader, decision.formatId, entry.bits, ids.event);
}

/** A card that a reader did not come to the bits of: an event that says at which step, and what came in place of what. */
async function keepStopped(
  tx: Queryable,
  record: Record,
  reader: typeof readerTable.$inferSelect,
  { at, chip = [] }: LogEntry,
  id: string,
): Promise<void> {
  const last = chip.at(-1);
  const reason = last
    ? `${last.step}: the reader wanted ${last.expected ?? 'it'}; what came was ${last.came ?? 'a refusal'}.`
    : 'The reader did not take the card.';
  await tx.insert(eventTable).values({
    id,
    siteId: reader.siteId,
    at: new Date(at),
    kind: 'presented',
    controllerId: reader.controllerId,
    readerId: reader.id,
    outcome: 'refused',
    stoppedAt: 'chip',
    reason,
    chip,
  });
  record.announce('event', { id, outcome: 'refused' });
}

/** A card that opened a door proves the version of the format that was loaded into its controller. */
async function noteOpened(
  tx: Queryable,
  reader: typeof readerTable.$inferSelect,
  formatId: string | undefined,
  bits: string,
  sourceId: string,
): Promise<void> {
  if (formatId === undefined) return;
  const [row] = await tx
    .select({ content: controllerItemTable.content })
    .from(controllerItemTable)
    .where(
      and(
        eq(controllerItemTable.controllerId, reader.controllerId!),
        eq(controllerItemTable.item, formatKey(formatId)),
      ),
    );
  if (!row?.content) return;
  const layout = formatSchema.parse(JSON.parse(row.content));
  await noteEvidence(tx, { siteId: reader.siteId, formatId, layout, source: 'presented', sourceId }, [bits]);
}

/** Where a refused card would open if the controller were loaded with what it should have, that is said. */
async function adviceFor(
  tx: Queryable,
  controllerId: string,
  bits: Bits,
  at: Date,
  device: string,
  decision: Decision,
): Promise<string | null> {
  if (decision.outcome === 'opened') return null;
  const [controller] = await tx.select().from(controllerTable).where(eq(controllerTable.id, controllerId));
  if (!controller) return null;
  const afterLoad = await decideAsWanted(tx, controller, bits, at.getTime(), device);
  if (afterLoad.outcome === 'opened' && (decision.stoppedAt === 'group' || decision.stoppedAt === 'schedule'))
    return `The change that lets it pass is on file, but not loaded: load ${controller.name}.`;
  if (afterLoad.outcome === 'opened')
    return `The card is on file${afterLoad.credential?.holder ? ` for ${afterLoad.credential.holder}` : ''}, but not loaded: load ${controller.name}.`;
  return afterLoad.stoppedAt === decision.stoppedAt ? null : `Once ${controller.name} is loaded: ${afterLoad.reason}`;
}
