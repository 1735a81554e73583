/** Moving the anchors of the chains on, after a commit and whenever one was left behind. */

import { and, eq } from 'drizzle-orm';
import type { KeepingApp } from './app.ts';
import type { Anchor, HashAt } from './keeper.ts';
import { chainTable, trailTable } from './tables.ts';

const hashAt =
  (app: KeepingApp, chain: string): HashAt =>
  async (seq) => {
    const [row] = await app.db
      .select({ hash: trailTable.hash })
      .from(trailTable)
      .where(and(eq(trailTable.chain, chain), eq(trailTable.seq, seq)));
    return row?.hash;
  };

/**
 * Notes a new head. The change has been committed: that its note fails (a full disk) must not make it look undone. The
 * anchor then stays behind, and the next note, or the next round of `catchUp`, moves it on.
 */
export async function noteHead(app: KeepingApp, chain: string, from: Anchor, to: Anchor): Promise<void> {
  try {
    await app.trail.advance(chain, from, to, hashAt(app, chain));
  } catch (error) {
    app.log.error({ err: error, chain, seq: to.seq }, 'the head of the trail could not be noted; it is tried again');
  }
}

/** Notes the chains that another server has begun, and moves every anchor that was left behind to its chain's head. */
export async function catchUp(app: KeepingApp): Promise<void> {
  const chains = await app.db.select().from(chainTable);
  app.trail.meet(chains.map(({ id, trailSeq, trailHead }) => ({ chain: id, seq: trailSeq, hash: trailHead })));
  for (const { id, trailSeq, trailHead } of chains) {
    const anchor = app.trail.anchorOf(id);
    if (!anchor || anchor.seq >= trailSeq) continue;
    // An entry that is not the noted one any more keeps its note: it is the only sign that others were cut off there.
    if ((await hashAt(app, id)(anchor.seq)) === anchor.hash)
      await noteHead(app, id, anchor, { seq: trailSeq, hash: trailHead });
  }
}
