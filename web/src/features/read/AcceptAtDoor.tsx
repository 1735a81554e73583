/** Makes a controller accept a format: adopts it for the site where needed and adds it to what the controller wants. */
import type { Controller } from '@rawbits/api';
import type { Format } from '@rawbits/core/format';
import { useEffect, useRef, useState } from 'react';
import { DryRunDialog } from '../../parts/dryRun/DryRunDialog.tsx';
import { useSetAcceptedMutation } from '../../platform/endpoints/doors.ts';
import { useAdoptFormatMutation, useFormatsQuery } from '../../platform/endpoints/formats.ts';
import { FailureNote } from '../../platform/forms/FailureNote.tsx';
import { said } from '../../platform/frame/slice.ts';
import { useNavigateFromHere } from '../../platform/hooks/useNavigateFromHere.ts';
import { useSite } from '../../platform/site/useSite.ts';
import { useAppDispatch } from '../../platform/state/hooks.ts';

export function AcceptAtDoor({
  format,
  controllers,
  className,
}: {
  format: Format;
  controllers: Controller[];
  className: string;
}) {
  const { id } = useSite();
  const [open, setOpen] = useState(false);
  const choices = useRef<HTMLFieldSetElement>(null);
  const [adopt, adopting] = useAdoptFormatMutation();
  const [accept, accepting] = useSetAcceptedMutation();
  const dispatch = useAppDispatch();
  const navigate = useNavigateFromHere();
  const { data: library } = useFormatsQuery(id);
  // Until the formats are known, whether it is the second of its length is not.
  const isReady = library !== undefined && !adopting.isLoading && !accepting.isLoading;
  const asks = open && library !== undefined;
  useEffect(() => {
    if (asks) choices.current?.querySelector('button')?.focus();
  }, [asks]);
  const [tried, setTried] = useState<Controller>();
  const told = (controller: Controller) => {
    dispatch(said(`${controller.name} will accept ${format.name} once it is loaded`));
    navigate(`/${id}/doors?controller=${controller.id}`);
  };
  const choose = async (controller: Controller) => {
    const sameLength = library?.some(
      (f) => f.format.bits === format.bits && controller.wantedFormats.includes(f.format.id),
    );
    // A second format of one length can make cards ambiguous: that is shown before it is saved.
    if (sameLength) return setTried(controller);
    const adopted = await adopt({ site: id, format: format.id });
    if (adopted.error) return;
    const set = await accept({ site: id, id: controller.id, formats: [...controller.wantedFormats, format.id] });
    if (!set.error) told(controller);
  };
  const remaining = controllers.filter((c) => !c.wantedFormats.includes(format.id));
  if (remaining.length === 0) return null;
  if (!open)
    return (
      <button type="button" className={className} onClick={() => setOpen(true)}>
        Accept at a door …
      </button>
    );
  return (
    <fieldset ref={choices} className="flex flex-wrap items-center gap-2 border border-base-300 p-2">
      <legend className="px-1 text-ink-2">Which controller is to accept {format.name}?</legend>
      {tried && (
        <DryRunDialog
          change={{ kind: 'accept', controller: tried.id, formats: [...tried.wantedFormats, format.id] }}
          title={`${tried.name} accepts ${format.name} as well`}
          onSaved={() => told(tried)}
          onClose={() => setTried(undefined)}
        />
      )}
      {remaining.map((controller) => (
        <button
          key={controller.id}
          type="button"
          className="btn btn-line"
          disabled={!isReady}
          onClick={() => void choose(controller)}
        >
          {controller.name}
        </button>
      ))}
      <button type="button" className="switch-link" onClick={() => setOpen(false)}>
        not now
      </button>
      <FailureNote failure={adopting.error ?? accepting.error} />
    </fieldset>
  );
}
