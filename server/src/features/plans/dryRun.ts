/** What a changed plan would mean: for the cards of each version, told on one simulated card a version; for readers, on what they read. */
import { randomBytes } from 'node:crypto';
import type { ChipPlan, PlanChangeShown } from '@rawbits/api';
import { differencesOf, planChange } from '@rawbits/core/plan';
import type { App } from '../../platform/http/app.ts';
import { currentVersions } from '../keys/index.ts';
import { fromOf, namesIn } from './carried.ts';
import { findPlan, planIn, versionsOfPlan } from './describe.ts';

const draw = (count: number) => new Uint8Array(randomBytes(count));

export async function changeOf(app: App, site: string, id: string, next: ChipPlan): Promise<PlanChangeShown> {
  const { db } = app;
  const plan = await findPlan(db, site, id);
  const versions = await versionsOfPlan(db, id);
  const current = planIn(versions.find(({ version }) => version === plan.current)!);
  const cards: PlanChangeShown['cards'] = [];
  for (const row of versions) {
    if (row.cards === 0 && row.version !== plan.current) continue;
    const was = planIn(row);
    const change =
      was.kind === 'files' && next.kind === 'files'
        ? await planChange(was, next, draw)
        : {
            steps: [],
            keys: [],
            refused: was.kind === next.kind ? undefined : 'It is a plan of another kind of card.',
          };
    const { steps, keys, refused = null } = change;
    cards.push({ version: row.version, cards: row.cards, steps, keys, refused });
  }
  const there = await currentVersions(
    db,
    site,
    namesIn(next).map((name) => ({ name, from: fromOf(next, name) })),
  );
  return {
    cards,
    differences: differencesOf(current, next),
    missing: [...there].flatMap(([name, version]) => (version === null ? [name] : [])),
    readers: [],
  };
}
