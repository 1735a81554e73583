/** What a change makes ambiguous: cards and reads that would say several things at once, and whose each would be. */
import type { DryRunState } from '@rawbits/api';
import { counted } from '../../platform/words/words.ts';

type Found = NonNullable<DryRunState['result']>['ambiguous'];
type Example = Found['examples'][number];

const SHOWN = 50;

/** First what would open as somebody else's card, then the cards that somebody holds. */
const gravity = (example: Example): number => (isAnothers(example) ? 2 : example.holder ? 1 : 0);

/** Whether a card would be taken for another one too; a read is nobody's yet, and would be two people's. */
const isAnothers = ({ kind, id, meanings }: Example): boolean => {
  const cards = meanings.flatMap(({ card }) => card ?? []);
  return kind === 'cards' ? cards.some((card) => card.id !== id) : cards.length > 1;
};

export function Ambiguous({ found: { cards, reads, examples } }: { found: Found }) {
  if (cards + reads === 0) return null;
  const count = [cards > 0 && counted(cards, 'card'), reads > 0 && counted(reads, 'read')]
    .filter(Boolean)
    .join(' and ');
  return (
    <section className="shrink-0" aria-label="What becomes ambiguous" data-testid="ambiguous">
      <h3 className="text-signal">
        <strong>
          {count} {cards + reads === 1 ? 'becomes' : 'become'} ambiguous
        </strong>
      </h3>
      <p className="text-ink-2">
        More than one format would fit in full, and they do not cut out the same number. The door tries them in the
        order shown and opens for the first whose card is on file and active.
      </p>
      <div className="max-h-60 overflow-auto">
        <table className="grid-table">
          <thead>
            <tr>
              <th>card or read</th>
              <th>where</th>
              <th>what it would say, and whose card that is</th>
            </tr>
          </thead>
          <tbody>
            {[...examples]
              .sort((a, b) => gravity(b) - gravity(a))
              .slice(0, SHOWN)
              .map((example) => (
                <Row key={`${example.kind} ${example.id}`} example={example} />
              ))}
          </tbody>
        </table>
      </div>
      {examples.length > SHOWN && <p className="text-ink-2">The first {SHOWN} are shown.</p>}
    </section>
  );
}

function Row({ example }: { example: Example }) {
  return (
    <tr>
      <td className={example.name ? 'font-mono whitespace-nowrap' : 'font-mono break-all'}>
        {example.name || example.bits}
        {example.holder && <span className="block font-sans text-ink-2">{example.holder}</span>}
      </td>
      <td>{example.place}</td>
      <td>
        {example.meanings.map(({ format, number, facility, card }) => (
          <span key={format} className="block">
            {format}:{' '}
            <span className="font-mono">
              {facility !== null && `${facility}/`}
              {number}
            </span>{' '}
            {!card && <span className="text-ink-2">no card there</span>}
            {card?.id === example.id && <span className="text-ink-2">this card</span>}
            {card && card.id !== example.id && (
              <span className={isAnothers(example) ? 'font-bold text-signal' : ''}>
                {card.holder ? `the card of ${card.holder}` : 'a card that nobody holds'}
              </span>
            )}
          </span>
        ))}
      </td>
    </tr>
  );
}
