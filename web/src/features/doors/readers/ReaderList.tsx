/** The readers of a site: what each reads, and with which version of its key. */
import type { Controller, Reader, ReaderPlan } from '@rawbits/api';
import { useState } from 'react';
import { useControllersQuery, useReadersQuery } from '../../../platform/endpoints/doors.ts';
import { useReaderPlansQuery } from '../../../platform/endpoints/readerPlans.ts';
import { FailureNote } from '../../../platform/forms/FailureNote.tsx';
import { useSite } from '../../../platform/site/useSite.ts';
import { ChangeReader } from '../devices/ChangeDevice.tsx';
import { ReaderSheet } from './ReaderSheet.tsx';
import { SetUpReader } from './SetUpReader.tsx';
import { WouldOpen } from './WouldOpen.tsx';

type Doing = { reader: string; what: 'set up' | 'sheet' | 'who' | 'change' } | undefined;

export function ReaderList() {
  const { id: site } = useSite();
  const { data: readers = [], error } = useReadersQuery(site);
  const { data: controllers = [] } = useControllersQuery(site);
  const { data: plans = [] } = useReaderPlansQuery(site);
  const [doing, setDoing] = useState<Doing>();
  if (readers.length === 0) return null;
  return (
    <section className="panel p-3" aria-label="Readers of the doors">
      <h2>Readers</h2>
      <FailureNote failure={error} />
      <ul>
        {readers.map((reader) => (
          <ReaderLine
            key={reader.id}
            reader={reader}
            controllers={controllers}
            plan={plans.find(({ readerId }) => readerId === reader.id)}
            doing={doing?.reader === reader.id ? doing.what : undefined}
            onDo={(what) => setDoing(what && { reader: reader.id, what })}
          />
        ))}
      </ul>
    </section>
  );
}

interface LineProps {
  reader: Reader;
  controllers: readonly Controller[];
  plan: ReaderPlan | undefined;
  doing: NonNullable<Doing>['what'] | undefined;
  onDo: (what: NonNullable<Doing>['what'] | undefined) => void;
}

function ReaderLine({ reader, controllers, plan, doing, onDo }: LineProps) {
  const { may } = useSite();
  const old = plan?.keys.filter(({ isCurrent }) => !isCurrent) ?? [];
  const link = (what: NonNullable<Doing>['what'], words: string) => (
    <button
      type="button"
      className="cursor-pointer underline"
      aria-expanded={doing === what}
      onClick={() => onDo(doing === what ? undefined : what)}
    >
      {words}
    </button>
  );
  return (
    <li className="border-t border-faint py-1.5" data-reader-line={reader.device}>
      <p className="flex flex-wrap gap-x-3">
        <strong>{reader.name}</strong>
        <span className="text-ink-2">
          {plan
            ? `reads "${plan.field}" of ${plan.plan.name}, version ${plan.plan.version}`
            : 'reads tags, and of chips the UID'}
        </span>
        {plan && (
          <span className={old.length > 0 ? 'font-bold text-signal' : 'text-ink-2'}>
            {plan.keys.map(({ name, version }) => `${name}, version ${version}`).join('; ')}
            {old.length > 0 && ': another version is in use'}
          </span>
        )}
      </p>
      {plan?.problem && <p className="font-bold text-signal">{plan.problem}</p>}
      <p className="flex flex-wrap gap-x-3 text-[0.95rem]">
        {may('set up doors') && link('set up', plan ? 'set it up anew' : 'set it up by a plan')}
        {may('set up doors') && link('change', 'change or remove')}
        {plan && link('who', 'who would be let in')}
        {plan && link('sheet', 'settings sheet')}
      </p>
      {doing === 'set up' && <SetUpReader reader={reader} plan={plan} onDone={() => onDo(undefined)} />}
      {doing === 'change' && (
        <ChangeReader
          reader={reader}
          controllers={controllers}
          hasPlan={plan !== undefined}
          onDone={() => onDo(undefined)}
        />
      )}
      {doing === 'who' && <WouldOpen reader={reader} />}
      {doing === 'sheet' && plan && <ReaderSheet reader={reader} plan={plan} />}
    </li>
  );
}
