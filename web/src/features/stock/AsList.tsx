/** The cards that are listed as a sheet: each from its print to what a controller compares, its holder and its state. */
import type { Card, CardFilter } from '@rawbits/api';
import { useLazyCardPageQuery } from '../../platform/endpoints/cards.ts';
import { useTranslationsQuery } from '../../platform/endpoints/translations.ts';
import { SheetButton } from '../../platform/files/SheetButton.tsx';
import { useSite } from '../../platform/site/useSite.ts';
import { dayOf, lastDayBefore } from '../../platform/words/siteDays.ts';
import { wayHead, wayOf } from './toController.ts';

const PAGE = 1000;

interface Props {
  filter: CardFilter;
  order: 'newest' | 'number';
}

export function AsList({ filter, order }: Props) {
  const { id: site, zone } = useSite();
  const { data: translations = [] } = useTranslationsQuery(site);
  const [ask] = useLazyCardPageQuery();
  const sheetOf = (cards: readonly Card[]): string[][] => [
    [...wayHead(translations), 'format', 'state', 'holder', 'box', 'valid from', 'valid through', 'notes'],
    ...cards.map((card) => [
      ...wayOf(card, translations),
      ...[card.formatId, card.state, card.holder?.name ?? '', card.box?.name ?? ''],
      ...[dayOf(card.validFrom, zone), lastDayBefore(card.validTo, zone), card.notes],
    ]),
  ];
  return (
    <SheetButton
      name="cards"
      page={async (after) => {
        const { data } = await ask({ site, ...filter, order, after, limit: PAGE });
        return data && { rows: data.cards, next: data.next };
      }}
      sheetOf={sheetOf}
    >
      These cards as a sheet
    </SheetButton>
  );
}
