/** Reading a card on a pad: what it is, and what stands on it as far as the keys at hand open it, held against the plans on file. */
import type { ChipPlan, Looked } from '@rawbits/api';
import { hexOf } from '@rawbits/core/cipher';
import { RawBitsError } from '@rawbits/core/failure';
import { compareCard, type Plan, readableFields, tagNotBlank } from '@rawbits/core/plan';
import { eq } from 'drizzle-orm';
import { HostRefusal } from '../../devices/line.ts';
import type { HostRow } from '../../devices/tables.ts';
import type { App } from '../../platform/http/app.ts';
import { type Material, materialOf, type PlanAt } from '../keys/index.ts';
import { type EncodedRow, findPlan, plansAt, planTable } from '../plans/index.ts';
import { identifyOn } from '../rig/index.ts';
import { chipOn } from './chip.ts';
import { knownOf, NOTHING_KNOWN } from './known.ts';
import { allowed, blankness, OnPad, onFile, uidOf } from './recognise.ts';
import { ringFor } from './ring.ts';

const NOTHING: Looked = { found: null, problem: '', onFile: null, against: null, fields: [], isBlank: false };

export async function lookAt(app: App, site: string, pad: string | null): Promise<Looked> {
  const found = await identifyOn(app, site, pad ?? undefined);
  const kind = found.found?.kind;
  if (kind === undefined || kind === 'unknown') return { ...NOTHING, ...found };
  let card: OnPad | undefined;
  try {
    const host = await app.devices.hostOfPad(site, pad ?? undefined);
    // The host whose right to the keys is looked at is the one that is asked.
    card = await OnPad.select(app, site, pad ?? host.id);
    const own = kind === 'files' ? withKeys(app, site, card, host) : fromFile(app, site, card, kind, host);
    return { ...NOTHING, ...found, ...(await own) };
  } catch (error) {
    if (error instanceof HostRefusal || (error instanceof RawBitsError && error.code !== 'store-locked'))
      return { ...NOTHING, ...found, problem: error.message };
    throw error;
  } finally {
    await card?.disconnect();
  }
}

/** A sector card or a tag: what is on file of it, held against the plan that it follows. Of another nothing is tried. */
async function fromFile(
  app: App,
  site: string,
  card: OnPad,
  kind: 'sectors' | 'tag',
  host: HostRow,
): Promise<Partial<Looked>> {
  const record = await onFile(app.db, site, card.selected);
  if (!record) return { isBlank: kind === 'tag' && (await tagNotBlank(card.tag)) === undefined };
  const known = record.cardId ? (await knownOf(app.db, site, [record.cardId])).get(record.cardId) : undefined;
  const told = { onFile: await recordOf(app, site, record, known) };
  const { id, name } = await findPlan(app.db, site, record.planId);
  const all = await plansAt(app, site, id);
  const versions = new Map(all.map(({ version, plan }) => [version, plan]));
  const chip = chipOn(card, kind, versions, await materialOf(app, site, all, { to: 'card on a pad', host }));
  if (!chip || versions.get(record.version)?.kind !== kind) return told;
  const own = known ?? NOTHING_KNOWN;
  const uid = card.selected;
  const differs = await chip.differs(uid, record.version, {
    ...own,
    values: { ...own.values, uid: hexOf(uid) },
  });
  const plan = { id, name, version: record.version };
  return { ...told, against: { plan, differs, unread: [], others: [], keys: [] } };
}

type Candidate = PlanAt & { id: string; plan: Plan };

async function withKeys(app: App, site: string, card: OnPad, host: HostRow): Promise<Partial<Looked>> {
  const all = await candidatesOf(app, site);
  const material = await materialOf(app, site, all, { to: 'card on a pad', host });
  // A plan that gets no keys here is not tried.
  const candidates = all.filter(({ plan }) => !material.refusal(plan));
  const [refused] = candidates.length === 0 ? all.flatMap(({ plan }) => material.refusal(plan) ?? []) : [];
  const why = refused ? { problem: refused.message } : {};
  const plans: ChipPlan[] = candidates.map(({ plan }) => plan);
  const uid = await uidOf(card, plans, material);
  if (!uid) return why;
  const record = await onFile(app.db, site, uid);
  const isBlank = (await blankness(card.host))?.length === 0;
  const against = isBlank ? undefined : await planOn(card, candidates, material, uid, record);
  const known = record?.cardId ? (await knownOf(app.db, site, [record.cardId])).get(record.cardId) : undefined;
  const told = { ...(!isBlank && why), isBlank, onFile: record ? await recordOf(app, site, record, known) : null };
  if (!against) return told;
  const ring = ringFor(material, [against.plan], uid);
  const own = known ?? NOTHING_KNOWN;
  const looked = await compareCard(card.host, {
    plan: against.plan,
    ring,
    known: { ...own, values: { ...standing(against.plan), ...own.values, uid: hexOf(uid) } },
    selected: card.selected,
  });
  const { id, name, version, plan } = against;
  return {
    ...told,
    against: {
      plan: { id, name, version },
      differs: looked.steps,
      unread: looked.unread,
      others: looked.others,
      keys: looked.keys,
    },
    fields: await readableFields(card.host, plan, ring),
  };
}

/** Of a card that is not on file nothing is known: what would stand in its fields is not held against it. */
const standing = (plan: Plan): Record<string, string> =>
  Object.fromEntries(
    plan.applications.flatMap(({ files }) =>
      files.flatMap((file) =>
        'fields' in file
          ? file.fields.flatMap(({ content }) =>
              'of' in content
                ? [[content.of, content.is === 'day' ? '2000-01-01' : content.is === 'number' ? '0' : '']]
                : [],
            )
          : [],
      ),
    ),
  );

async function candidatesOf(app: App, site: string): Promise<Candidate[]> {
  const plans = await app.db.select({ id: planTable.id }).from(planTable).where(eq(planTable.siteId, site));
  const all: Candidate[] = [];
  for (const { id } of plans)
    for (const at of await plansAt(app, site, id)) if (at.plan.kind === 'files') all.push({ ...at, id, plan: at.plan });
  return all;
}

/** The plan that a card follows: the one on file, or the first whose card key opens it. */
async function planOn(
  { host }: OnPad,
  candidates: readonly Candidate[],
  material: Material,
  uid: Uint8Array,
  record: EncodedRow | undefined,
): Promise<Candidate | undefined> {
  if (record) return candidates.find(({ id, version }) => id === record.planId && version === record.version);
  for (const candidate of candidates) {
    const { card } = candidate.plan;
    if (card.key === null) continue;
    const key = ringFor(material, [candidate.plan], uid)(card.key, null);
    for (const one of key ? [key.now, ...key.before] : []) {
      await host.select();
      if (await allowed(() => host.authenticate(one.kind === 'aes128' ? 'aes' : 'iso', 0, one))) return candidate;
    }
  }
  return undefined;
}

async function recordOf(
  app: App,
  site: string,
  record: EncodedRow,
  known: { called: string; holder: string | null } | undefined,
): Promise<Looked['onFile']> {
  const { id, name, current } = await findPlan(app.db, site, record.planId);
  return {
    uid: record.uid,
    card: known?.called ?? null,
    holder: known?.holder ?? null,
    plan: { id, name, version: record.version, current },
    state: record.state as 'whole',
    keys: record.keys as Record<string, number>,
  };
}
