/** Defines a format on the tape, in a table and as a layout line at once: all three follow one another. */
import type { SiteChange, SiteFormat } from '@rawbits/api';
import { Bits } from '@rawbits/core/bits';
import { decode } from '@rawbits/core/codec';
import { failureOf } from '@rawbits/core/failure';
import { type Layout, paint, positionsOf, printLayoutLine, rangeOf, remove, toggleCovered } from '@rawbits/core/format';
import { type KeyboardEvent, useMemo, useRef, useState } from 'react';
import { DryRunPanel } from '../../../parts/dryRun/DryRunPanel.tsx';
import { drawingOf } from '../../../parts/tape/ofFormat.ts';
import { boundsOf, type Selection } from '../../../parts/tape/selection.ts';
import { Tape } from '../../../parts/tape/Tape.tsx';
import { said } from '../../../platform/frame/slice.ts';
import { useAppDispatch, useAppSelector } from '../../../platform/state/hooks.ts';
import { Checks } from './Checks.tsx';
import { checkLine } from './checked.ts';
import { draftDiscarded, draftDrawn, draftRedone, draftUndone } from './drafts.ts';
import { LineField } from './LineField.tsx';
import { ROLE_KEYS, type RoleChoice, spanFor } from './roles.ts';
import { SaveDraft } from './SaveDraft.tsx';
import { SpanTable } from './SpanTable.tsx';
import { Toolbar } from './Toolbar.tsx';
import { TryIt } from './TryIt.tsx';

const BLANK = checkLine('26').layout!;

export function FormatEditor({
  draftKey,
  entry,
  onDone,
}: {
  draftKey: string;
  entry?: SiteFormat;
  onDone: (id?: string) => void;
}) {
  const draft = useAppSelector((state) => state.drafts[draftKey]!);
  const sample = useAppSelector((state) => state.read.latest?.bits);
  const dispatch = useAppDispatch();
  const checked = useMemo(() => checkLine(draft.line), [draft.line]);
  // While the line is being typed and cannot be read, the tape shows the last layout that could be.
  const last = useRef<Layout>(BLANK);
  if (checked.layout) last.current = checked.layout;
  const layout = last.current;
  const [selection, setSelection] = useState<Selection | null>(null);
  const [typedBits, setTypedBits] = useState<string>();
  const [chosen, setChosen] = useState<number>();
  const [wrong, setWrong] = useState<string>();
  const [change, setChange] = useState<SiteChange>();
  const at = typedBits ?? (selection ? rangeOfSelection(selection) : '');
  const draw = (next: Layout) => {
    setWrong(undefined);
    dispatch(draftDrawn({ key: draftKey, line: printLayoutLine(next) }));
  };
  const giveRole = (role: RoleChoice) => {
    try {
      const span = spanFor(layout, at, role);
      const next = paint(layout, span);
      draw(next);
      setChosen(next.spans.findIndex((s) => s.at === span.at && s.role === span.role));
      setTypedBits(undefined);
    } catch (error) {
      setWrong(at === '' ? 'Select bits on the tape first, or type their positions.' : failureOf(error).message);
    }
  };
  const clear = () => {
    const taken = new Set(at === '' ? [] : positionsOf(at));
    const index = layout.spans.findIndex((span) => positionsOf(span.at).some((p) => taken.has(p)));
    if (index >= 0) draw(remove(layout, index));
  };
  const cover = (on: boolean) => {
    const span = chosen === undefined ? undefined : layout.spans[chosen];
    if (span?.role !== 'parity' && span?.role !== 'check')
      return setWrong('Choose a parity bit or a check in the table first.');
    const covered = positionsOf(span.covers);
    let next = layout;
    for (const p of positionsOf(at)) if (covered.includes(p) !== on) next = toggleCovered(next, chosen!, p);
    draw(next);
  };
  const onKey = (event: KeyboardEvent): boolean => {
    const does = keyOf(event);
    if (does === 'undo' || does === 'redo') dispatch(does === 'redo' ? draftRedone(draftKey) : draftUndone(draftKey));
    else if (does === 'clear') clear();
    else if (does === 'cover' || does === 'uncover') cover(does === 'cover');
    else if (does) giveRole(does.role);
    return does !== undefined;
  };
  const { shown, drawing } = useDrawing(layout, sample, checked.sound);
  if (change && entry)
    return (
      <DryRunPanel
        change={change}
        title={`a new version of ${entry.format.name}, taken up at this site`}
        onSaved={() => {
          onDone(entry.format.id);
          dispatch(draftDiscarded(draftKey));
          dispatch(said(`A new version of ${entry.format.id} is saved and in use here; load the doors`));
        }}
        onClose={() => setChange(undefined)}
      />
    );
  return (
    <section className="panel flex min-h-0 min-w-0 flex-col gap-3 overflow-auto p-4" aria-label="Editor">
      <div>
        <Tape
          bits={shown.toBinary()}
          label="The format being defined. Select bits, then give them a role by its key"
          spans={drawing.spans}
          threads={drawing.threads}
          selected={selection}
          onSelect={(next) => {
            setSelection(next);
            setTypedBits(undefined);
          }}
          onKey={onKey}
          bare
        />
        <Toolbar
          draftKey={draftKey}
          at={at}
          onAt={setTypedBits}
          onRole={giveRole}
          onClear={clear}
          onCover={cover}
          covering={chosen === undefined ? undefined : layout.spans[chosen]}
        />
        {wrong && (
          <p role="alert" className="text-signal">
            {wrong}
          </p>
        )}
      </div>
      <LineField draftKey={draftKey} layout={layout} failure={checked.failure} onLayout={draw} />
      <div className="grid grid-cols-[minmax(0,3fr)_minmax(0,2fr)] gap-4 max-xl:grid-cols-1">
        <SpanTable layout={layout} chosen={chosen} onChoose={setChosen} onLayout={draw} />
        <Checks checked={checked} layout={layout} self={entry?.format.id ?? draft.id} />
      </div>
      {checked.sound && checked.layout && <TryIt layout={checked.layout} saved={entry?.format} />}
      <SaveDraft draftKey={draftKey} checked={checked} entry={entry} onDryRun={setChange} onDone={onDone} />
    </section>
  );
}

