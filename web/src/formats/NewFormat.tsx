/** A new format from its layout line, drawn and checked as it is typed. */
import { Bits } from '@rawbits/core/bits';
import { type Failure, failureOf } from '@rawbits/core/failure';
import { type Layout, type Problem, parseLayoutLine, problemsOf } from '@rawbits/core/format';
import { useDeferredValue, useMemo } from 'react';
import { useForm } from 'react-hook-form';
import { useNavigate } from 'react-router';
import { useSite } from '../frame/useSite.ts';
import { FailureNote } from '../shared/FailureNote.tsx';
import { Field } from '../shared/Field.tsx';
import { drawingOf } from '../tape/ofFormat.ts';
import { Tape } from '../tape/Tape.tsx';
import { useAddFormatMutation } from './endpoints.ts';

interface Checked {
  layout?: Layout;
  failure?: Failure;
  problems: Problem[];
}

function check(line: string): Checked {
  try {
    const layout = parseLayoutLine(line);
    const problems = problemsOf(layout);
    return { problems, ...(problems.every((p) => p.severity === 'note') && { layout }) };
  } catch (error) {
    return { failure: failureOf(error), problems: [] };
  }
}

export function NewFormat({ onDone }: { onDone: () => void }) {
  const { id } = useSite();
  const { register, handleSubmit, watch } = useForm({ defaultValues: { id: '', name: '', layout: '', source: '' } });
  const line = useDeferredValue(watch('layout'));
  const checked = useMemo(() => (line.trim() === '' ? undefined : check(line)), [line]);
  const drawing = useMemo(() => checked?.layout && drawingOf(checked.layout, undefined, (p) => p), [checked]);
  const [add, { error, isLoading }] = useAddFormatMutation();
  const navigate = useNavigate();
  const submit = handleSubmit(async (values) => {
    const added = await add(values);
    if (!added.data) return;
    onDone();
    void navigate(`/${id}/formats/${added.data.format.id}`);
  });
  return (
    <form onSubmit={submit} className="panel flex min-h-0 flex-col gap-3 overflow-auto p-4" aria-label="New format">
      <h2 className="text-[1.15rem]">New format</h2>
      <Field
        label="Layout line"
        hint="The length, then each span: 26 | 1 even 2-13 | 2-9 facility | 10-25 number | 26 odd 14-25"
      >
        {(props) => (
          <textarea
            {...props}
            {...register('layout')}
            rows={3}
            spellCheck={false}
            className="textarea w-full font-mono"
            required
          />
        )}
      </Field>
      {checked?.failure && (
        <p role="alert" className="text-signal">
          <strong>
            {checked.failure.where?.column !== undefined && `Column ${checked.failure.where.column}: `}
            {checked.failure.message}
          </strong>{' '}
          {checked.failure.hint}
        </p>
      )}
      <ul>
        {checked?.problems.map((problem) => (
          <li key={problem.message} className={problem.severity === 'error' ? 'font-bold text-signal' : 'text-ink-2'}>
            {problem.message}
          </li>
        ))}
      </ul>
      {checked?.layout && drawing && (
        <Tape
          bits={Bits.build(checked.layout.bits, () => 0).toBinary()}
          label="The layout as a tape"
          spans={drawing.spans}
          threads={drawing.threads}
          bare
        />
      )}
      <div className="grid grid-cols-2 gap-3 max-md:grid-cols-1">
        <Field label="Name">
          {(props) => <input {...props} {...register('name')} className="input w-full" maxLength={120} required />}
        </Field>
        <Field label="Id" hint="Lower-case letters, digits, hyphens">
          {(props) => (
            <input
              {...props}
              {...register('id')}
              pattern="[a-z0-9][a-z0-9\-]{0,39}"
              className="input w-full font-mono"
              required
            />
          )}
        </Field>
      </div>
      <Field label="Source" hint="Data sheet, box label, finding …">
        {(props) => <input {...props} {...register('source')} className="input w-full" maxLength={400} />}
      </Field>
      <FailureNote failure={error} />
      <div className="flex gap-2">
        <button type="submit" className="btn btn-primary" disabled={isLoading || !checked?.layout}>
          Save to the library
        </button>
        <button type="button" className="btn btn-line" onClick={onDone}>
          Cancel
        </button>
      </div>
    </form>
  );
}
