/**
 * Verifies a chain: every entry against the key and against the one before it, the last against the anchor outside the
 * database. It goes on past what is wrong and lists all of it. All is read as of one moment, so that what others write
 * meanwhile is no finding.
 */

import type { TrailFinding, TrailVerification } from '@rawbits/api';
import { and, asc, count, eq, gt, inArray, isNull, max } from 'drizzle-orm';
import { z } from 'zod';
import { inSnapshot, type Queryable } from '../database/index.ts';
import { measuredJson } from '../shape/shape.ts';
import type { TrailApp } from './app.ts';
import type { Anchor, ChainedEntry, TrailKeeper } from './keeper.ts';
import { chainTable, trailTable } from './tables.ts';

const PAGE = 500;
/** Findings kept and told; counted beyond that. */
const MOST_FINDINGS = 1000;
export const SETTLED = 'break in the record settled';

/** What is wrong; `proof` names this very damage, so that further damage at the same place is another finding. */
type Found = Omit<TrailFinding, 'settled'> & { proof: string };
const settledSchema = z.object({ reason: z.string(), findings: z.array(z.string()).max(MOST_FINDINGS) });
interface Settlement {
  by: string;
  at: string;
  reason: string;
}

type Row = ChainedEntry & { hash: string };

class Walk {
  entries = 0;
  last: Anchor = { seq: 0, hash: '' };
  readonly found: Found[] = [];
  count = 0;
  readonly settlements = new Map<string, Settlement>();
  private anchorSeen = false;
  private lastWasBad = false;

  private readonly anchor: Anchor | undefined;

  /** The anchor is read first: what it names was committed before the moment that is read. */
  constructor(
    private readonly keeper: TrailKeeper,
    private readonly chain: string,
  ) {
    this.anchor = keeper.anchorOf(chain);
  }

  report(seq: number, kind: Found['kind'], message: string, proof: string): void {
    if (++this.count <= MOST_FINDINGS) this.found.push({ seq, kind, message, proof: `${kind} ${seq} ${proof}` });
  }

  take({ hash, ...entry }: Row): void {
    this.entries++;
    if (entry.seq !== this.last.seq + 1) this.reportMissing(this.last.seq + 1, entry.seq - 1);
    const own = this.ownHash(entry, hash);
    if (own !== hash) this.report(entry.seq, 'changed', `Entry ${entry.seq} was changed after it was written.`, own);
    else if (entry.seq === this.last.seq + 1 && entry.previous !== this.last.hash && !this.lastWasBad)
      this.report(
        entry.seq,
        'does not follow',
        `Entry ${entry.seq} does not follow the one before it, which was put in its place.`,
        this.last.hash,
      );
    else if (this.isWritten(entry, own)) this.readSettlement(entry);
    this.lastWasBad = own !== hash;
    if (this.anchor?.seq === entry.seq) {
      this.anchorSeen = true;
      if (this.anchor.hash !== hash)
        this.report(
          entry.seq,
          'not the noted one',
          `Entry ${entry.seq} is not the one that was noted outside the database: entries were cut off there and others written.`,
          this.anchor.hash,
        );
    }
    this.last = { seq: entry.seq, hash };
  }

  /** Its hash as it should be: an entry from before entries were keyed when they are written has it as it was then. */
  private ownHash(entry: ChainedEntry, hash: string): string {
    const former = entry.mac === '' ? this.keeper.formerHashOf(entry) : undefined;
    return former === hash ? former : this.keeper.hashOf(entry);
  }

  /** What was changed, or put in, before it was sealed does not agree with the keyed hash that it was written with. */
  private isWritten(entry: ChainedEntry, own: string): boolean {
    if (entry.mac === '' && own === this.keeper.formerHashOf(entry)) return true;
    const mac = this.keeper.macOf(entry);
    if (mac === entry.mac) return true;
    this.report(entry.seq, 'changed', `Entry ${entry.seq} is not as it was written: it was changed at once.`, mac);
    return false;
  }

  /** An entry whose name another one has was not written by anybody. */
  reportCopies(copies: readonly { name: string; seq: number }[]): void {
    for (const { name, seq } of copies) this.report(seq, 'changed', `Entry ${seq} is a copy of another one.`, name);
  }

  private reportMissing(from: number, to: number): void {
    const which = from === to ? `Entry ${from} is` : `Entries ${from} to ${to} are`;
    this.report(from, 'missing', `${which} missing.`, String(to));
    if (this.anchor && this.anchor.seq >= from && this.anchor.seq <= to) this.anchorSeen = true;
  }

  private readSettlement(entry: ChainedEntry): void {
    if (entry.action !== SETTLED) return;
    const settled = settledSchema.safeParse(measuredJson(entry.after, MOST_FINDINGS + 1));
    if (!settled.success) return;
    const { reason, findings } = settled.data;
    for (const proof of findings)
      this.settlements.set(proof, { by: entry.operator, at: entry.at.toISOString(), reason });
  }

  /** Entries that were there before the chain was sealed, and are not in it all the same. */
  reportUnsealed(count: number, first: string): void {
    const which = count === 1 ? 'An entry is' : `${count} entries are`;
    this.report(
      this.last.seq + 1,
      'not sealed',
      `${which} not sealed into the record: nothing would show a change of them.`,
      first,
    );
  }

