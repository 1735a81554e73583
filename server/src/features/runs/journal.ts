/** The journal of a card: what is about to be done to it, written before it is done; and after it what went to and fro. */
import type { Exchange } from '@rawbits/core/host';
import type { CardStep } from '@rawbits/core/plan';
import { and, desc, eq } from 'drizzle-orm';
import type { Database } from '../../platform/database/index.ts';
import { type JobRow, tell } from '../../platform/jobs/index.ts';
import { runStepTable } from './tables.ts';

type Noted = Omit<CardStep, 'do'> & { do: string };

export class Journal {
  private n = 0;
  /** Lines of the exchange that stand with a step already. */
  private kept = 0;
  private readonly earlier = new Set<string>();

  private constructor(
    private readonly db: Database,
    private readonly job: JobRow,
    private readonly of: { runId: string; seq: number; siteId: string },
    private readonly exchange: Exchange,
  ) {}

  /** Opens the journal of a card of a run, with what earlier tries announced. */
  static async open(
    db: Database,
    job: JobRow,
    of: { runId: string; seq: number; siteId: string },
    exchange: Exchange,
  ): Promise<Journal> {
    const journal = new Journal(db, job, of, exchange);
    const steps = await db
      .select()
      .from(runStepTable)
      .where(and(eq(runStepTable.runId, of.runId), eq(runStepTable.seq, of.seq)))
      .orderBy(desc(runStepTable.n));
    journal.n = (steps[0]?.n ?? -1) + 1;
    for (const { step } of steps) journal.earlier.add(called(step as Noted));
    // What was said since it was selected belongs to this step, not to the last one of an earlier try.
    await journal.announce({ do: 'recognise', application: null });
    return journal;
  }

  /** Whether an earlier try announced a step. */
  begun = (step: CardStep): boolean => this.earlier.has(called(step));

  /** Announces a step. Throws LostJob where the run is carried on elsewhere: then nothing may be done to the card. */
  before = async (step: Noted): Promise<void> => {
    await this.keepExchange();
    await this.announce(step);
  };

  private async announce(step: Noted): Promise<void> {
    await tell(this.db, this.job);
    await this.db.insert(runStepTable).values({ ...this.of, n: this.n++, step, at: new Date() });
  }

  /** Keeps what went to and fro since the last step. */
  async keepExchange(): Promise<void> {
    const lines = this.exchange.lines.slice(this.kept);
    this.kept = this.exchange.lines.length;
    if (lines.length === 0) return;
    await this.db
      .update(runStepTable)
      .set({ exchange: lines })
      .where(
        and(eq(runStepTable.runId, this.of.runId), eq(runStepTable.seq, this.of.seq), eq(runStepTable.n, this.n - 1)),
      );
  }
}

const called = ({ do: what, application }: Noted): string => `${what} ${application}`;
