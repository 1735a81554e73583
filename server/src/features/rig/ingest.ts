/**
 * Taking in the rig's log: every presentation becomes a read, and an event where a controller decided. The cursor is
 * moved in the same transaction, so each entry is taken in once, by whichever server comes first, and what happened
 * while no server ran is taken in later.
 */

import { type Decision, formatKey } from '@rawbits/core/access';
import { Bits } from '@rawbits/core/bits';
import { formatSchema } from '@rawbits/core/format';
import { and, eq } from 'drizzle-orm';
import type { RigClient, RigLogEntry } from '../../devices/client.ts';
import type { Queryable } from '../../platform/database/index.ts';
import type { App } from '../../platform/http/app.ts';
import { change, HOUSE, type Record } from '../../platform/trail/change.ts';
import { controllerItemTable, controllerTable, decideAsWanted, eventTable, readerTable } from '../doors/index.ts';
import { noteEvidence } from '../library/index.ts';
import { describeRead, readTable } from '../reads/index.ts';
import { siteTable } from '../sites/index.ts';
import { rigCursorTable } from './tables.ts';

export interface Ingested {
  readId: string;
  eventId: string | null;
  outcome: 'opened' | 'refused' | 'read';
  reason: string;
}

const RIG = { id: 'rig', name: 'rig' };
const WAIT_MS = 20_000;

export class RigIngest {
  private running = true;
  private epoch = '';

  constructor(
    private readonly app: App,
    private readonly rig: RigClient,
  ) {}

  /** Follows the log until stopped. */
  async follow(): Promise<void> {
    while (this.running) {
      try {
        await this.drain(WAIT_MS);
      } catch (error) {
        if (!this.running) return;
        this.app.log.debug({ message: (error as Error).message }, 'the rig’s log could not be followed');
        await new Promise((resolve) => setTimeout(resolve, 1000).unref());
      }
    }
  }

  stop(): void {
    this.running = false;
  }

  /** Takes in what there is until an entry has come, and says what became of it. */
  async upTo(id: string): Promise<Ingested | undefined> {
    for (let i = 0; i < 6; i++) {
      await this.drain(0);
      const found = await this.find(id);
      if (found) return found;
      await new Promise((resolve) => setTimeout(resolve, 40 * (i + 1)));
    }
    return undefined;
  }

  private async find(id: string): Promise<Ingested | undefined> {
    const ids = idsOf(id);
    const [row] = await this.app.db
      .select({ read: readTable, event: eventTable })
      .from(readTable)
      .leftJoin(eventTable, eq(eventTable.id, ids.event))
      .where(eq(readTable.id, ids.read));
    if (!row) return undefined;
    const { read, event } = row;
    if (!event) return { readId: read.id, eventId: null, outcome: 'read', reason: `${read.length} bits read.` };
    return {
      readId: read.id,
      eventId: event.id,
      outcome: event.outcome as Ingested['outcome'],
      reason: event.advice ?? event.reason,
    };
  }

  private async drain(waitMs: number): Promise<void> {
    const { seq, entry } = await this.cursor();
    const { epoch, site, entries } = await this.rig.log(this.epoch, seq, entry, waitMs);
    if (epoch !== this.epoch) {
      this.epoch = epoch;
      await this.app.db.insert(rigCursorTable).ignore().values({ epoch, seq: 0 });
      if (site === null) await this.claim();
      return;
    }
    for (const taken of entries) await this.takeIn(taken, site);
  }

  /** A rig from before rigs belonged to a site is given to the one site that has one. */
  private async claim(): Promise<void> {
    const having = await this.app.db.select({ id: siteTable.id }).from(siteTable).where(eq(siteTable.hasRig, true));
    if (having.length === 1) await this.rig.claim(having[0]!.id).catch(() => {});
  }

  private async cursor(): Promise<{ seq: number; entry: string }> {
    const [row] = await this.app.db.select().from(rigCursorTable).where(eq(rigCursorTable.epoch, this.epoch));
    return row ?? { seq: 0, entry: '' };
  }

  private async takeIn(entry: RigLogEntry, site: string | null): Promise<void> {
    const [reader] =
      site === null
        ? []
        : await this.app.db
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
      const known = await tx.$count(readTable, eq(readTable.id, ids.read));
      if (reader && known === 0) await keep(tx, record, reader, entry, ids);
    });
  }
}

/** Made from the entry's own name, so that every server finds them again and none takes it in twice. */
const idsOf = (entry: string) => ({ read: `r-${entry}`, event: `e-${entry}` });

async function keep(
  tx: Queryable,
  record: Record,
  reader: typeof readerTable.$inferSelect,
  entry: RigLogEntry,
  ids: ReturnType<typeof idsOf>,
): Promise<void> {
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
  record.announce('read', describeRead({ read, reader }));
  const { decision } = entry;
  if (!decision || reader.controllerId === null) return;
  const advice = await adviceFor(tx, reader.controllerId, bits, read.at, decision);
  await tx.insert(eventTable).values({
    id: ids.event,
    siteId: reader.siteId,
    at: read.at,
    kind: 'presented',
    controllerId: reader.controllerId,
    readerId: reader.id,
    readId: read.id,
    bits: entry.bits,
    outcome: decision.outcome,
    stoppedAt: decision.stoppedAt ?? null,
    formatId: decision.formatId ?? null,
    reason: decision.reason,
    advice,
    cardId: decision.credential?.id ?? null,
    holder: decision.credential?.holder ?? null,
  });
  record.announce('event', { id: ids.event, outcome: decision.outcome });
  if (decision.outcome === 'opened') await noteOpened(tx, reader, decision.formatId, entry.bits, ids.event);
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
  decision: Decision,
): Promise<string | null> {
  if (decision.outcome === 'opened') return null;
  const [controller] = await tx.select().from(controllerTable).where(eq(controllerTable.id, controllerId));
  if (!controller) return null;
  const afterLoad = await decideAsWanted(tx, controller, bits, at.getTime());
  if (afterLoad.outcome === 'opened')
    return `The card is on file${afterLoad.credential?.holder ? ` for ${afterLoad.credential.holder}` : ''}, but not loaded: load ${controller.name}.`;
  return afterLoad.stoppedAt === decision.stoppedAt ? null : `Once ${controller.name} is loaded: ${afterLoad.reason}`;
}
