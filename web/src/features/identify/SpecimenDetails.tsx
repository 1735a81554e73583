/** What else is known of a card: its facility code, the box that it comes from, other prints, whether zeros were lost. */
import type { CaseSpecimen } from '@rawbits/api';
import { useState } from 'react';

export function SpecimenDetails({
  row,
  specimen,
  onChange,
  onClose,
}: {
  row: number;
  specimen: CaseSpecimen;
  onChange: (part: Partial<CaseSpecimen>) => void;
  onClose: () => void;
}) {
  const [facility, setFacility] = useState(specimen.facility ?? '');
  const [group, setGroup] = useState(specimen.group ?? '');
  const [prints, setPrints] = useState((specimen.prints ?? []).join('; '));
  const wrong = facility !== '' && !/^\d{1,40}$/.test(facility);
  const commit = () => {
    if (wrong) return;
    const others = prints.split(';').map((text) => text.trim());
    const kept = others.filter(Boolean).slice(0, 8);
    onChange({
      facility: facility || undefined,
      group: group.trim() || undefined,
      prints: kept.length > 0 ? kept : undefined,
    });
  };
  const field = (label: string, value: string, set: (text: string) => void, width: string, hint: string) => (
    <label className="flex items-center gap-1.5">
      <span className="text-ink-2">{label}</span>
      <input
        value={value}
        onChange={(event) => set(event.target.value)}
        onBlur={commit}
        onKeyDown={(event) => event.key === 'Enter' && commit()}
        placeholder={hint}
        autoComplete="off"
        className={`input h-7! font-mono ${width}`}
      />
    </label>
  );
  return (
    <div className="panel flex shrink-0 flex-wrap items-center gap-x-4 gap-y-1 px-3 py-1 print:hidden">
      <strong>Specimen {row + 1}</strong>
      {field('facility code', facility, setFacility, 'w-28', 'not known')}
      {wrong && <span className="text-signal">digits only</span>}
      {field('box or group', group, setGroup, 'w-44', 'same as the rest')}
      {field('other prints', prints, setPrints, 'w-44', 'separated by ;')}
      <label className="flex items-center gap-1.5">
        <input
          type="checkbox"
          className="checkbox checkbox-xs"
          checked={specimen.lengthKnown === false}
          onChange={(event) => onChange({ lengthKnown: event.target.checked ? false : undefined })}
        />
        leading zeros may be lost
      </label>
      {specimen.asRead && (
        <span>
          put right; read as <code className="font-mono text-[0.9rem] break-all">{specimen.asRead}</code>{' '}
          <button
            type="button"
            className="switch-link underline"
            onClick={() => onChange({ bits: specimen.asRead!, asRead: undefined })}
          >
            as it was read
          </button>
        </span>
      )}
      <button type="button" className="switch-link ml-auto" onClick={onClose}>
        close
      </button>
    </div>
  );
}
