/** Live checks in plain words: what makes the layout unusable, what is likely a slip, what is worth knowing. */
import type { Layout } from '@rawbits/core/format';
import { useDeferredValue, useMemo } from 'react';
import { useFacilityCodesQuery } from '../../../platform/endpoints/facilityCodes.ts';
import { useLibraryQuery } from '../../../platform/endpoints/formats.ts';
import { useSite } from '../../../platform/site/useSite.ts';
import { adviceFor, type Checked } from './checked.ts';

export function Checks({ checked, layout, self }: { checked: Checked; layout: Layout; self: string }) {
  const { id } = useSite();
  const { data: library } = useLibraryQuery();
  const { data: codes } = useFacilityCodesQuery(id);
  const later = useDeferredValue(checked.sound ? layout : undefined);
  const advice = useMemo(() => {
    if (!later || !library) return [];
    const formats = library.map((entry) => entry.format);
    const facilities = (codes ?? []).filter((c) => c.formatId === null || c.formatId === self).map((c) => c.code);
    return adviceFor(later, formats, self, facilities);
  }, [later, library, codes, self]);
  const errors = checked.problems.filter((p) => p.severity === 'error');
  const notes = checked.problems.filter((p) => p.severity === 'note');
  return (
    <div aria-live="polite" data-testid="checks">
      <h3 className="font-bold">{checked.failure || errors.length > 0 ? 'Not yet a format' : 'Advice'}</h3>
      <ul className="flex flex-col gap-1">
        {errors.map((problem) => (
          <li key={problem.message} className="font-bold text-signal">
            {problem.message}
          </li>
        ))}
        {advice.map(({ message, severity }) => (
          <li key={message} className={severity === 'warning' ? 'text-signal' : 'text-ink-2'}>
            {message}
          </li>
        ))}
        {notes.map(({ message }) => (
          <li key={message} className="text-ink-2">
            {message}
          </li>
        ))}
      </ul>
    </div>
  );
}
