/** Putting a controller or a reader on file. */
import { zodResolver } from '@hookform/resolvers/zod';
import { type Controller, newControllerSchema, newReaderSchema } from '@rawbits/api';
import { useState } from 'react';
import type { z } from 'zod';
import { DraftNote } from '../../../platform/drafts/DraftNote.tsx';
import { useKeptForm } from '../../../platform/drafts/useKeptForm.ts';
import { useAddControllerMutation, useAddReaderMutation } from '../../../platform/endpoints/doors.ts';
import { FailureNote } from '../../../platform/forms/FailureNote.tsx';
import { Field } from '../../../platform/forms/Field.tsx';
import { useSite } from '../../../platform/site/useSite.ts';
import { DeviceField } from './DeviceField.tsx';

export function AddDevices({ controllers }: { controllers: Controller[] }) {
  const [adding, setAdding] = useState<'controller' | 'reader'>();
  const done = () => setAdding(undefined);
  return (
    <>
      <span className="ml-auto flex flex-wrap gap-2">
        {(['controller', 'reader'] as const).map((what) => (
          <button
            key={what}
            type="button"
            className="btn btn-line btn-small"
            aria-expanded={adding === what}
            onClick={() => setAdding(adding === what ? undefined : what)}
          >
            Add a {what}
          </button>
        ))}
      </span>
      {adding === 'controller' && <AddController onDone={done} />}
      {adding === 'reader' && <AddReader controllers={controllers} onDone={done} />}
    </>
  );
}

const FORM = 'panel flex w-full flex-wrap items-start gap-3 p-3';

function AddController({ onDone }: { onDone: () => void }) {
  const { id: site } = useSite();
  const [{ register, handleSubmit, formState }, draft] = useKeptForm<
    z.input<typeof newControllerSchema>,
    unknown,
    z.output<typeof newControllerSchema>
  >('controllers', `${site} new`, {
    resolver: zodResolver(newControllerSchema),
    defaultValues: { name: '', device: '', comparesFacility: true },
  });
  const { errors } = formState;
  const [add, { error, isLoading }] = useAddControllerMutation();
  const submit = handleSubmit(async (controller) => {
    if (!(await add({ site, ...controller })).data) return;
    draft.forget();
    onDone();
  });
  return (
    <form onSubmit={submit} className={FORM} aria-label="Add a controller" noValidate>
      <DraftNote draft={draft} />
      <Field label="Name" error={errors.name?.message}>
        {(props) => <input {...props} {...register('name')} className="input w-56" maxLength={120} />}
      </Field>
      <DeviceField of="controllers" error={errors.device?.message} {...register('device')} />
      <label className="mt-7 flex items-center gap-2">
        <input type="checkbox" className="checkbox checkbox-xs" {...register('comparesFacility')} />
        compares the facility code, too
      </label>
      <button type="submit" className="btn btn-primary mt-6" disabled={isLoading}>
        Add
      </button>
      <FailureNote failure={error} />
    </form>
  );
}

function AddReader({ controllers, onDone }: { controllers: Controller[]; onDone: () => void }) {
  const { id: site } = useSite();
  const [{ register, handleSubmit, formState }, draft] = useKeptForm<
    z.input<typeof newReaderSchema>,
    unknown,
    z.output<typeof newReaderSchema>
  >('readers', `${site} new`, {
    resolver: zodResolver(newReaderSchema),
    defaultValues: { name: '', device: '', kind: 'door', controllerId: controllers[0]?.id ?? null },
  });
  const { errors } = formState;
  const [add, { error, isLoading }] = useAddReaderMutation();
  const submit = handleSubmit(async (reader) => {
    const kind = reader.controllerId === null ? 'enrolment' : 'door';
    if (!(await add({ site, ...reader, kind })).data) return;
    draft.forget();
    onDone();
  });
  return (
    <form onSubmit={submit} className={FORM} aria-label="Add a reader" noValidate>
      <DraftNote draft={draft} />
      <Field label="Name" error={errors.name?.message}>
        {(props) => <input {...props} {...register('name')} className="input w-56" maxLength={120} />}
      </Field>
      <DeviceField of="readers" error={errors.device?.message} {...register('device')} />
      <Field label="Its line goes to" error={errors.controllerId?.message}>
        {(props) => (
          <select
            {...props}
            {...register('controllerId', { setValueAs: (value: string | null) => value || null })}
            className="select w-56"
          >
            {controllers.map(({ id, name }) => (
              <option key={id} value={id}>
                {name}
              </option>
            ))}
            <option value="">no controller: for enrolment</option>
          </select>
        )}
      </Field>
      <button type="submit" className="btn btn-primary mt-6" disabled={isLoading}>
        Add
      </button>
      <FailureNote failure={error} />
    </form>
  );
}
