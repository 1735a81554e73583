/** Makes the format of a case for the site: the layout chosen with its standing, and its facility code. */

import { type Body, type caseApi, caseResultSchema } from '@rawbits/api';
import { parseLayoutLine, structuralId } from '@rawbits/core/format';
import type { GroupFinding } from '@rawbits/core/identify';
import { translationInWords } from '@rawbits/core/translate';
import { useMemo, useState } from 'react';
import type { UseFormReturn } from 'react-hook-form';
import { boxInWords } from '../../parts/strip/boxInWords.ts';
import { DraftNote } from '../../platform/drafts/DraftNote.tsx';
import { useKeptForm } from '../../platform/drafts/useKeptForm.ts';
import { useMakeFormatMutation } from '../../platform/endpoints/cases.ts';
import { checkedAs } from '../../platform/forms/checkedAs.ts';
import { FailureNote } from '../../platform/forms/FailureNote.tsx';
import { Field } from '../../platform/forms/Field.tsx';
import { said } from '../../platform/frame/slice.ts';
import { useNavigateFromHere } from '../../platform/hooks/useNavigateFromHere.ts';
import { useAppDispatch } from '../../platform/state/hooks.ts';
import { shownAs } from './columns.ts';
import { translationOf } from './translationOf.ts';
import type { WorkingCase } from './useCase.ts';

type Layout = GroupFinding['layouts'][number];
type Translation = ReturnType<typeof translationOf>;

/** A field is called as the part of the result that it becomes. */
interface Typed {
  format: { id: string; name: string };
  facility: { name: string };
  translation: { name: string };
}
type Result = Body<typeof caseApi.result>;

/** What is made of the case; what was left empty is not made. */
function resultOf(
  { format, facility, translation }: Typed,
  layout: Layout,
  standing: Result['standing'],
  kept: Translation,
  range: GroupFinding['range'],
): Result {
  const id = format.id || structuralId(parseLayoutLine(layout.layout));
  const code = facility.name.trim();
  const name = translation.name.trim();
  return {
    // The case's own revision is known when all of it has been kept.
    revision: 0,
    standing,
    settledFor: range && settledForOf(range),
    format: layout.format ? { id: layout.format } : { id, name: format.name, layout: layout.layout },
    facility: layout.facility !== undefined && code ? { code: layout.facility, name: code } : null,
    translation: kept && name ? { name, translation: kept } : null,
  };
}

const settledForOf = ({ from, to, of, proven, settled, likely, open }: NonNullable<GroupFinding['range']>) => ({
  from,
  to,
  of,
  proven,
  settled,
  likely,
  open,
});

interface Props {
  working: WorkingCase;
  finding: GroupFinding;
  site: string;
  onDone: () => void;
}

