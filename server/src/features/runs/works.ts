/** What a run does to a card that lies on a pad, by its kind. Each tells in the end how the pad stands. */
import type { ChipPlan, PadTells, RunKind } from '@rawbits/api';
import { hexOf } from '@rawbits/core/cipher';
import { fail } from '@rawbits/core/failure';
import { type CardStep, CHIPS } from '@rawbits/core/plan';
import type { App } from '../../platform/http/app.ts';
import type { JobRow } from '../../platform/jobs/index.ts';
import { sentenceFor } from '../../platform/problem/sentence.ts';
import type { Material } from '../keys/index.ts';
import type { EncodedRow } from '../plans/index.ts';
import { type Chip, chipOn } from './chip.ts';
import { Journal } from './journal.ts';
import { type CardKnown, knownOf, NOTHING_KNOWN } from './known.ts';
import { type OnPad, onFile } from './recognise.ts';
import { carriedBy } from './ring.ts';
import type { RunCardRow, RunRow } from './tables.ts';
import { type End, finish, forgetFreed, noteComer, noteTrouble, ownOf, takeNext } from './taking.ts';

export interface Context {
  app: App;
  job: JobRow;
  run: RunRow;
  card: OnPad;
  material: Material;
  /** Every version of the plan by its number. */
  versions: ReadonlyMap<number, ChipPlan>;
  /** The plan that a chip has on file, whichever it is, with its keys; undefined where there is none any more. */
  planOf(chip: EncodedRow): Promise<{ plan: ChipPlan; material: Material } | undefined>;
}

export type Told = Pick<PadTells, 'weight' | 'says' | 'next'> & { card?: string };

const TAKE_AWAY = 'Take it away and lay the next one on.';
const problem = (says: string, next = TAKE_AWAY, card?: string): Told => ({ weight: 'problem', says, next, card });
const done = (says: string, card?: string): Told => ({ weight: 'done', says, next: TAKE_AWAY, card });

/** Works on the card that is selected. Throws what the card or the line to it refuses. */
export async function workOn(kind: RunKind, context: Context): Promise<Told> {
  const { card, versions, material, run } = context;
  const plan = versions.get(run.version);
  const chip = plan && chipOn(card, plan.kind, versions, material);
  if (!chip)
    return problem(
      `This card is of another kind: the plan is for ${plan ? CHIPS[plan.kind] : 'another'}.`,
      'Lay a blank of the right kind on.',
    );
  const uid = await chip.uid();
  if (!uid)
    return problem('This card hides its UID, and none of the keys at hand opens it.', 'It is not one of this plan.');
  const at = { ...context, chip };
  return kind === 'encode' ? encode(at, uid) : comer(kind, at, uid);
}

/** With the chip that was found to lie there. */
type At = Context & { chip: Chip };

async function encode(context: At, uid: Uint8Array): Promise<Told> {
  const { app, run } = context;
  const before = await onFile(app.db, run.siteId, uid);
  const own = await ownOf(app.db, run.id, hexOf(uid));
  if (own?.state === 'begun' && before?.runId === run.id) return finishing(context, uid, own, before);
  if (before?.state === 'given up') {
    await freed(context, uid, before);
    return encode(context, uid);
  }
  if (before) return carries(context, before, own);
  const why = await context.chip.notBlank(run.version, run.takesUsed !== 0);
  if (why !== undefined) return problem(why, 'Lay a blank on, or start a run that takes used cards, too.');
  const next = await takeNext(app, run, uid);
  const chip = next && (await onFile(app.db, run.siteId, uid));
  if (!next || !chip) return problem('No number waits for a blank any more.', 'End the run, or give up what is begun.');
  return finishing(context, uid, next, chip);
}

async function carries({ app, run }: Context, chip: EncodedRow, own: RunCardRow | undefined): Promise<Told> {
  const called = await calledOf(app, run.siteId, chip);
  if (own?.state === 'finished') return done('Done and verified.', called);
  if (chip.state === 'begun')
    return problem(`This card is begun in another run, as ${called}.`, 'Go on with that run to finish it.', called);
  return problem(
    `This card is encoded already: it is ${called}.`,
    'Lay a blank on, or take this one back in a run.',
    called,
  );
}

async function calledOf(app: App, siteId: string, { cardId, uid }: EncodedRow): Promise<string> {
  return (cardId === null ? undefined : (await knownOf(app.db, siteId, [cardId])).get(cardId)?.called) ?? uid;
}

/** Brings a card to the plan, reads everything back, and notes it as done. */
async function finishing(context: At, uid: Uint8Array, own: RunCardRow, chip: EncodedRow): Promise<Told> {
  const { app, run, chip: card, material } = context;
  const { known, called } = await knownFor(app, run.siteId, chip);
  return working(context, own, called, async (journal) => {
    const was = chip.version === run.version ? undefined : chip.version;
    const { before, begun } = journal;
    await card.bring(uid, { version: run.version, ...(was !== undefined && { was }), known, before, begun });
    const steps = await card.differs(uid, run.version, known);
    if (steps.length > 0) fail('not-as-written', `${wordsOf(steps)}, though it was just written.`);
    await journal.keepExchange();
    const action = run.kind === 'encode' ? 'card encoded' : 'card brought along';
    await finish(app, run, own, {
      state: 'finished',
      action,
      called,
      now: { version: run.version, keys: carriedBy(material, context.versions.get(run.version)!) },
      before: chip,
    });
    return done(run.kind === 'encode' ? 'Encoded and verified.' : 'Brought along and verified.', called);
  });
}

