/** One case: its specimens as a stack of tapes, and what they prove. */
import type { CaseSpecimen } from '@rawbits/api';
import type { GroupFinding } from '@rawbits/core/identify';
import { useMemo, useState } from 'react';
import { Link } from 'react-router';
import { useFacilityCodesQuery } from '../../platform/endpoints/facilityCodes.ts';
import { useFormatsQuery } from '../../platform/endpoints/formats.ts';
import { FailureNote } from '../../platform/forms/FailureNote.tsx';
import { useSite } from '../../platform/site/useSite.ts';
import { counted } from '../../platform/words/words.ts';
import { BothTyped } from './BothTyped.tsx';
import { Box } from './Box.tsx';
import { CaseMenu } from './CaseMenu.tsx';
import { MakeFormat } from './MakeFormat.tsx';
import { Predict } from './Predict.tsx';
import { PrintedFinding } from './PrintedFinding.tsx';
import { Proves } from './Proves.tsx';
import { ReadNext } from './ReadNext.tsx';
import { Stack } from './Stack.tsx';
import { Suspects } from './Suspects.tsx';
import { TakeCards } from './TakeCards.tsx';
import { useCase, type WorkingCase } from './useCase.ts';
import { useFinding } from './useFinding.ts';

const NO_SPECIMENS: CaseSpecimen[] = [];

export function CaseView({ site, id }: { site: string; id: string }) {
  const working = useCase(site, id);
  const { may } = useSite();
  const { shown, error, failure, setSpecimens } = working;
  const { data: formats } = useFormatsQuery(site);
  const { data: codes } = useFacilityCodesQuery(site);
  const [group, setGroup] = useState(0);
  const [layout, setLayout] = useState(0);
  const [making, setMaking] = useState(false);
  const [focusRow, setFocusRow] = useState<number>();
  const specimens = shown?.specimens ?? NO_SPECIMENS;
  const questions = shown?.questions;
  const request = useMemo(
    () =>
      questions &&
      formats &&
      codes && { specimens, questions, library: formats.map((f) => f.format), codes: codes.map(({ code }) => code) },
    [specimens, questions, formats, codes],
  );
  const { answer, steps, busy } = useFinding(request);
  const whole = answer && 'finding' in answer ? answer.finding : undefined;
  const groups: GroupFinding[] = whole?.groups ?? (whole ? [whole] : []);
  const finding = groups[group] ?? groups[0];
  const laid = Math.min(layout, Math.max(0, (finding?.layouts.length ?? 1) - 1));
  if (!shown) return <div className="p-4">{error ? <FailureNote failure={error} /> : 'Loading …'}</div>;
  const add = (specimen: CaseSpecimen) => {
    setSpecimens((all) => [...all, specimen]);
    setFocusRow(specimens.length);
  };
  return (
    <div className="flex h-full min-h-0 flex-col gap-2 p-4 px-5">
      <div className="flex flex-wrap items-center gap-x-4 gap-y-1 print:hidden">
        <h1>{shown.name}</h1>
        <span className="text-ink-2" data-testid="case-status">
          {counted(specimens.length, 'specimen')}
          {finding && ` · ${finding.length} bits${finding.lengths ? ', or another length' : ''}`}
          {busy && ' · working it out …'}
        </span>
        <span className="ml-auto flex flex-wrap items-center gap-2">
          <CaseMenu working={working} />
          <button type="button" className="btn btn-line" disabled={!finding} onClick={() => window.print()}>
            Printed finding
          </button>
          <button
            type="button"
            className="btn btn-primary"
            disabled={!finding || finding.layouts.length === 0}
            onClick={() => setMaking(true)}
          >
            Make the format …
          </button>
        </span>
      </div>
      <BothTyped working={working} />
      <FailureNote failure={failure ?? (answer && 'failure' in answer ? answer.failure : undefined)} />
      {shown.formatId && (
        <p className="print:hidden">
          This case became{' '}
          <Link className="underline underline-offset-4" to={`/${site}/formats/${shown.formatId}`}>
            {shown.formatId}
          </Link>
          .
        </p>
      )}
      <TakeCards working={working} onAdd={add} />
      {groups.length > 1 && (
        <nav aria-label="Groups" className="flex flex-wrap gap-x-2 print:hidden">
          {groups.map((g, i) => (
            <button
              key={g.group}
              type="button"
              className="switch-link"
              aria-pressed={g === finding}
              onClick={() => setGroup(i)}
            >
              {g.group || 'without a group'} ({g.rows.length})
            </button>
          ))}
        </nav>
      )}
      {making && finding ? (
        <MakeFormat working={working} finding={finding} site={site} onDone={() => setMaking(false)} />
      ) : (
        <>
          {finding?.range && (
            <Box
              range={finding.range}
              {...(may('identify cards') && {
                onWhy: (number: string) => working.setQuestions(whyOf(working, number)),
              })}
            />
          )}
          {finding && <Suspects finding={finding} working={working} />}
          <Stack
            specimens={specimens}
            finding={finding}
            layout={finding?.layouts[laid]?.layout}
            focusRow={focusRow}
            onFocused={() => setFocusRow(undefined)}
            onChange={(row, part) =>
              setSpecimens((all) => all.map((s, i) => (i === row ? clean({ ...s, ...part }) : s)))
            }
            onTyped={working.typed}
            onRemove={(row) =>
              working.undoable(`Specimen ${row + 1} removed.`, (all) => all.filter((_, i) => i !== row))
            }
          />
          {finding && (
            <div className="grid min-h-52 flex-1 grid-cols-[minmax(0,4fr)_minmax(0,5fr)_minmax(0,4fr)] gap-3 max-lg:grid-cols-1 print:hidden">
              <ReadNext finding={finding} working={working} steps={steps} />
              <Proves finding={finding} layout={laid} onLayout={setLayout} />
              <Predict finding={finding} working={working} />
            </div>
          )}
        </>
      )}
      {finding && <PrintedFinding name={shown.name} finding={finding} specimens={specimens} />}
    </div>
  );
}

/** Without the parts that say nothing. */
function clean(specimen: CaseSpecimen): CaseSpecimen {
  const kept = Object.entries(specimen).filter(([, value]) => value !== undefined && value !== '');
  return Object.fromEntries(kept) as CaseSpecimen;
}

/** The questions with one card more, at the top, as many as are kept. */
const whyOf = ({ shown }: WorkingCase, number: string) => ({
  predict: [number, ...(shown?.questions.predict ?? []).filter((one) => one !== number)].slice(0, 200),
});