export function MakeFormat({ working, finding, site, onDone }: Props) {
  const shown = working.shown!;
  const [index, setIndex] = useState(0);
  const layout = finding.layouts[index]!;
  const [make, { error, isLoading }] = useMakeFormatMutation();
  const dispatch = useAppDispatch();
  const navigate = useNavigateFromHere();
  const translation = useMemo(() => translationOf(layout.layout, shown.specimens), [layout.layout, shown.specimens]);
  const standing = finding.bits.every((bit) => shownAs(bit) === 'proven') ? 'proven' : 'presumed';
  const [form, draft] = useKeptForm('formats made of cases', `${site} ${shown.id}`, {
    resolver: checkedAs(caseResultSchema, (typed: Typed) =>
      resultOf(typed, layout, standing, translation, finding.range),
    ),
    defaultValues: { format: { id: '', name: shown.name }, facility: { name: shown.name }, translation: { name: '' } },
  });
  const submit = form.handleSubmit(async (result) => {
    const made = await make({ site, id: shown.id, result: { ...result, revision: await working.revision() } });
    if (!made.data) return;
    draft.forget();
    dispatch(said(`The format is in use at this site, proven on ${made.data.evidence} cards; accept it at a door`));
    navigate(`/${site}/formats/${made.data.formatId}`);
  });
  return (
    <form
      className="panel flex min-h-0 flex-col gap-3 overflow-auto p-4"
      aria-label="Make the format"
      onSubmit={submit}
      noValidate
    >
      <h2>Make the format</h2>
      <DraftNote draft={draft} />
      <Layouts layouts={finding.layouts} chosen={index} onChoose={setIndex} />
      <Names form={form} layout={layout} translation={translation} />
      <p className="text-ink-2">
        {standing === 'proven'
          ? 'Every bit’s formula is proven by these cards; what each bit is for stays a presumption.'
          : `The layout is presumed: it agrees with every card${finding.assuming ? ' but those that are suspected' : ''}. The case stays as its evidence.`}
      </p>
      {finding.range && (
        <p data-testid="settled-for">
          {boxInWords(finding.range)} {finding.assuming ? 'That is so with what is suspected put right. ' : ''}This is
          kept with the case, and shown with the format.
        </p>
      )}
      <FailureNote failure={error} />
      <div className="flex gap-2">
        <button type="submit" className="btn btn-primary" disabled={isLoading}>
          Make it, and use it at this site
        </button>
        <button type="button" className="btn btn-line" onClick={onDone}>
          Not now
        </button>
      </div>
    </form>
  );
}

function Layouts({
  layouts,
  chosen,
  onChoose,
}: {
  layouts: Layout[];
  chosen: number;
  onChoose: (index: number) => void;
}) {
  return (
    <>
      {layouts.length > 1 && (
        <p className="text-signal">
          These cards do not part the layouts below. Choosing one is a presumption; the card named under “Read this one
          next” would settle it.
        </p>
      )}
      {layouts.map((layout, i) => (
        <label
          key={layout.layout}
          className={`flex cursor-pointer items-baseline gap-2 p-1 ${i === chosen ? 'bg-chosen' : ''}`}
        >
          <input
            type="radio"
            name="made-layout"
            className="radio radio-xs"
            checked={i === chosen}
            onChange={() => onChoose(i)}
          />
          <code className="font-mono break-words">{layout.layout}</code>
          {layout.format && <span className="text-ink-2">{layout.format} of the library</span>}
        </label>
      ))}
    </>
  );
}

function Names({
  form: { register, formState },
  layout,
  translation,
}: {
  // biome-ignore lint/suspicious/noExplicitAny: what is submitted does not matter to the fields
  form: UseFormReturn<Typed, unknown, any>;
  layout: Layout;
  translation: Translation;
}) {
  const { errors } = formState;
  return (
    <div className="grid grid-cols-3 gap-3 max-md:grid-cols-1">
      {!layout.format && (
        <>
          <Field label="Name of the format" error={errors.format?.message}>
            {(props) => <input {...props} {...register('format.name')} maxLength={120} className="input w-full" />}
          </Field>
          <Field label="Id">
            {(props) => (
              <input
                {...props}
                {...register('format.id')}
                placeholder={structuralId(parseLayoutLine(layout.layout))}
                maxLength={40}
                className="input w-full font-mono"
              />
            )}
          </Field>
        </>
      )}
      {layout.facility !== undefined && (
        <Field
          label={`Name of facility code ${layout.facility}`}
          hint="Empty: it gets no name"
          error={errors.facility?.message}
        >
          {(props) => <input {...props} {...register('facility.name')} maxLength={120} className="input w-full" />}
        </Field>
      )}
      {translation && (
        <Field
          label="Keep the translation from print to number as"
          hint={translationInWords(translation)}
          error={errors.translation?.message}
        >
          {(props) => (
            <input
              {...props}
              {...register('translation.name')}
              placeholder="empty: it is not kept"
              maxLength={120}
              className="input w-full"
            />
          )}
        </Field>
      )}
    </div>
  );
}