async function knownFor(app: App, siteId: string, { cardId, uid }: EncodedRow) {
  const known: CardKnown | undefined =
    cardId === null ? undefined : (await knownOf(app.db, siteId, [cardId])).get(cardId);
  const own = known ?? NOTHING_KNOWN;
  return { known: { ...own, values: { ...own.values, uid } }, called: known?.called ?? uid };
}

/** A journal around the work on a card; what is in the way is noted with it. */
async function working(
  { app, job, run, card }: Context,
  own: RunCardRow,
  called: string,
  work: (journal: Journal) => Promise<Told>,
): Promise<Told> {
  const journal = await Journal.open(app.db, job, { runId: run.id, seq: own.seq, siteId: run.siteId }, card.exchange);
  try {
    return { card: called, ...(await work(journal)) };
  } catch (error) {
    await journal.keepExchange().catch(() => {});
    await noteTrouble(app, own, sentenceFor(error)).catch(() => {});
    throw error;
  }
}

/** Frees a chip that was given up before it was finished. */
async function freed(context: At, uid: Uint8Array, chip: EncodedRow): Promise<void> {
  const had = await context.planOf(chip);
  if (had) {
    const { plan, material } = had;
    await chipOn(context.card, plan.kind, new Map([[chip.version, plan]]), material)?.free(uid, plan);
  }
  await forgetFreed(context.app, chip);
}

/** A card that comes to a run which takes what comes: it has to be one of the plan. */
async function comer(kind: Exclude<RunKind, 'encode'>, context: At, uid: Uint8Array): Promise<Told> {
  const { app, run, chip: card, material } = context;
  const chip = await onFile(app.db, run.siteId, uid);
  if (!chip || chip.planId !== run.planId) return problem('This card does not carry this plan.');
  const called = await calledOf(app, run.siteId, chip);
  const before = await ownOf(app.db, run.id, chip.uid);
  if (before && before.state !== 'begun')
    return done(before.state === 'differs' ? before.message : 'Done before.', called);
  if (chip.state !== 'whole' && !(chip.state === 'begun' && before))
    return problem(`This card is not finished: it was begun as ${called}.`, 'Finish it in its own run first.', called);
  const plan = context.versions.get(chip.version)!;
  const own = await noteComer(app, run, chip);
  if (kind === 'bring along') return finishing(context, uid, own, chip);
  const end = (how: Omit<End, 'called' | 'before'>) => finish(app, run, own, { ...how, called, before: chip });
  if (kind === 'verify')
    return working(context, own, called, async (journal) => {
      const { known } = await knownFor(app, run.siteId, chip);
      const steps = await card.differs(uid, chip.version, known);
      await journal.keepExchange();
      const message = steps.length === 0 ? '' : wordsOf(steps);
      // Verifying moves no key: it has those that it had.
      const keys = carriedBy(material, plan, chip.keys as Record<string, number>);
      const now = { version: chip.version, keys };
      await end({ state: message ? 'differs' : 'finished', message, action: 'card verified', now });
      return message
        ? problem(`It differs: ${message}.`, 'A run that brings cards along puts it right.', called)
        : done('As the plan has it, byte by byte.', called);
    });
  return working(context, own, called, async (journal) => {
    const stays =
      kind === 'hand back'
        ? await card.handBack(uid, chip.version, run.under ?? '', journal.before)
        : await card.free(uid, plan, journal.before);
    await journal.keepExchange();
    await end({
      state: 'freed',
      message: stays.join(' '),
      action: kind === 'hand back' ? 'card handed back' : 'card taken back',
      now: null,
    });
    return done(stays.length === 0 ? 'Free: it is a blank again.' : `Free. ${stays.join(' ')}`, called);
  });
}

/** Steps in words: what differs. */
export const wordsOf = (steps: readonly CardStep[]): string =>
  [
    ...new Set(
      steps.map(({ do: what, application, file, block, slot }) => {
        const of = application === null ? 'the card' : application;
        const [called, number] =
          file !== undefined ? ['file', file] : block !== undefined ? ['block', block] : ['key', slot];
        const part = number === undefined ? of : `${called} ${number} of ${of}`;
        return `${DIFFERS[what] ?? what} ${part}`;
      }),
    ),
  ].join(', ');
const DIFFERS: Partial<Record<CardStep['do'], string>> = {
  'create application': 'missing is',
  'create file': 'missing is',
  'delete file': 'too many is',
  'delete application': 'too many is',
  'write file': 'other bytes in',
  'write block': 'other bytes in',
  'set the rights of file': 'other rights of',
  'change key': 'another',
  'set the settings': 'other settings of',
  'set the configuration': 'another configuration of',
};