  /** `head` is what the chain's own row says of its end; undefined where that row is gone. */
  end(head: Anchor | undefined): void {
    const { last, anchor } = this;
    if (!head)
      this.report(
        last.seq,
        'head lost',
        `The row of the record that tells where it ends is gone: nothing is sealed since entry ${last.seq}.`,
        last.hash,
      );
    else if (head.seq < last.seq || (head.seq === last.seq && head.hash !== last.hash))
      this.report(
        last.seq,
        'head changed',
        `The record says that it ends at entry ${head.seq}, and it ends at entry ${last.seq}: its row was changed.`,
        `${head.seq} ${head.hash}`,
      );
    const headSeq = head?.seq ?? 0;
    const until = Math.max(headSeq, anchor && !this.anchorSeen ? anchor.seq : 0);
    if (until > last.seq) {
      const which = until === last.seq + 1 ? `Entry ${until} was` : `Entries ${last.seq + 1} to ${until} were`;
      this.report(last.seq + 1, 'cut off', `${which} cut off.`, `${until} ${anchor?.hash ?? ''}`);
    }
    if (!anchor && last.seq > 0 && this.keeper.knows(this.chain))
      this.report(
        last.seq,
        'note lost',
        'The note of the record’s head outside the database is missing or damaged: whether entries were cut off cannot be told.',
        '',
      );
  }
}

/** The later of two entries of one name, which the table forbids as long as nobody has changed the table. */
const copiesIn = (tx: Queryable, chain: string): Promise<{ name: string; seq: number }[]> =>
  tx
    .select({ name: trailTable.name, seq: max(trailTable.seq).mapWith(Number) })
    .from(trailTable)
    .where(eq(trailTable.chain, chain))
    .groupBy(trailTable.name)
    .having(gt(count(), 1))
    .limit(MOST_FINDINGS) as Promise<{ name: string; seq: number }[]>;

/** The names of entries that are not sealed; of some, where they are given. */
async function unsealedIn(db: Queryable, chain: string, of?: readonly string[]): Promise<string[]> {
  if (of?.length === 0) return [];
  const rows = await db
    .select({ name: trailTable.name })
    .from(trailTable)
    .where(and(eq(trailTable.chain, chain), isNull(trailTable.seq), of && inArray(trailTable.name, [...of])))
    .orderBy(asc(trailTable.name))
    .limit(MOST_FINDINGS);
  return rows.map(({ name }) => name);
}

const SEAL_TRIES = 8;
const SEAL_AGAIN_MS = 300;

/** Seals what has been committed up to now, which is to be looked at, too; again where another server was first at it. */
async function seal(app: TrailApp, chain: string, names: readonly string[]): Promise<void> {
  for (let tries = 1; ; tries++) {
    await app.sealer.now(chain);
    if (tries === SEAL_TRIES || (await unsealedIn(app.db, chain, names)).length === 0) return;
    await new Promise((resolve) => setTimeout(resolve, SEAL_AGAIN_MS));
  }
}

async function walkChain(app: TrailApp, chain: string): Promise<Walk> {
  const before = await unsealedIn(app.db, chain);
  await seal(app, chain, before);
  const walk = new Walk(app.trail, chain);
  await inSnapshot(app.db, async (tx) => {
    for (let after = 0; ; ) {
      const page = await tx
        .select()
        .from(trailTable)
        .where(and(eq(trailTable.chain, chain), gt(trailTable.seq, after)))
        .orderBy(asc(trailTable.seq))
        .limit(PAGE);
      for (const row of page) walk.take(row as Row);
      if (page.length < PAGE) break;
      after = page.at(-1)!.seq!;
      await new Promise<void>((resolve) => setImmediate(resolve));
    }
    walk.reportCopies(await copiesIn(tx, chain));
    const left = await unsealedIn(tx, chain, before);
    if (left[0] !== undefined) walk.reportUnsealed(left.length, left[0]);
    const [row] = await tx.select().from(chainTable).where(eq(chainTable.id, chain));
    walk.end(row && { seq: row.trailSeq, hash: row.trailHead });
  });
  return walk;
}

export interface Verified {
  verification: TrailVerification;
  /** The proofs of the findings that nobody has settled. */
  unsettled: string[];
}

/** Takes as long as the chain is: go through `app.verifier`, which keeps it from holding others up. */
export async function verifyChain(app: TrailApp, chain: string): Promise<Verified> {
  const walk = await walkChain(app, chain);
  const findings = walk.found.map(({ proof, ...finding }) => ({
    proof,
    finding: { ...finding, settled: walk.settlements.get(proof) ?? null },
  }));
  const open = findings.filter(({ finding }) => !finding.settled);
  const beyond = walk.count - walk.found.length;
  const intact = open.length === 0 && beyond === 0;
  const settled = findings.length - open.length;
  return {
    unsettled: open.map(({ proof }) => proof),
    verification: {
      intact,
      entries: walk.entries,
      brokenAt: open[0]?.finding.seq ?? null,
      message: sentence(
        walk.entries,
        open.map(({ finding }) => finding.message),
        beyond,
        settled,
      ),
      findings: findings.map(({ finding }) => finding),
      more: beyond,
    },
  };
}

function sentence(entries: number, open: string[], beyond: number, settled: number): string {
  const rest = open.length - 1 + beyond;
  if (open.length > 0) return rest > 0 ? `${open[0]} And ${rest} more.` : open[0]!;
  const all = `All ${entries} entries are as they were written`;
  if (settled === 0) return `${all}.`;
  return `${all}, but for ${settled} ${settled === 1 ? 'break' : 'breaks'} that an administrator has settled.`;
}
