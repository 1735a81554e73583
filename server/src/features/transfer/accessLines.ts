/** Lines about who may pass: holidays, schedules, groups, who is in them, assertions, and how cardholders are kept. */
import type { SiteLine, SiteLineOf } from '@rawbits/api';
import { ALWAYS } from '@rawbits/core/access/schedule';
import { eq } from 'drizzle-orm';
import { cardholderTable, cardTable } from '../cards/index.ts';
import { doorTable } from '../doors/index.ts';
import { cardholderRulesTable } from '../people/index.ts';
import { accessGroupTable, assertionTable, calendarTable, groupSetOf, scheduleTable } from '../rights/index.ts';
import { savedFilterTable } from '../stock/index.ts';
import { checkAll, checkNamed, insert, moment, own, type Takes, type Taking } from './taking.ts';

/** Schedules have names of their own here, but for the one that is there by itself. */
const scheduleHere = (taking: Taking, theirs: string): string => (theirs === ALWAYS.id ? theirs : own(taking, theirs));

export const ACCESS_KINDS: { [K in SiteLine['kind']]?: Takes<K> } = {
  holidays: (tx, { siteId }, lines) =>
    insert(tx, calendarTable, lines, ({ line: { holidays } }) => ({ siteId, holidays })),
  schedule: (tx, taking, lines) =>
    insert(tx, scheduleTable, lines, ({ line: { id, name, periods, onHolidays } }) => ({
      id: own(taking, id),
      siteId: taking.siteId,
      name,
      periods,
      onHolidays,
    })),
  'access group': async (tx, taking, lines) => {
    await checkAll(
      tx,
      taking,
      doorTable,
      lines,
      ({ rights }) => rights.flatMap((r) => r.doors.map((d) => d.door)),
      'door',
    );
    const schedules = ({ rights }: SiteLineOf<'access group'>) =>
      rights.flatMap(({ schedule }) => (schedule === ALWAYS.id ? [] : [schedule]));
    await checkAll(tx, taking, scheduleTable, lines, schedules, 'schedule');
    await insert(tx, accessGroupTable, lines, ({ line: { id, name, rights } }) => ({
      id: own(taking, id),
      siteId: taking.siteId,
      name,
      rights: JSON.stringify(
        rights.map(({ doors, schedule }) => ({
          doors: doors.map(({ door, ways }) => ({ door: own(taking, door), ways })),
          schedule: scheduleHere(taking, schedule),
        })),
      ),
    }));
  },
  membership: async (tx, taking, lines) => {
    await checkAll(tx, taking, accessGroupTable, lines, ({ groups }) => groups, 'access group');
    await checkNamed(tx, taking, cardholderTable, lines, ({ holder }) => holder, 'cardholder');
    await checkNamed(tx, taking, cardTable, lines, ({ card }) => card, 'card');
    for (const { line } of lines) {
      const groups = line.groups.map((group) => own(taking, group));
      const groupSetId = await groupSetOf(tx, taking.siteId, groups);
      if (line.holder !== null)
        await tx
          .update(cardholderTable)
          .set({ groupSetId })
          .where(eq(cardholderTable.id, own(taking, line.holder)));
      if (line.card !== null)
        await tx
          .update(cardTable)
          .set({ groupSetId })
          .where(eq(cardTable.id, own(taking, line.card)));
    }
  },
  'cardholder rules': async (tx, taking, lines) => {
    await checkAll(
      tx,
      taking,
      accessGroupTable,
      lines,
      ({ brings }) => brings.flatMap(({ groups }) => groups),
      'group',
    );
    await insert(tx, cardholderRulesTable, lines, ({ line: { kind: _, brings, ...rules } }) => ({
      ...rules,
      siteId: taking.siteId,
      brings: brings.map((rule) => ({ ...rule, groups: rule.groups.map((group) => own(taking, group)) })),
    }));
  },
  'saved filter': (tx, taking, lines) =>
    insert(tx, savedFilterTable, lines, ({ line: { name, filter, savedBy, savedAt }, row }) => ({
      id: own(taking, `saved filter ${row}`),
      ...{ siteId: taking.siteId, name, savedBy, savedAt: moment(savedAt) },
      filter: {
        ...filter,
        ...(filter.box && { box: own(taking, filter.box) }),
        ...(filter.group && { group: own(taking, filter.group) }),
        ...(filter.formatId && { formatId: taking.formats.get(filter.formatId) ?? filter.formatId }),
      },
    })),
  assertion: async (tx, taking, lines) => {
    await checkAll(tx, taking, doorTable, lines, ({ doors }) => doors, 'door');
    await checkAll(tx, taking, accessGroupTable, lines, ({ but }) => but, 'access group');
    await insert(tx, assertionTable, lines, ({ line: { kind: _, ...assertion }, row }) => ({
      id: own(taking, `assertion ${row}`),
      siteId: taking.siteId,
      name: assertion.name,
      definition: JSON.stringify({
        ...assertion,
        but: assertion.but.map((group) => own(taking, group)),
        doors: assertion.doors.map((door) => own(taking, door)),
      }),
    }));
  },
};
