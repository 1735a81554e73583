/** Device hosts: what offers the site its devices, whether it is connected, and the token with which it dials in. */

import { zodResolver } from '@hookform/resolvers/zod';
import { type DeviceHost, deviceSorts, newHostSchema } from '@rawbits/api';
import type { z } from 'zod';
import { ShownOnce } from '../../parts/secret/ShownOnce.tsx';
import { useKeptForm } from '../../platform/drafts/useKeptForm.ts';
import { useAddHostMutation, useHostsQuery, useRevokeHostMutation } from '../../platform/endpoints/hosts.ts';
import { FailureNote } from '../../platform/forms/FailureNote.tsx';
import { Field } from '../../platform/forms/Field.tsx';
import { useClock } from '../../platform/site/useClock.ts';
import { useSite } from '../../platform/site/useSite.ts';

/** A host that dials in or is lost tells nobody by itself. */
const ASK_AGAIN_MS = 5000;

export function DeviceHosts() {
  const { id: site } = useSite();
  const { data = [], error } = useHostsQuery(site, { pollingInterval: ASK_AGAIN_MS, skipPollingIfUnfocused: true });
  return (
    <section className="panel grid gap-3 p-4" aria-label="Device hosts">
      <h2>Device hosts</h2>
      <p className="text-ink-2">
        A device host is a program that stands where devices are plugged in, dials in to Raw Bits and offers them. The
        rig is one.
      </p>
      <FailureNote failure={error} />
      {data.length > 0 && (
        <table className="grid-table">
          <thead>
            <tr>
              <th>name</th>
              <th>offers</th>
              <th>line</th>
              <th />
            </tr>
          </thead>
          <tbody>
            {data.map((host) => (
              <HostRow key={host.id} site={site} host={host} />
            ))}
          </tbody>
        </table>
      )}
      <NewHost />
    </section>
  );
}

function standing({ revokedAt, connected, heardAt }: DeviceHost, clock: (instant: string) => string): string {
  if (revokedAt) return 'revoked';
  if (connected) return 'connected';
  return heardAt ? `not connected; last heard ${clock(heardAt)}` : 'has not dialled in yet';
}

function HostRow({ site, host }: { site: string; host: DeviceHost }) {
  const clock = useClock();
  const [revoke, { error, isLoading }] = useRevokeHostMutation();
  return (
    <tr>
      <td className="font-bold">{host.name}</td>
      <td className="max-w-72">
        <span className="font-mono">{host.devices.join(', ') || '—'}</span>
        <br />
        <span className="text-ink-2">may offer {host.allows.join(', ')}</span>
      </td>
      <td className={host.connected ? 'text-primary' : host.revokedAt ? 'text-ink-2' : 'text-signal'}>
        {standing(host, clock)}
      </td>
      <td>
        {!host.revokedAt && !host.beside && (
          <button
            type="button"
            className="btn btn-line btn-small"
            disabled={isLoading}
            onClick={() => void revoke({ site, id: host.id })}
          >
            Revoke
          </button>
        )}
        <FailureNote failure={error} />
      </td>
    </tr>
  );
}

function NewHost() {
  const { id: site } = useSite();
  const [add, { data, error, isLoading, reset: forget }] = useAddHostMutation();
  const [{ register, handleSubmit, reset, formState }] = useKeptForm<
    z.input<typeof newHostSchema>,
    unknown,
    z.output<typeof newHostSchema>
  >('device hosts', `${site} new`, {
    resolver: zodResolver(newHostSchema),
    defaultValues: { name: '', allows: ['pads', 'readers'] },
  });
  const submit = handleSubmit(async (host) => {
    if ((await add({ site, ...host })).data) reset();
  });
  if (data) return <ShownOnce name={data.host.name} what="token" text={data.token} onDone={forget} />;
  return (
    <form
      onSubmit={submit}
      className="flex flex-wrap items-end gap-3 border-t border-faint pt-3"
      aria-label="A new device host"
      noValidate
    >
      <Field label="Name, such as where it stands" error={formState.errors.name?.message} className="min-w-48 flex-1">
        {(props) => <input {...props} {...register('name')} className="input w-full" maxLength={120} />}
      </Field>
      <fieldset className="flex flex-wrap items-center gap-x-3">
        <legend className="field-label">It may offer</legend>
        {deviceSorts.map((sort) => (
          <label key={sort} className="flex items-center gap-1.5">
            <input type="checkbox" className="checkbox checkbox-sm" value={sort} {...register('allows')} />
            {sort}
          </label>
        ))}
        {formState.errors.allows && <p className="font-bold text-signal">{formState.errors.allows.message}</p>}
      </fieldset>
      <button type="submit" className="btn btn-line" disabled={isLoading}>
        Add a host
      </button>
      <FailureNote failure={error} />
    </form>
  );
}