function rangeOfSelection(selection: Selection): string {
  const [from, to] = boundsOf(selection);
  return rangeOf(Array.from({ length: to - from + 1 }, (_, i) => from + i));
}

/** What a key does on the tape of the editor; undefined where it does nothing there. */
function keyOf(
  event: KeyboardEvent,
): 'undo' | 'redo' | 'clear' | 'cover' | 'uncover' | { role: RoleChoice } | undefined {
  if (event.ctrlKey || event.metaKey) {
    const key = event.key.toLowerCase();
    if (key === 'z') return event.shiftKey ? 'redo' : 'undo';
    return key === 'y' ? 'redo' : undefined;
  }
  if (event.altKey) return undefined;
  const role = ROLE_KEYS.find(([, key]) => key === event.key);
  if (role) return { role: role[0] };
  const keys = { Delete: 'clear', c: 'cover', u: 'uncover' } as const;
  return keys[event.key as keyof typeof keys];
}

/** The layout on the latest read, where that has its length; else on zeros. */
function useDrawing(layout: Layout, sample: string | undefined, sound: boolean) {
  const shown = useMemo(
    () => (sample?.length === layout.bits ? Bits.fromBinary(sample) : Bits.build(layout.bits, () => 0)),
    [sample, layout.bits],
  );
  const drawing = useMemo(() => {
    try {
      const decoded = sound && sample?.length === layout.bits ? decode(shown, layout) : undefined;
      return drawingOf(layout, decoded, (p) => p);
    } catch {
      return { spans: [], threads: [] };
    }
  }, [layout, shown, sample, sound]);
  return { shown, drawing };
}
