/** Numbers that several cards have: one and the same card to a controller that ignores the facility code. */
import { Link } from 'react-router';
import { CodeName } from '../../parts/facility/CodeName.tsx';
import { useCollisionsQuery } from '../../platform/endpoints/facilityCodes.ts';
import { FailureNote } from '../../platform/forms/FailureNote.tsx';
import { useSite } from '../../platform/site/useSite.ts';

export function CollisionList() {
  const { id: site } = useSite();
  const { data, error } = useCollisionsQuery(site);
  return (
    <section className="panel flex min-h-0 flex-col gap-2 overflow-auto p-4" aria-label="Same number, other card">
      <h2>Same number, other card</h2>
      <p className="text-ink-2">
        A controller that compares the number alone lets in every card that has it, whatever its facility code or
        format.
      </p>
      <FailureNote failure={error} />
      {data?.possible.map(({ controller, formats }) => (
        <p key={controller} className="text-signal">
          {controller} ignores the facility code and accepts {formats.join(', ')}: numbers of one can open for the
          other.
        </p>
      ))}
      {data?.total === 0 && <p>No two cards on file have the same number.</p>}
      {data && data.total > 0 && (
        <>
          <p>
            {data.total} {data.total === 1 ? 'number is' : 'numbers are'} on file more than once
            {data.numbers.length < data.total && `; the first ${data.numbers.length}`}:
          </p>
          <table className="grid-table">
            <thead>
              <tr>
                <th>number</th>
                <th>cards</th>
                <th>taken for one another at</th>
              </tr>
            </thead>
            <tbody>
              {data.numbers.map(({ number, cards, at }) => (
                <tr key={number}>
                  <td className="font-mono">{number}</td>
                  <td>
                    {cards.map((card) => (
                      <Link
                        key={card.id}
                        to={`/${site}/stock/${card.id}`}
                        className="block underline underline-offset-4"
                      >
                        {card.facility ? `code ${card.facility}` : 'no code'}{' '}
                        <CodeName code={card.facility} format={card.formatId} />, {card.formatId},{' '}
                        {card.holder ?? card.state}
                      </Link>
                    ))}
                  </td>
                  <td className={at.length > 0 ? 'font-bold text-signal' : ''}>{at.join(', ') || 'no controller'}</td>
                </tr>
              ))}
            </tbody>
          </table>
        </>
      )}
    </section>
  );
}
