/** A transaction whose line is half open: nobody ends it, and what it holds is free all the same. */
import { sql } from 'drizzle-orm';
import { expect, it } from 'vitest';
import { newDatabase } from '../../testing/harness.ts';
import { connect } from './connect.ts';
import { inTransaction } from './transaction.ts';

it('a writer that has gone without a word holds a row for a moment alone', async () => {
  const url = await newDatabase();
  const gone = connect(url, { idleWriteSeconds: 1 });
  const there = connect(url);
  await there.db.execute(sql`INSERT INTO chains (id) VALUES ('row')`);
  const write = sql`UPDATE chains SET feed_seq = feed_seq + 1 WHERE id = 'row'`;
  const session = await gone.nodes.take();
  await session.query('BEGIN');
  await session.query("UPDATE chains SET trail_seq = 7 WHERE id = 'row'");
  // It says nothing more, and does not end either.
  await inTransaction(there.db, (tx) => tx.execute(write));
  const [[row]] = (await there.db.execute(sql`SELECT trail_seq, feed_seq FROM chains WHERE id = 'row'`)) as never as [
    [{ trail_seq: number; feed_seq: number }],
  ];
  expect([Number(row.trail_seq), Number(row.feed_seq)]).toEqual([0, 1]);
  session.giveUp();
  await gone.close();
  await there.close();
});
