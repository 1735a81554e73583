import type { TrailEntry } from '@rawbits/api';
import { differingFields } from './difference.ts';
import { sentenceOf } from './sentences.ts';

/** A change in a sentence, with what it changed field by field. */
export function ChangeLine({ change, time }: { change: TrailEntry; time: string }) {
  return (
    <li className="grid grid-cols-[7.5rem_5rem_minmax(0,1fr)] gap-x-3 max-sm:grid-cols-2 max-sm:*:last:col-span-2 border-t border-faint py-1.5">
      <span className="text-ink-2">{time}</span>
      <span className="text-ink-2">change</span>
      <span className="min-w-0">
        <strong>{change.operator}</strong> {sentenceOf(change)}
        <BeforeAndAfter change={change} />
      </span>
    </li>
  );
}

/** What a change changed, field by field, behind one click. */
export function BeforeAndAfter({ change }: { change: TrailEntry }) {
  const fields = differingFields(change.before, change.after);
  if (fields.length === 0) return null;
  return (
    <details>
      <summary className="min-h-6 cursor-pointer text-ink-2">before and after</summary>
      <table className="grid-table my-1 max-w-3xl">
        <tbody>
          {fields.map(({ field, before, after }) => (
            <tr key={field}>
              <td className="text-ink-2">{field}</td>
              <td className="font-mono break-all">{before ?? '–'}</td>
              <td className="font-mono break-all">{after ?? '–'}</td>
            </tr>
          ))}
        </tbody>
      </table>
    </details>
  );
}
