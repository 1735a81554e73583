/** How far a key is rolled over: what still has an older version than the one in use. */
import type { Key } from '@rawbits/api';
import { Link } from 'react-router';
import { useKeyHoldingsQuery } from '../../../platform/endpoints/keys.ts';
import { usePlansQuery } from '../../../platform/endpoints/plans.ts';
import { useSite } from '../../../platform/site/useSite.ts';
import { counted } from '../../../platform/words/words.ts';
import { plansOf } from './plansOf.ts';

export function RollOver({ of, set }: { of: Key; set: string }) {
  const { id: site } = useSite();
  const { data: plans = [] } = usePlansQuery(site);
  const { data: holdings = [] } = useKeyHoldingsQuery(site);
  if (of.current === null) return null;
  const older = of.versions.filter(({ version, state }) => version !== of.current && state === 'ready');
  const cards = older.reduce((sum, version) => sum + version.cards, 0);
  const had = (kind: string) => [
    ...new Set(
      holdings
        .filter((h) => h.keyId === of.id && h.kind === kind && !h.until && h.version !== of.current)
        .map(({ holder }) => holder),
    ),
  ];
  const moving = plansOf(plans, set, of.name);
  const [readers, partners] = [had('reader'), had('partner')];
  if (older.length === 0 && readers.length + partners.length === 0) return null;
  const left = [
    cards > 0 && `${counted(cards, 'card')} ${cards === 1 ? 'carries' : 'carry'} an older version`,
    readers.length > 0 && `${readers.join(', ')} still ${readers.length === 1 ? 'has' : 'have'} it`,
    partners.length > 0 && `${partners.join(', ')} ${partners.length === 1 ? 'was' : 'were'} given it`,
  ].filter(Boolean);
  return (
    <p className="border-t border-faint pt-2" role="status">
      <strong>Rolling over to version {of.current}.</strong>{' '}
      {left.length > 0
        ? `${left.join('; ')}.`
        : 'No card, reader or partner on file has an older version any more: it can be destroyed.'}
      {cards > 0 && moving.length > 0 && (
        <>
          {' '}
          A run that brings cards of {moving.map(({ name }) => name).join(' or ')} along{' '}
          <Link className="underline" to={`/${site}/encode?part=runs`}>
            moves them
          </Link>
          .
        </>
      )}
    </p>
  );
}
