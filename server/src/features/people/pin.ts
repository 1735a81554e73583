/** PINs: kept as a hash under a key that is outside the database; nothing gives one back. */
import { cardholderApi } from '@rawbits/api';
import type { Secret } from '@rawbits/core/secret';
import { and, eq, ne } from 'drizzle-orm';
import { type App, handle } from '../../platform/http/app.ts';
import { conflict, HttpProblem, invalid } from '../../platform/problem/problem.ts';
import { clientOf, tryOnce } from '../../platform/session/slowDown.ts';
import { change, type Who } from '../../platform/trail/change.ts';
import { cardTable } from '../cards/index.ts';
import { takeTurn } from '../rights/index.ts';
import { holderToChange } from './person.ts';
import { rulesOf } from './rules.ts';
import { pinTable } from './tables.ts';

const digits = (text: string): string => text.replace(/\D/g, '');

export const setPin = handle(cardholderApi.setPin, async ({ app, operator, site, params, body, request }) => {
  if (body.pin === null) return keepPin(app, operator, site, params.id!, null);
  const { pin } = body;
  // Whoever tries digits would learn which are somebody’s: what is refused for that counts, and is noted.
  const tried = { name: `PINs ${operator.id} ${site}`, client: clientOf(request) };
  const look = async (): Promise<HttpProblem | undefined> => {
    try {
      await keepPin(app, operator, site, params.id!, pin);
      return undefined;
    } catch (error) {
      if (!(error instanceof HttpProblem)) throw error;
      if (!TELLING.has(error.code)) return error;
      await change(app, operator, site, async (tx, record) => {
        const { name, id } = await holderToChange(tx, site, params.id!);
        record.trail({ action: 'PIN refused', subject: `cardholder ${name}`, after: { id } });
      });
      throw error;
    }
  };
  const problem = await tryOnce(app.db, tried, look, { what: 'PINs', forgets: false });
  if (problem) throw problem;
  return {};
});

/** Refusals that tell of a PIN whether somebody has it, or of digits that they stand on a card. */
const TELLING = new Set(['pin-taken', 'pin-on-card']);

const keepPin = (app: App, operator: Who, site: string, holderId: string, given: Secret | null) =>
  change(app, operator, site, async (tx, record) => {
    // One after another, so that no two get the same one at once.
    await takeTurn(tx, site);
    const holder = await holderToChange(tx, site, holderId);
    const own = eq(pinTable.holderId, holder.id);
    const had = (await tx.$count(pinTable, own)) > 0;
    if (given === null) await tx.delete(pinTable).where(own);
    else {
      const pin = given.reveal();
      const { pinDigits, pinsDiffer } = await rulesOf(tx, site);
      if (pin.length !== pinDigits)
        throw invalid('pin', `A PIN has ${pinDigits} digits at this site, and this one ${pin.length}.`);
      const cards = await tx
        .select({ number: cardTable.number, printed: cardTable.printed })
        .from(cardTable)
        .where(eq(cardTable.holderId, holder.id));
      if (cards.some(({ number, printed }) => [number, digits(printed)].some((text) => text.includes(pin))))
        throw conflict(
          'pin-on-card',
          'These digits stand on a card of theirs.',
          'Take others: whoever finds the card would try them.',
          'pin',
        );
      // The same under another site’s key would tell nothing; under this one, equal PINs are found.
      const hash = app.trail.keyed(`pin ${site} ${pin}`);
      const same = and(eq(pinTable.siteId, site), eq(pinTable.hash, hash), ne(pinTable.holderId, holder.id));
      if (pinsDiffer && (await tx.$count(pinTable, same)) > 0)
        throw conflict('pin-taken', 'This PIN cannot be taken.', 'Take other digits.', 'pin');
      const row = { siteId: site, hash, setAt: new Date() };
      await tx
        .insert(pinTable)
        .values({ holderId: holder.id, ...row })
        .onDuplicateKeyUpdate({ set: row });
    }
    record.trail({
      action: given === null ? 'PIN taken away' : had ? 'PIN changed' : 'PIN set',
      subject: `cardholder ${holder.name}`,
      after: { id: holder.id },
    });
    record.announce('cardholders', { ids: [holder.id] });
    return {};
  });
