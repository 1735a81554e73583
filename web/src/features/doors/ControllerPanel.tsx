import type { Controller, SiteChange } from '@rawbits/api';
import type { Format } from '@rawbits/core/format';
import { useState } from 'react';
import { DryRunDialog } from '../../parts/dryRun/DryRunDialog.tsx';
import { useCancelLoadMutation, useLoadMutation, useSetAcceptedMutation } from '../../platform/endpoints/doors.ts';
import { useFormatsQuery } from '../../platform/endpoints/formats.ts';
import { FailureNote } from '../../platform/forms/FailureNote.tsx';
import { useClock } from '../../platform/site/useClock.ts';
import { useSite } from '../../platform/site/useSite.ts';
import { counted } from '../../platform/words/words.ts';
import { ChangeController } from './devices/ChangeDevice.tsx';

const SIGN = { add: '+', change: '~', remove: '−' } as const;

function standingWords(controller: Controller): string {
  if (!controller.answers) return 'does not answer';
  if (controller.standing === 'changes waiting')
    return controller.waitingMore
      ? `more than ${controller.waitingCount.toLocaleString('en')} changes waiting`
      : `${counted(controller.waitingCount, 'change')} waiting`;
  return controller.standing;
}

export function ControllerPanel({ controller, lead }: { controller: Controller; lead: boolean }) {
  const clock = useClock();
  const { id, may } = useSite();
  const [startLoad, { error, isLoading }] = useLoadMutation();
  const { load } = controller;
  const [changing, setChanging] = useState(false);
  const running = load?.state === 'running';
  const current = controller.standing === 'current' && controller.answers;
  return (
    <section className="panel grid shrink-0 gap-2 p-3" aria-label={controller.name} data-controller={controller.device}>
      <div className="flex flex-wrap items-center gap-x-3">
        <h2 className="text-[1.1rem]">{controller.name}</h2>
        <span data-testid="standing" className={`tag ${current ? 'text-primary' : 'text-signal'}`}>
          {standingWords(controller)}
        </span>
        <span className="text-ink-2">{controller.loadedAt ? `loaded ${clock(controller.loadedAt)}` : ''}</span>
        {may('load doors') && (
          <button
            type="button"
            className={`btn ml-auto ${lead && !current ? 'btn-primary' : 'btn-line'}`}
            disabled={isLoading || running}
            onClick={() => void startLoad({ site: id, id: controller.id })}
          >
            Load {controller.name}
          </button>
        )}
      </div>
      {running && <Progress controller={controller.id} done={load.done} total={load.total} />}
      <FailureNote failure={error} />
      {load?.state === 'failed' && <p className="text-signal">{load.message}</p>}
      {load?.state === 'cancelled' && <p className="text-ink-2">{load.message}</p>}
      <Accepted controller={controller} />
      <p>
        {counted(controller.wantedCards, 'card')} wanted, {controller.loadedCards} loaded ·{' '}
        <span className="text-ink-2">
          {controller.comparesFacility ? 'compares facility code and number' : 'compares the number alone'} ·{' '}
          {controller.readers.map((r) => r.name).join(', ') || 'no reader'}
        </span>
      </p>
      {may('set up doors') && (
        <p className="text-[0.95rem]">
          <button
            type="button"
            className="cursor-pointer underline"
            aria-expanded={changing}
            onClick={() => setChanging(!changing)}
          >
            change or remove
          </button>
        </p>
      )}
      {changing && <ChangeController controller={controller} onDone={() => setChanging(false)} />}
      {controller.waiting.length > 0 && (
        <ul className="border-t border-faint pt-1" aria-label={`What loading ${controller.name} would change`}>
          {controller.waiting.slice(0, 8).map(({ change, what }) => (
            <li key={`${change} ${what}`} className="flex gap-2">
              <span className="w-16 text-ink-2">
                <span className="font-mono font-bold">{SIGN[change]}</span> {change}
              </span>
              <span className="min-w-0">{what}</span>
            </li>
          ))}
          {controller.waitingCount > 8 && (
            <li className="text-ink-2">
              and {controller.waitingMore ? 'more than ' : ''}
              {(controller.waitingCount - 8).toLocaleString('en')} more
            </li>
          )}
        </ul>
      )}
    </section>
  );
}

function Progress({ controller, done, total }: { controller: string; done: number; total: number }) {
  const { id, may } = useSite();
  const [cancel, { error, isLoading }] = useCancelLoadMutation();
  return (
    <>
      <div className="flex items-center gap-3">
        <p className="flex grow items-center gap-3" role="status">
          <progress className="progress progress-primary" value={done} max={Math.max(total, 1)} aria-label="Load" />
          <span className="whitespace-nowrap">
            {done.toLocaleString('en')} of {total.toLocaleString('en')}
          </span>
        </p>
        {may('load doors') && (
          <button
            type="button"
            className="btn btn-line"
            disabled={isLoading}
            onClick={() => void cancel({ site: id, id: controller })}
          >
            Stop
          </button>
        )}
      </div>
      <FailureNote failure={error} />
    </>
  );
}

/** Which of the site's formats the controller is to accept; what of that it has already. */
function Accepted({ controller }: { controller: Controller }) {
  const { id, may } = useSite();
  const { data: formats = [] } = useFormatsQuery(id);
  const [setAccepted, { error, isLoading }] = useSetAcceptedMutation();
  const [change, setChange] = useState<SiteChange>();
  // The first of its length refuses nobody and leaves nothing open; all else is shown on every card first.
  const toggle = ({ id: format, bits }: Format, wanted: boolean) => {
    const others = controller.wantedFormats.filter((f) => f !== format);
    const accepted = wanted ? [...others, format] : others;
    if (wanted && !formats.some((f) => others.includes(f.format.id) && f.format.bits === bits))
      void setAccepted({ site: id, id: controller.id, formats: accepted });
    else setChange({ kind: 'accept', controller: controller.id, formats: accepted });
  };
  return (
    <fieldset disabled={!may('set up doors') || isLoading}>
      <legend className="text-ink-2">Accepts</legend>
      {change && (
        <DryRunDialog
          change={change}
          title={`what ${controller.name} accepts`}
          onSaved={() => setChange(undefined)}
          onClose={() => setChange(undefined)}
        />
      )}
      <FailureNote failure={error} />
      <div className="flex flex-wrap gap-x-5 gap-y-1">
        {formats
          .filter((f) => f.adopted)
          .map(({ format }) => {
            const wanted = controller.wantedFormats.includes(format.id);
            const loaded = controller.loadedFormats.includes(format.id);
            return (
              <label key={format.id} className="flex items-center gap-2">
                <input
                  type="checkbox"
                  className="checkbox checkbox-sm"
                  checked={wanted}
                  onChange={(event) => toggle(format, event.target.checked)}
                />
                {format.name}
                {wanted !== loaded && <span className="text-signal">{wanted ? 'not loaded yet' : 'still loaded'}</span>}
              </label>
            );
          })}
      </div>
    </fieldset>
  );
}
