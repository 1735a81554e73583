/** One cardholder: what is kept of them, their cards, where and when they may pass. */
import { changedCardholderSchema, type OneCardholder } from '@rawbits/api';
import { Link } from 'react-router';
import { isAlarming, opensWords } from '../../../parts/opens/opens.ts';
import { DraftNote, Theirs } from '../../../platform/drafts/DraftNote.tsx';
import { useKeptForm } from '../../../platform/drafts/useKeptForm.ts';
import { useCardsInfiniteQuery } from '../../../platform/endpoints/cards.ts';
import { useChangePersonMutation } from '../../../platform/endpoints/people.ts';
import { checkedAs } from '../../../platform/forms/checkedAs.ts';
import { FailureNote } from '../../../platform/forms/FailureNote.tsx';
import { useSite } from '../../../platform/site/useSite.ts';
import { Groups } from '../Groups.tsx';
import { PersonalData } from './PersonalData.tsx';
import { FIELD_NAMES, PersonFields, type PersonTyped } from './PersonFields.tsx';
import { PersonPasses } from './PersonPasses.tsx';
import { Photograph } from './Photograph.tsx';
import { Pin } from './Pin.tsx';

export function OnePerson({ person }: { person: OneCardholder }) {
  const { id: site, may } = useSite();
  const [change, { error, isLoading }] = useChangePersonMutation();
  const { name, department, organisation, kind, contact, notes } = person;
  const [form, draft] = useKeptForm('cardholders', `${site} ${person.id}`, {
    resolver: checkedAs(changedCardholderSchema, (typed: PersonTyped) => ({ ...typed, revision: person.revision })),
    defaultValues: { name, department, organisation, kind, contact, notes } as PersonTyped,
  });
  const submit = form.handleSubmit(async (body) => {
    if ((await change({ site, id: person.id, change: body })).data) draft.forget();
  });
  return (
    <section className="panel flex min-h-0 flex-col gap-4 overflow-auto p-4" aria-label="One cardholder">
      <div className="flex items-start gap-4">
        {may('see photographs') && <Photograph person={person} />}
        <div className="flex min-w-0 grow flex-col gap-1">
          <h2 className="text-[1.15rem]">{name}</h2>
          <p className="text-ink-2">{[kind, department, organisation].filter(Boolean).join(', ')}</p>
          <Cards holder={person.id} />
          <Groups
            label="Access groups"
            of={name}
            groups={person.groups}
            changeFrom={(add, remove) => ({ kind: 'members', add, remove, holders: [person.id] })}
          />
        </div>
        <span className="flex shrink-0 gap-2">
          <Link to={`/${site}/stock/people/badges?holders=${person.id}`} className="btn btn-line">
            Badge
          </Link>
          <Link to={`/${site}/stock/people`} className="btn btn-line">
            Close
          </Link>
        </span>
      </div>
      <PersonPasses person={person} />
      <form onSubmit={submit} className="flex flex-col gap-3 border-t border-faint pt-3" noValidate>
        <DraftNote draft={draft} />
        <Theirs
          draft={draft}
          words={(field, value) => [FIELD_NAMES[field], String(value ?? '')]}
          subject={`cardholder ${name}`}
        />
        <fieldset disabled={!may('keep cards')}>
          <PersonFields register={form.register} errors={form.formState.errors} />
        </fieldset>
        <FailureNote failure={error} />
        {may('keep cards') && (
          <div>
            <button type="submit" className="btn btn-primary" disabled={isLoading || !form.formState.isDirty}>
              Save
            </button>
          </div>
        )}
      </form>
      {may('keep cards') && <Pin person={person} />}
      {may('keep cards') && <PersonalData person={person} />}
    </section>
  );
}

function Cards({ holder }: { holder: string }) {
  const { id: site } = useSite();
  const { data } = useCardsInfiniteQuery({ site, holder });
  const cards = data?.pages.flatMap((page) => page.cards) ?? [];
  if (!data) return null;
  if (cards.length === 0) return <p className="text-ink-2">holds no card</p>;
  return (
    <ul aria-label="Their cards">
      {cards.map((card) => (
        <li key={card.id}>
          <Link to={`/${site}/stock/${card.id}`} className="font-mono underline">
            {card.facility !== null && `${card.facility}/`}
            {card.number}
          </Link>{' '}
          <span className={isAlarming(card) ? 'text-signal' : 'text-ink-2'}>
            {card.state}, {opensWords(card)}
          </span>
        </li>
      ))}
    </ul>
  );
}
