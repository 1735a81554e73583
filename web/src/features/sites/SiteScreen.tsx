/** This site: its name and time zone, its rig; and more sites. */

import { zodResolver } from '@hookform/resolvers/zod';
import { newSiteSchema, type Site } from '@rawbits/api';
import type { UseFormReturn } from 'react-hook-form';
import type { z } from 'zod';
import { DraftNote, Theirs } from '../../platform/drafts/DraftNote.tsx';
import { useKeptForm } from '../../platform/drafts/useKeptForm.ts';
import { useBringRigInMutation } from '../../platform/endpoints/rig.ts';
import { useAddSiteMutation, useChangeSiteMutation } from '../../platform/endpoints/session.ts';
import { FailureNote } from '../../platform/forms/FailureNote.tsx';
import { Field } from '../../platform/forms/Field.tsx';
import { ZoneField } from '../../platform/forms/ZoneField.tsx';
import { useNavigateFromHere } from '../../platform/hooks/useNavigateFromHere.ts';
import { useSite } from '../../platform/site/useSite.ts';
import { DeviceHosts } from './DeviceHosts.tsx';
import { ExportSite, ImportSite } from './Transfer.tsx';

type Typed = z.input<typeof newSiteSchema>;
type Checked = z.output<typeof newSiteSchema>;

export function SiteScreen() {
  const { site, may } = useSite();
  if (!site || !may('manage sites')) return <p className="p-6">Only an administrator of {site?.name} changes it.</p>;
  return (
    <div className="flex flex-col gap-3 p-4 px-5">
      <h1>{site.name}</h1>
      <div className="grid grid-cols-2 items-start gap-3 max-lg:grid-cols-1">
        <div className="grid gap-3">
          <ThisSite key={site.id} site={site} />
          <DeviceHosts />
          <ExportSite site={site} />
        </div>
        <div className="grid gap-3">
          <RigOfSite site={site} />
          <AnotherSite zone={site.timeZone} />
          <ImportSite />
        </div>
      </div>
    </div>
  );
}

function Fields({ form }: { form: UseFormReturn<Typed, unknown, Checked> }) {
  const { register, formState } = form;
  const { errors } = formState;
  return (
    <>
      <Field label="Name" error={errors.name?.message}>
        {(props) => <input {...props} {...register('name')} className="input w-full" maxLength={120} />}
      </Field>
      <Field label="Short, as it stands in the rail" error={errors.shortName?.message}>
        {(props) => <input {...props} {...register('shortName')} className="input w-full" maxLength={24} />}
      </Field>
      <ZoneField error={errors.timeZone?.message}>{register('timeZone')}</ZoneField>
    </>
  );
}

const SITE_FIELDS: Record<keyof Typed, string> = { name: 'Name', shortName: 'Short', timeZone: 'Time zone' };

function ThisSite({ site }: { site: Site }) {
  const [form, draft] = useKeptForm<Typed, unknown, Checked>('sites', site.id, {
    resolver: zodResolver(newSiteSchema),
    defaultValues: { name: site.name, shortName: site.shortName, timeZone: site.timeZone },
  });
  const [change, { error, isLoading }] = useChangeSiteMutation();
  return (
    <form
      onSubmit={form.handleSubmit(async (values) => {
        if ((await change({ site: site.id, ...values })).data) draft.forget();
      })}
      className="panel grid gap-3 p-4"
      aria-label="This site"
      noValidate
    >
      <h2>This site</h2>
      <DraftNote draft={draft} />
      <Theirs draft={draft} words={(field, value) => [SITE_FIELDS[field], String(value ?? '')]} />
      <Fields form={form} />
      <FailureNote failure={error} />
      <button
        type="submit"
        className="btn btn-primary justify-self-start"
        disabled={isLoading || !form.formState.isDirty}
      >
        Save
      </button>
    </form>
  );
}

function RigOfSite({ site }: { site: Site }) {
  const [bringIn, { error, isLoading }] = useBringRigInMutation();
  return (
    <section className="panel grid gap-2 p-4" aria-label="The rig">
      <h2>The rig</h2>
      {site.hasRig ? (
        <p>The rig is at this site: its cards and readers are in the drawer at the right.</p>
      ) : (
        <>
          <p>
            The rig is simulated hardware: a controller, a reader at its door, one for enrolment, and a tray of cards
            that nobody has yet. With it everything can be tried before a real door is touched.
          </p>
          <FailureNote failure={error} />
          <button
            type="button"
            className="btn btn-primary justify-self-start"
            disabled={isLoading}
            onClick={() => void bringIn({ site: site.id })}
          >
            Bring the rig in
          </button>
        </>
      )}
    </section>
  );
}

function AnotherSite({ zone }: { zone: string }) {
  const navigate = useNavigateFromHere();
  const [form, draft] = useKeptForm<Typed, unknown, Checked>('sites', 'new', {
    resolver: zodResolver(newSiteSchema),
    defaultValues: { name: '', shortName: '', timeZone: zone },
  });
  const [add, { error, isLoading }] = useAddSiteMutation();
  const submit = form.handleSubmit(async (values) => {
    const added = await add(values);
    if (!added.data) return;
    draft.forget();
    navigate(`/${added.data.id}/site`);
  });
  return (
    <form onSubmit={submit} className="panel grid gap-3 p-4" aria-label="Another site" noValidate>
      <h2>Another site</h2>
      <DraftNote draft={draft} />
      <Fields form={form} />
      <FailureNote failure={error} />
      <button type="submit" className="btn btn-line justify-self-start" disabled={isLoading}>
        Add it
      </button>
    </form>
  );
}
