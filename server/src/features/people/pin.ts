/** PINs: kept as a hash under a key that is outside the database; nothing gives one back. */
import { cardholderApi } from '@rawbits/api';
import { and, eq, ne } from 'drizzle-orm';
import { handle } from '../../platform/http/app.ts';
import { conflict, invalid } from '../../platform/problem/problem.ts';
import { change } from '../../platform/trail/change.ts';
import { cardTable } from '../cards/index.ts';
import { takeTurn } from '../rights/index.ts';
import { holderToChange } from './person.ts';
import { rulesOf } from './rules.ts';
import { pinTable } from './tables.ts';

const digits = (text: string): string => text.replace(/\D/g, '');

export const setPin = handle(cardholderApi.setPin, ({ app, operator, site, params, body }) =>
  change(app, operator, site, async (tx, record) => {
    // One after another, so that no two get the same one at once.
    await takeTurn(tx, site);
    const holder = await holderToChange(tx, site, params.id!);
    const own = eq(pinTable.holderId, holder.id);
    const had = (await tx.$count(pinTable, own)) > 0;
    if (body.pin === null) await tx.delete(pinTable).where(own);
    else {
      const pin = body.pin.reveal();
      const { pinDigits, pinsDiffer } = await rulesOf(tx, site);
      if (pin.length !== pinDigits)
        throw invalid('pin', `A PIN has ${pinDigits} digits at this site, and this one ${pin.length}.`);
      const cards = await tx
        .select({ number: cardTable.number, printed: cardTable.printed })
        .from(cardTable)
        .where(eq(cardTable.holderId, holder.id));
      if (cards.some(({ number, printed }) => [number, digits(printed)].some((text) => text.includes(pin))))
        throw invalid(
          'pin',
          'These digits stand on a card of theirs.',
          'Take others: whoever finds the card would try them.',
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
      action: body.pin === null ? 'PIN taken away' : had ? 'PIN changed' : 'PIN set',
      subject: `cardholder ${holder.name}`,
      after: { id: holder.id },
    });
    record.announce('cardholders', { ids: [holder.id] });
    return {};
  }),
);
