/** Renaming a controller or a reader, another device in its place, another controller for a reader, and removing it. */
import { zodResolver } from '@hookform/resolvers/zod';
import { type Controller, changedReaderSchema, type Reader } from '@rawbits/api';
import { useState } from 'react';
import type { z } from 'zod';
import { DraftNote } from '../../../platform/drafts/DraftNote.tsx';
import { useKeptForm } from '../../../platform/drafts/useKeptForm.ts';
import { useChangeControllerMutation, useChangeReaderMutation } from '../../../platform/endpoints/doors.ts';
import { FailureNote } from '../../../platform/forms/FailureNote.tsx';
import { Field } from '../../../platform/forms/Field.tsx';
import { useSite } from '../../../platform/site/useSite.ts';
import { DeviceField } from './DeviceField.tsx';
import { RemoveController, RemoveReader } from './RemoveDevice.tsx';

const FORM = 'flex w-full flex-wrap items-start gap-3 border-t border-faint pt-2';

type Changed = z.output<typeof changedReaderSchema>;

/** What was not changed is not sent, so that it undoes nothing that was saved elsewhere a moment ago. */
const onlyChanged = (
  changed: Changed,
  saved: { name: string; device: string; controllerId?: string | null },
): Changed =>
  Object.fromEntries(Object.entries(changed).filter(([field, value]) => value !== saved[field as keyof Changed]));

/** Name, device, and of a reader its controller, as they are to be. */
function useChanges(kind: string, one: { id: string; name: string; device: string; controllerId?: string | null }) {
  const { id: site } = useSite();
  const { name, device, controllerId } = one;
  return useKeptForm<z.input<typeof changedReaderSchema>, unknown, Changed>(kind, `${site} ${one.id}`, {
    resolver: zodResolver(changedReaderSchema),
    defaultValues: { name, device, ...(controllerId != null && { controllerId }) },
  });
}

export function ChangeController({ controller, onDone }: { controller: Controller; onDone: () => void }) {
  const { id: site } = useSite();
  const [{ register, handleSubmit, formState, watch }, draft] = useChanges('controllers', controller);
  const [change, { error, isLoading }] = useChangeControllerMutation();
  const [removing, setRemoving] = useState(false);
  const { errors } = formState;
  const submit = handleSubmit(async (changed) => {
    if (!(await change({ site, id: controller.id, ...onlyChanged(changed, controller) })).data) return;
    draft.forget();
    onDone();
  });
  return (
    <>
      <form onSubmit={submit} className={FORM} aria-label={`Change ${controller.name}`} noValidate>
        <DraftNote draft={draft} />
        <Field label="Name" error={errors.name?.message}>
          {(props) => <input {...props} {...register('name')} className="input w-56" maxLength={120} />}
        </Field>
        <DeviceField of="controllers" error={errors.device?.message} {...register('device')} />
        <Actions busy={isLoading} removing={removing} onRemove={setRemoving} />
        {watch('device') !== controller.device && (
          <p className="w-full text-signal">The other device must be loaded before it opens for anybody.</p>
        )}
        <FailureNote failure={error} />
      </form>
      {removing && <RemoveController id={controller.id} onClose={() => setRemoving(false)} />}
    </>
  );
}

interface ReaderProps {
  reader: Reader;
  controllers: readonly Controller[];
  /** Whether it was set up by a plan, which another device was not. */
  hasPlan: boolean;
  onDone: () => void;
}

export function ChangeReader({ reader, controllers, hasPlan, onDone }: ReaderProps) {
  const { id: site } = useSite();
  const [{ register, handleSubmit, formState, watch }, draft] = useChanges('readers', reader);
  const [change, { error, isLoading }] = useChangeReaderMutation();
  const [removing, setRemoving] = useState(false);
  const { errors } = formState;
  const submit = handleSubmit(async (changed) => {
    if (!(await change({ site, id: reader.id, ...onlyChanged(changed, reader) })).data) return;
    draft.forget();
    onDone();
  });
  const isMoved = (watch('controllerId') ?? null) !== reader.controllerId;
  return (
    <>
      <form onSubmit={submit} className={FORM} aria-label={`Change ${reader.name}`} noValidate>
        <DraftNote draft={draft} />
        <Field label="Name" error={errors.name?.message}>
          {(props) => <input {...props} {...register('name')} className="input w-56" maxLength={120} />}
        </Field>
        <DeviceField of="readers" error={errors.device?.message} {...register('device')} />
        <Field label="Controller" error={errors.controllerId?.message}>
          {(props) => (
            <select
              {...props}
              {...register('controllerId', { setValueAs: (value?: string) => value || undefined })}
              className="select w-56"
            >
              {reader.controllerId === null && <option value="">none: for enrolment</option>}
              {controllers.map(({ id, name }) => (
                <option key={id} value={id}>
                  {name}
                </option>
              ))}
            </select>
          )}
        </Field>
        <Actions busy={isLoading} removing={removing} onRemove={setRemoving} />
        {isMoved && (
          <p className="w-full">
            {reader.doorId === null
              ? 'It gets a door of its own there, open to all active cards.'
              : 'Its door goes with it, with every reader of the door and with who may pass. Disconnect them from the present controller before you load it: a controller that has no door for a reader opens it for every active card.'}
          </p>
        )}
        {hasPlan && watch('device') !== reader.device && (
          <p className="w-full text-signal">The other device must be set up by the plan again.</p>
        )}
        <FailureNote failure={error} />
      </form>
      {removing && <RemoveReader id={reader.id} onClose={() => setRemoving(false)} />}
    </>
  );
}

interface ActionsProps {
  busy: boolean;
  removing: boolean;
  onRemove: (removing: boolean) => void;
}

function Actions({ busy, removing, onRemove }: ActionsProps) {
  return (
    <span className="mt-6 flex gap-2">
      <button type="submit" className="btn btn-primary" disabled={busy}>
        Save
      </button>
      <button type="button" className="btn btn-line" aria-expanded={removing} onClick={() => onRemove(!removing)}>
        Remove …
      </button>
    </span>
  );
}
