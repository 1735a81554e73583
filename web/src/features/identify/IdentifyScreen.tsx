/** Identify: the cases of the site, and the one being worked on. */

import { caseFileSchema } from '@rawbits/api';
import { type FormEvent, useState } from 'react';
import { Link, useParams } from 'react-router';
import { Term } from '../../parts/term/Term.tsx';
import { useDraft } from '../../platform/drafts/useDraft.ts';
import { useCasesQuery, useStartCaseMutation } from '../../platform/endpoints/cases.ts';
import { FailureNote, type Told } from '../../platform/forms/FailureNote.tsx';
import { Field } from '../../platform/forms/Field.tsx';
import { useNavigateFromHere } from '../../platform/hooks/useNavigateFromHere.ts';
import { useClock } from '../../platform/site/useClock.ts';
import { useSite } from '../../platform/site/useSite.ts';
import { useAppSelector } from '../../platform/state/hooks.ts';
import { CaseView } from './CaseView.tsx';

export function IdentifyScreen() {
  const { case: id } = useParams();
  const { id: site } = useSite();
  return id ? <CaseView key={id} site={site} id={id} /> : <Cases />;
}

function Cases() {
  const clock = useClock();
  const { id: site, may } = useSite();
  const { data: cases, error } = useCasesQuery(site);
  return (
    <div className="flex h-full min-h-0 flex-col gap-3 p-4 px-5">
      <h1>Identify</h1>
      <FailureNote failure={error} />
      <div className="grid min-h-0 flex-1 grid-cols-[minmax(0,3fr)_minmax(0,2fr)] gap-3 max-lg:grid-cols-1">
        <section className="panel min-h-0 overflow-auto p-4" aria-label="Cases">
          {!cases ? (
            <p className="text-ink-2">{error ? '' : 'Loading …'}</p>
          ) : cases.length === 0 ? (
            <p>
              No case yet. Start one with the cards that nobody knows: read each, type what is printed on it, and see
              what they prove.
            </p>
          ) : (
            <table className="grid-table">
              <thead>
                <tr>
                  <th>case</th>
                  <th className="text-right!">
                    <Term word="specimen">specimens</Term>
                  </th>
                  <th>became</th>
                  <th>last changed</th>
                </tr>
              </thead>
              <tbody>
                {cases.map(({ id, name, specimens, formatId, changedAt, createdBy }) => (
                  <tr key={id}>
                    <td>
                      <Link to={`/${site}/identify/${id}`} className="font-bold underline underline-offset-4">
                        {name}
                      </Link>
                    </td>
                    <td className="text-right font-mono">{specimens}</td>
                    <td>
                      {formatId ? (
                        <Link to={`/${site}/formats/${formatId}`} className="underline underline-offset-4">
                          {formatId}
                        </Link>
                      ) : (
                        'open'
                      )}
                    </td>
                    <td className="text-ink-2">
                      {clock(changedAt)}, begun by {createdBy}
                    </td>
                  </tr>
                ))}
              </tbody>
            </table>
          )}
        </section>
        {may('identify cards') && <StartCase />}
      </div>
    </div>
  );
}

function StartCase() {
  const { id: site } = useSite();
  const inHand = useAppSelector((state) => state.read.inHand);
  const printed = useAppSelector((state) => state.read.printed);
  const [name = '', setName] = useDraft<string>('cases', `${site} new`);
  const [withRead, setWithRead] = useState(false);
  const [start, { error, isLoading }] = useStartCaseMutation();
  const [wrong, setWrong] = useState<Told>();
  const navigate = useNavigateFromHere();
  const open = (id: string | undefined) => id && navigate(`/${site}/identify/${id}`);
  const submit = async (event: FormEvent) => {
    event.preventDefault();
    const first = withRead && inHand ? [{ bits: inHand.bits, source: inHand.from, ...(printed && { printed }) }] : [];
    const started = await start({ site, name, specimens: first });
    if (started.data) setName(undefined);
    open(started.data?.id);
  };
  const bringIn = async (file: File | undefined) => {
    if (!file) return;
    try {
      const { schema: _schema, ...body } = caseFileSchema.parse(JSON.parse(await file.text()));
      open((await start({ site, ...body })).data?.id);
    } catch {
      setWrong({ message: `${file.name} is no case.`, hint: 'Choose a file that was kept from a case here.' });
    }
  };
  return (
    <form onSubmit={submit} className="panel flex flex-col gap-3 self-start p-4" aria-label="Start a case">
      <h2>
        Start a <Term word="case">case</Term>
      </h2>
      <Field label="Name" hint="The box, the door, the customer: what the cards have in common">
        {(props) => (
          <input
            {...props}
            value={name}
            onChange={(event) => setName(event.target.value)}
            className="input w-full"
            maxLength={120}
            required
          />
        )}
      </Field>
      {inHand && (
        <label className="flex items-center gap-1.5">
          <input
            type="checkbox"
            className="checkbox checkbox-sm"
            checked={withRead}
            onChange={(event) => setWithRead(event.target.checked)}
          />
          begin with the read in hand ({inHand.bits.length} bits from {inHand.from})
        </label>
      )}
      <FailureNote failure={error ?? wrong} />
      <button type="submit" className="btn btn-primary self-start" disabled={isLoading}>
        Start
      </button>
      <label className="text-ink-2">
        or import a case:{' '}
        <input
          type="file"
          accept=".json"
          className="file-input file-input-sm"
          aria-label="A case kept as a file"
          onChange={(event) => void bringIn(event.target.files?.[0])}
        />
      </label>
    </form>
  );
}
