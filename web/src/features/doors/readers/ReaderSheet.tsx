/** What whoever sets up a reader has to know, as a sheet to print and as JSON; without the keys themselves. */
import type { Reader, ReaderPlan } from '@rawbits/api';
import { keyOriginOf } from '@rawbits/core/plan';
import { SealForm } from '../../../parts/seal/SealForm.tsx';
import { usePlanQuery } from '../../../platform/endpoints/plans.ts';
import { download } from '../../../platform/files/download.ts';
import { useSite } from '../../../platform/site/useSite.ts';

const ORDER = { big: 'the most significant byte first', little: 'the least significant byte first' } as const;

type Lines = [string, string][];
type Settings<R extends ReaderPlan['settings']['reads']> = Extract<ReaderPlan['settings'], { reads: R }>;
interface Cut {
  from: number;
  length: number;
  bits: number;
  align: 'left' | 'right';
  order: keyof typeof ORDER;
}

const cutLines = (field: string, { from, length, bits, align, order }: Cut): Lines => [
  ['field', `${field}: bytes ${from} to ${from + length - 1}, ${ORDER[order]}`],
  [
    'over the line',
    `${bits} bits, ${align === 'left' ? 'from the first bit of the field' : 'up to the last bit of the field'}`,
  ],
];

function linesOf(plan: ReaderPlan): Lines {
  const { settings } = plan;
  const head: Lines = [['plan', `${plan.plan.name}, version ${plan.plan.version}`]];
  if (settings.reads === 'file') return [...head, ...fileLines(plan, settings)];
  return [...head, ...(settings.reads === 'sector' ? sectorLines(plan, settings) : tagLines(plan, settings))];
}

function sectorLines({ field, keys }: ReaderPlan, settings: Settings<'sector'>): Lines {
  const own = keys.find(({ name }) => name === settings.key);
  const key = own ? `"${own.name}", version ${own.version}, check value ${own.checkValue}` : 'the factory’s';
  return [['sector', String(settings.sector)], [`key ${settings.by}`, key], ...cutLines(field, settings)];
}

function tagLines({ field }: ReaderPlan, settings: Settings<'tag'>): Lines {
  if (settings.sends === 'string')
    return [
      ['listens', `at RF/${settings.rate}, FSK 2a, for the carrier of a string`],
      ['over the line', 'the string, bit by bit'],
    ];
  return [
    ['listens', `at RF/${settings.rate}, Manchester, for 64-bit identification tags`],
    ...cutLines(field, settings),
  ];
}

function fileLines({ field, keys }: ReaderPlan, settings: Settings<'file'>): Lines {
  const { application, keyKind, key, tells, file, mode } = settings;
  const keyLine = (one: typeof key): string => {
    if (!one) return 'none: everybody may';
    if (one.name === null) return `number ${one.slot}, the factory’s`;
    const { version, checkValue } = keys.find(({ name }) => name === one.name) ?? { version: '?', checkValue: '?' };
    const made =
      one.each === 'card'
        ? `, made for each card from UID, application and system identifier ${one.system || '(none)'}`
        : ', the same on all cards';
    return `number ${one.slot}, "${one.name}", version ${version}, check value ${checkValue}${made}`;
  };
  return [
    ['application', application],
    [
      'authentication',
      keyKind === 'aes128' ? 'AES-128' : keyKind === 'tdes2' ? '3DES with two keys' : '3DES with three keys',
    ],
    ['key that reads', keyLine(key)],
    ...(tells ? [['key by which the card tells its UID', keyLine(tells)] as [string, string]] : []),
    ['file', `${file}, ${mode}`],
    ...cutLines(field, settings),
  ];
}

export function ReaderSheet({ reader, plan }: { reader: Reader; plan: ReaderPlan }) {
  const { id: site, may } = useSite();
  const { data } = usePlanQuery({ site, id: plan.plan.id });
  const definition = data?.versions.find(({ version }) => version === plan.plan.version)?.plan;
  const { readerId: _id, setBy, setAt, ...sheet } = plan;
  const content = { reader: reader.name, setBy, setAt, ...sheet };
  return (
    <div className="mt-2 grid gap-2 border border-base-300 p-3" data-testid="reader-sheet">
      <h3 className="font-bold">{reader.name}: settings</h3>
      <dl className="grid grid-cols-[auto_1fr] gap-x-4 gap-y-0.5">
        {linesOf(plan).map(([name, value]) => (
          <div key={name} className="contents">
            <dt className="text-ink-2">{name}</dt>
            <dd>{value}</dd>
          </div>
        ))}
      </dl>
      <div className="flex gap-2 print:hidden">
        <button type="button" className="btn btn-line btn-small" onClick={() => window.print()}>
          Print
        </button>
        <button
          type="button"
          className="btn btn-line btn-small"
          onClick={() => download(`${reader.device}.json`, JSON.stringify(content, null, 2), 'application/json')}
        >
          Keep as a file
        </button>
      </div>
      {may('hold keys') && definition && plan.keys.length > 0 && (
        <SealForm
          about={`reader ${reader.id}`}
          what="the reader"
          summary="Sealed with its keys, for whoever sets the reader up"
          keys={plan.keys.map(({ name, version }) => ({ name, version, from: keyOriginOf(definition, name) }))}
          content={JSON.stringify(content)}
          otherwise=""
        />
      )}
    </div>
  );
}
