/** Reading a card on a pad: what it is, what is on file of it, what stands in it, and what differs from its plan. */
import type { Looked } from '@rawbits/api';
import { useState } from 'react';
import { useLookAtPadMutation, usePadsQuery } from '../../../platform/endpoints/runs.ts';
import { Choice } from '../../../platform/forms/controls.tsx';
import { FailureNote } from '../../../platform/forms/FailureNote.tsx';
import { useSite } from '../../../platform/site/useSite.ts';
import { tagLines } from '../../../platform/words/tag.ts';
import { cardStepWords } from '../words/words.ts';

export function PadPart() {
  const { id: site, may } = useSite();
  const { data: pads = [], isLoading: isFinding } = usePadsQuery(site);
  const [pad, setPad] = useState('');
  const [look, { data, error, isLoading }] = useLookAtPadMutation();
  const chosen = pads.find(({ id }) => id === pad) ?? pads[0];
  if (!may('encode cards'))
    return <p>Reading a card with the keys of the site takes the permission to encode cards.</p>;
  return (
    <div className="grid min-h-0 content-start gap-3 overflow-auto">
      <div className="flex flex-wrap items-end gap-3">
        <Choice
          label="Pad"
          value={chosen?.id ?? ''}
          options={pads.map(({ id, name }) => [id, name] as const)}
          onChange={setPad}
        />
        <button
          type="button"
          className="btn btn-primary"
          disabled={!chosen || isLoading}
          onClick={() => void look({ params: { site }, body: { pad: chosen?.id ?? null } })}
        >
          {isLoading ? 'Reading …' : 'Read the card'}
        </button>
        <p className="text-ink-2">Lay one card on the pad. Nothing on it is changed.</p>
      </div>
      {pads.length === 0 && !isFinding && (
        <p>No pad yet. Bring the rig in under Site, or start a desk where a card reader is plugged in.</p>
      )}
      <FailureNote failure={error} />
      {data && !error && <Found looked={data} />}
    </div>
  );
}

function Found({ looked }: { looked: Looked }) {
  const { found, problem, onFile, against, fields, isBlank } = looked;
  return (
    <section className="panel grid max-w-4xl gap-3 p-4" aria-label="What lies on the pad" data-testid="looked">
      <p className="text-[1.3rem] font-bold">
        {problem ? <span className="text-signal">{problem}</span> : verdictOf(looked)}
      </p>
      {onFile && (
        <p>
          On file as card <strong className="font-mono">{onFile.card ?? onFile.uid}</strong>
          {onFile.holder && <> of {onFile.holder}</>}, by plan {onFile.plan.name}, version {onFile.plan.version}
          {onFile.plan.version < onFile.plan.current && (
            <span className="text-signal"> (version {onFile.plan.current} is in use)</span>
          )}
          {onFile.state !== 'whole' && <span className="text-signal">; it is {onFile.state}, not finished</span>}.
          {Object.keys(onFile.keys).length > 0 && (
            <>
              {' '}
              Its keys:{' '}
              {Object.entries(onFile.keys)
                .map(([name, version]) => `${name}, version ${version}`)
                .join('; ')}
              .
            </>
          )}
        </p>
      )}
      {found && <AboutChip found={found} isBlank={isBlank} />}
      {against && against.differs.length > 0 && (
        <div>
          <h2 className="text-signal">What differs from the plan</h2>
          <ul className="list-disc pl-5">
            {against.differs.map((step, i) => (
              // biome-ignore lint/suspicious/noArrayIndexKey: differences stand in the order of the card.
              <li key={i}>to put right: {cardStepWords(step)}</li>
            ))}
          </ul>
        </div>
      )}
      {against && against.unread.length > 0 && (
        <p className="text-ink-2">Not read, since no key at hand may: {against.unread.join(', ')}.</p>
      )}
      {against && against.others.length > 0 && (
        <p>Besides there are applications that the plan does not know: {against.others.join(', ')}.</p>
      )}
      {fields.length > 0 && (
        <table className="grid-table" aria-label="What stands in its files">
          <thead>
            <tr>
              <th scope="col">application</th>
              <th scope="col">file</th>
              <th scope="col">field</th>
              <th scope="col">value</th>
            </tr>
          </thead>
          <tbody>
            {fields.map(({ application, file, field, value, holds }) => (
              <tr key={`${application} ${file} ${field}`}>
                <td className="font-mono">{application}</td>
                <td>{file}</td>
                <td>{field}</td>
                <td className={`font-mono break-all ${holds ? '' : 'font-bold text-signal'}`}>
                  {value}
                  {!holds && ' is not as it should be'}
                </td>
              </tr>
            ))}
          </tbody>
        </table>
      )}
    </section>
  );
}

function verdictOf({ found, onFile, against, isBlank }: Looked): string {
  if (!found) return 'There is no card on the pad.';
  if (found.kind === 'unknown') return 'A card of another kind.';
  if (isBlank)
    return found.kind === 'tag'
      ? 'A blank tag: nothing on it, and no password.'
      : 'A blank: it has the factory’s key, and nothing on it.';
  if (against) {
    const plan = `${against.plan.name}, version ${against.plan.version}`;
    return against.differs.length === 0 ? `As the plan ${plan} has it.` : `It follows the plan ${plan}, and differs.`;
  }
  if (onFile) return 'On file, and opened by none of the keys at hand.';
  if (found.kind === 'tag') return 'A tag that is not on file.';
  return found.kind === 'sectors'
    ? `A sector card, ${found.size}, that is not on file.`
    : 'Somebody else’s card: none of the keys at hand opens it.';
}

function AboutChip({ found, isBlank }: { found: NonNullable<Looked['found']>; isBlank: boolean }) {
  const lines: [string, string][] =
    found.kind === 'files'
      ? [
          [found.uidIsRandom ? 'UID, another each time' : 'UID', found.uid],
          ['generation', String(found.generation ?? 'not known')],
          ['free', found.bytesFree === null ? 'it does not say' : `${found.bytesFree} bytes`],
          [
            'applications',
            found.applications === null ? 'listed with its key only' : found.applications.join(', ') || 'none',
          ],
          ['master key', isBlank ? 'the factory’s' : 'another than the factory’s'],
        ]
      : found.kind === 'tag'
        ? tagLines(found)
        : [['UID', found.uid]];
  return (
    <dl className="grid max-w-xl grid-cols-[auto_1fr] gap-x-4 text-[0.95rem]">
      {lines.map(([name, value]) => (
        <div key={name} className="contents">
          <dt className="text-ink-2">{name}</dt>
          <dd className={name.startsWith('UID') ? 'font-mono' : ''}>{value}</dd>
        </div>
      ))}
    </dl>
  );
}
