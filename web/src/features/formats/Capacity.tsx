/** Capacity: how many facility codes, numbers and cards there are, what the site uses, and where its numbers lie. */
import type { SiteFormat } from '@rawbits/api';
import { capacityOf } from '@rawbits/core/codec';
import { useMemo } from 'react';
import { Bar, BarChart, ResponsiveContainer, Tooltip, XAxis, YAxis } from 'recharts';
import { useFacilityCodesQuery } from '../../platform/endpoints/facilityCodes.ts';
import { useFormatUseQuery } from '../../platform/endpoints/formats.ts';
import { FailureNote } from '../../platform/forms/FailureNote.tsx';
import { useSite } from '../../platform/site/useSite.ts';

const plain = (value: bigint | number | string): string => BigInt(value).toLocaleString('en');

export function Capacity({ entry }: { entry: SiteFormat }) {
  const { id: site } = useSite();
  const { data: use, error } = useFormatUseQuery({ site, format: entry.format.id });
  const { data: codes = [] } = useFacilityCodesQuery(site);
  const capacity = useMemo(() => capacityOf(entry.format), [entry.format]);
  const nameOf = (facility: string | null) =>
    codes.find((c) => c.code === facility && (c.formatId === null || c.formatId === entry.format.id))?.name ?? '';
  const perCode = capacity.numbers ?? 1n;
  return (
    <div className="flex flex-col gap-4" data-testid="capacity">
      <dl className="flex flex-wrap gap-x-8 gap-y-2">
        {(
          [
            ['facility codes', capacity.facilityCodes],
            ['numbers', capacity.numbers],
            ['issue levels', capacity.issues],
            ['cards that differ in code or number', capacity.cards],
          ] as const
        ).map(
          ([name, value]) =>
            value !== undefined && (
              <div key={name}>
                <dt className="text-ink-2">{name}</dt>
                <dd className="font-mono text-[1.25rem]">{plain(value)}</dd>
              </div>
            ),
        )}
      </dl>
      <FailureNote failure={error} />
      {use && (
        <>
          <p>
            {use.cards === 0
              ? 'This site has no card of this format on file.'
              : `This site has ${plain(use.cards)} ${use.cards === 1 ? 'card' : 'cards'} of this format on file.`}
          </p>
          {use.cards > 0 && (
            <>
              <table className="grid-table w-auto!">
                <thead>
                  <tr>
                    <th>facility code</th>
                    <th>named</th>
                    <th className="text-right!">cards</th>
                    <th className="text-right!">numbers left</th>
                    <th className="text-right!">lowest</th>
                    <th className="text-right!">highest</th>
                  </tr>
                </thead>
                <tbody>
                  {use.facilities.map(({ facility, cards, least, greatest }) => (
                    <tr key={facility ?? ''}>
                      <td className="font-mono">{facility ?? 'none'}</td>
                      <td>{nameOf(facility)}</td>
                      <td className="text-right font-mono">{plain(cards)}</td>
                      <td className="text-right font-mono">{plain(perCode - BigInt(cards))}</td>
                      <td className="text-right font-mono">{least}</td>
                      <td className="text-right font-mono">{greatest}</td>
                    </tr>
                  ))}
                </tbody>
              </table>
              <figure>
                <figcaption className="font-bold">Where the numbers in use lie</figcaption>
                <div className="h-44 max-w-3xl" aria-hidden="true">
                  <ResponsiveContainer>
                    <BarChart
                      accessibilityLayer={false}
                      data={use.parts}
                      margin={{ left: 0, right: 8, top: 8, bottom: 0 }}
                    >
                      <XAxis dataKey="from" tick={{ fontSize: 11, fill: 'var(--ink-2)' }} minTickGap={40} />
                      <YAxis allowDecimals={false} width={36} tick={{ fontSize: 11, fill: 'var(--ink-2)' }} />
                      <Tooltip
                        cursor={{ fill: 'var(--chosen)' }}
                        contentStyle={{ background: 'var(--color-base-100)', borderColor: 'var(--color-base-300)' }}
                        labelFormatter={(from) => {
                          const part = use.parts.find((p) => p.from === String(from));
                          return part ? `${part.from} to ${part.to}` : '';
                        }}
                      />
                      <Bar dataKey="cards" name="cards" fill="var(--color-primary)" isAnimationActive={false} />
                    </BarChart>
                  </ResponsiveContainer>
                </div>
                <p className="sr-only">
                  {use.parts
                    .filter((part) => part.cards > 0)
                    .map((part) => `${part.from} to ${part.to}: ${part.cards}.`)
                    .join(' ')}
                </p>
              </figure>
            </>
          )}
        </>
      )}
    </div>
  );
}
