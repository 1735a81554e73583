/** Everything that was said to a chip, as a file, and played again on a simulated card with the keys of the store. */
import type { ChipPlan, KeptExchange, PlayedAgain, RunStep } from '@rawbits/api';
import { bytesOf } from '@rawbits/core/cipher';
import { type ExchangeLine, explainedLine } from '@rawbits/core/host';
import { blanksOf } from '@rawbits/core/plan';
import { type KeptStep, replay } from '@rawbits/core/replay';
import { and, asc, eq, lte } from 'drizzle-orm';
import type { App } from '../../platform/http/app.ts';
import { conflict, invalid, notFound } from '../../platform/problem/problem.ts';
import { materialOf, type PlanAt } from '../keys/index.ts';
import { plansAt, planTable } from '../plans/index.ts';
import { findRun } from './describe.ts';
import { knownOf } from './known.ts';
import { ringFor } from './ring.ts';
import { runCardTable, runStepTable, runTable } from './tables.ts';

/** Up to a run: what came after is another card's story, or goes on still. */
export async function keptExchange(app: App, site: string, runId: string, seq: number): Promise<KeptExchange> {
  const run = await findRun(app, site, runId);
  const own = and(eq(runCardTable.runId, run.id), eq(runCardTable.seq, seq));
  const [card] = await app.db.select().from(runCardTable).where(own);
  if (!card) throw notFound('card of the run');
  if (card.uid === null) throw conflict('no-card-yet', 'No card has come for this number yet.', 'Lay one on a pad.');
  const rows = await app.db
    .select({ run: runTable, plan: planTable, step: runStepTable })
    .from(runCardTable)
    .innerJoin(runTable, eq(runTable.id, runCardTable.runId))
    .innerJoin(planTable, eq(planTable.id, runTable.planId))
    .innerJoin(runStepTable, and(eq(runStepTable.runId, runCardTable.runId), eq(runStepTable.seq, runCardTable.seq)))
    .where(and(eq(runCardTable.siteId, site), eq(runCardTable.uid, card.uid), lte(runTable.startedAt, run.startedAt)))
    .orderBy(asc(runStepTable.at), asc(runStepTable.n));
  const known = card.cardId === null ? undefined : (await knownOf(app.db, site, [card.cardId])).get(card.cardId);
  const runs = new Map<string, KeptExchange['runs'][number]>();
  for (const { run: of, plan, step } of rows) {
    const { id, kind, version } = of;
    const entry = runs.get(id) ?? {
      run: id,
      kind: kind as KeptExchange['runs'][number]['kind'],
      plan: { id: plan.id, name: plan.name, version, kind: plan.kind as ChipPlan['kind'] },
      steps: [],
    };
    entry.steps.push(stepIn(step));
    runs.set(id, entry);
  }
  return { schema: 'rawbits/exchange@2', card: known?.called ?? card.uid, uid: card.uid, runs: [...runs.values()] };
}

export const stepIn = ({ n, step, at, exchange }: typeof runStepTable.$inferSelect): RunStep => ({
  n,
  step: step as RunStep['step'],
  at: at.toISOString(),
  exchange: exchange as RunStep['exchange'],
});

/** More than any card was ever asked. */
const MOST_COMMANDS = 20_000;
const letOthersIn = () => new Promise<void>((resolve) => setImmediate(resolve));

/** What the simulated card says is told in words alone: its bytes would answer a reader in its place. */
export async function playAgain(app: App, site: string, kept: KeptExchange): Promise<PlayedAgain> {
  const all = await plansOf(app, site, kept);
  const plans = all.map(({ plan }) => plan);
  const uid = bytesOf(kept.uid, 'uid');
  const files = plans.flatMap((plan) => (plan.kind === 'files' ? [plan] : []));
  const ofFiles = all.filter(({ plan }) => plan.kind === 'files');
  const ring = ringFor(await materialOf(app, site, ofFiles, { to: 'simulated card' }), files, uid);
  const flat = kept.runs.flatMap(({ steps }, run) => steps.map((step) => ({ run, step })));
  const steps = flat.map(({ step }): KeptStep => ({ starts: step.step.do === 'recognise', lines: step.exchange }));
  const commands = steps.reduce((sum, { lines }) => sum + (lines?.length ?? 0), 0);
  if (commands > MOST_COMMANDS)
    throw invalid('runs', `There are ${commands} commands in it; ${MOST_COMMANDS} are played at most.`);
  const { played, unseen, differs, gap } = await replay(blanksOf(plans, uid, ring), steps, letOthersIn);
  const placeOf = (i: number) => ({ run: flat[i]!.run, step: flat[i]!.step.n });
  return {
    played,
    unseen,
    differs: differs
      ? {
          ...placeOf(differs.step),
          line: differs.line + 1,
          ...inWords(steps[differs.step]!.lines![differs.line]!, differs.came),
        }
      : null,
    gap: gap === undefined ? null : placeOf(gap),
  };
}

function inWords(line: ExchangeLine, came: string): { command: string; kept: string; came: string } {
  const { asked, told } = explainedLine(line);
  const isHex = /^([0-9A-F]{2})*$/.test(came) && !line.command.startsWith('tag');
  const now = isHex ? explainedLine({ ...line, answer: came }).told.name : came;
  return { command: asked.name, kept: told.name, came: now === told.name ? 'other bytes' : now };
}

/** The plans in the versions that the runs had first, the last run's foremost; then in all others, the newest first. */
async function plansOf(app: App, site: string, { runs }: KeptExchange): Promise<PlanAt[]> {
  const named = new Map<string, number[]>();
  for (const { plan } of runs.toReversed()) named.set(plan.id, [...(named.get(plan.id) ?? []), plan.version]);
  const all: PlanAt[][] = [[], []];
  for (const [id, versions] of named) {
    for (const at of await plansAt(app, site, id)) all[versions.includes(at.version) ? 0 : 1]!.push(at);
  }
  const [had, others] = all as [PlanAt[], PlanAt[]];
  const kind = (had[0] ?? others[0])?.plan.kind;
  return [...had, ...others].filter(({ plan }) => plan.kind === kind);
}
