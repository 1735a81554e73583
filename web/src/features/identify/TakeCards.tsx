/** Where specimens come from: cards held to a reader while the case waits for them, a paste or CSV, reads on file. */

import type { CaseSpecimen, Read } from '@rawbits/api';
import { useEffect, useMemo, useRef, useState } from 'react';
import { MiniTape } from '../../parts/tape/MiniTape.tsx';
import { useDraft } from '../../platform/drafts/useDraft.ts';
import { useFormatsQuery } from '../../platform/endpoints/formats.ts';
import { useReadsQuery } from '../../platform/endpoints/reads.ts';
import { useRigQuery } from '../../platform/endpoints/rig.ts';
import { fromCsv } from '../../platform/files/csv.ts';
import { isField } from '../../platform/forms/isField.ts';
import { useClock } from '../../platform/site/useClock.ts';
import { useSite } from '../../platform/site/useSite.ts';
import { useAppSelector } from '../../platform/state/hooks.ts';
import { counted } from '../../platform/words/words.ts';
import { rowsFromText, specimensFromRows, type Taken } from './specimensFrom.ts';
import type { WorkingCase } from './useCase.ts';

/** How long the case waits for the next card before it gives up. */
const WAIT_S = 90;

export function TakeCards({ working, onAdd }: { working: WorkingCase; onAdd: (specimen: CaseSpecimen) => void }) {
  const { id: site, may } = useSite();
  const [open, setOpen] = useState<'paste' | 'reads'>();
  const [text = '', setText] = useDraft<string>('pasted specimens', `${site} ${working.shown?.id ?? ''}`);
  const [taken, setTaken] = useState<Taken>();
  const taking = useTaking();
  const onPaste = (pasted: string) => {
    // Below what stands there already, which is somebody's typing; with what is wrong said at once.
    const whole = text.trim() === '' ? pasted : `${text.trimEnd()}\n${pasted}`;
    setText(whole);
    setTaken(taking?.(whole));
    setOpen('paste');
  };
  usePastes(working, taking, may('identify cards'), onPaste);
  if (!may('identify cards')) return null;
  const toggle = (what: 'paste' | 'reads') => setOpen(open === what ? undefined : what);
  return (
    <div className="flex flex-col gap-2 print:hidden">
      <div className="flex flex-wrap items-center gap-3">
        <Session onAdd={onAdd} />
        <button type="button" className="switch-link" aria-pressed={open === 'paste'} onClick={() => toggle('paste')}>
          paste or CSV
        </button>
        <button type="button" className="switch-link" aria-pressed={open === 'reads'} onClick={() => toggle('reads')}>
          reads on file
        </button>
        <Undo working={working} />
      </div>
      {open === 'paste' && (
        <Paste {...{ working, taking, text, setText, taken, setTaken }} onDone={() => setOpen(undefined)} />
      )}
      {open === 'reads' && <OnFile working={working} />}
    </div>
  );
}

/** What was done to the specimens last, and a way back. */
function Undo({ working: { undone, forget } }: { working: WorkingCase }) {
  if (!undone) return null;
  return (
    <p role="status" className="ml-auto flex items-baseline gap-3" data-testid="undo">
      {undone.what}
      <button type="button" className="switch-link underline" onClick={undone.back}>
        undo
      </button>
      <button type="button" className="switch-link" onClick={forget}>
        close
      </button>
    </p>
  );
}

/** Waits for cards at a reader and counts down; each card starts the count anew. */
function Session({ onAdd }: { onAdd: (specimen: CaseSpecimen) => void }) {
  const { id: site } = useSite();
  const { data: rig } = useRigQuery(site);
  const latest = useAppSelector((state) => state.read.latest);
  const [reader, setReader] = useState('');
  const [left, setLeft] = useState(0);
  const armed = left > 0;
  const seen = useRef<string | null>(null);
  useEffect(() => {
    if (!armed) return;
    const timer = setInterval(() => setLeft((now) => Math.max(0, now - 1)), 1000);
    return () => clearInterval(timer);
  }, [armed]);
  useEffect(() => {
    const key = latest && `${latest.id} ${latest.at}`;
    if (!armed || !latest?.id || key === seen.current) return;
    seen.current = key;
    if (latest.from.startsWith('pasted') || (reader !== '' && latest.from !== reader)) return;
    onAdd({ bits: latest.bits, source: latest.from, at: latest.at });
    setLeft(WAIT_S);
  }, [latest, armed, reader, onAdd]);
  const arm = () => {
    seen.current = latest && `${latest.id} ${latest.at}`;
    setLeft(armed ? 0 : WAIT_S);
  };
  return (
    <span className="flex flex-wrap items-center gap-2">
      <button type="button" className="btn btn-line btn-small" aria-pressed={armed} onClick={arm} data-testid="arm">
        {armed ? 'Stop taking cards' : 'Take cards'}
      </button>
      <label className="flex items-center gap-1.5">
        <span className="text-ink-2">at</span>
        <select value={reader} onChange={(event) => setReader(event.target.value)} className="select h-7! w-44">
          <option value="">any reader</option>
          {rig?.readers.map(({ id, name }) => (
            <option key={id} value={name}>
              {name}
            </option>
          ))}
        </select>
      </label>
      <span role="status" className={armed ? 'font-bold text-primary' : 'text-ink-2'}>
        {armed
          ? `Waiting for a card: ${left} s. Hold it, type its print, Enter, next.`
          : 'Cards held to a reader become specimens.'}
      </span>
    </span>
  );
}

/** How a text is taken as specimens at this site, by the lengths in use here. */
type Taking = (text: string) => Taken;
function useTaking(): Taking | undefined {
  const { id: site } = useSite();
  const { data: formats } = useFormatsQuery(site);
  return useMemo(() => {
    // Before the lengths are known a hex could be taken for another read than it is.
    if (!formats) return undefined;
    const lengths = [...new Set(formats.map((f) => f.format.bits))];
    return (text) => specimensFromRows(rowsFromText(text, fromCsv), lengths);
  }, [formats]);
}

const added = (working: WorkingCase, { specimens }: Taken): void =>
  working.undoable(`${counted(specimens.length, 'specimen')} added.`, (all) => [...all, ...specimens]);

/** While a case is open, what is pasted outside a field goes into it; a paste that cannot be taken whole is shown with what is wrong. */
function usePastes(
  working: WorkingCase,
  taking: Taking | undefined,
  may: boolean,
  onDoubt: (text: string) => void,
): void {
  useEffect(() => {
    if (!may) return;
    const onPaste = (event: ClipboardEvent) => {
      const pasted = event.clipboardData?.getData('text') ?? '';
      if (pasted.trim() === '' || isField(event.target)) return;
      event.preventDefault();
      // The frame would take it as a read in hand.
      event.stopPropagation();
      const taken = taking?.(pasted);
      if (!taken || taken.problems.length > 0 || taken.specimens.length === 0) onDoubt(pasted);
      else added(working, taken);
    };
    document.addEventListener('paste', onPaste, true);
    return () => document.removeEventListener('paste', onPaste, true);
  }, [working, may, taking, onDoubt]);
}

interface PasteProps {
  working: WorkingCase;
  taking: Taking | undefined;
  text: string;
  setText: (text: string) => void;
  taken: Taken | undefined;
  setTaken: (taken: Taken | undefined) => void;
  onDone: () => void;
}

function Paste({ working, taking, text, setText, taken, setTaken, onDone }: PasteProps) {
  const take = () => {
    const result = taking?.(text);
    if (!result) return;
    if (result.problems.length > 0) return setTaken(result);
    added(working, result);
    setText('');
    setTaken(undefined);
    onDone();
  };
  const takeGood = () => {
    added(working, taken!);
    setText('');
    setTaken(undefined);
    onDone();
  };
  return (
    <section className="panel flex flex-col gap-2 p-3" aria-label="Paste specimens">
      <p className="text-ink-2">
        One card a line: the read in any notation, then what is printed; or the columns of a sheet, parted by tab,
        semicolon or comma: read, printed, facility, group, length; a length of ? says that leading zeros may be lost.
      </p>
      <textarea
        value={text}
        onChange={(event) => {
          setText(event.target.value);
          setTaken(undefined);
        }}
        rows={5}
        spellCheck={false}
        aria-label="Reads and prints"
        className="textarea min-h-0 w-full font-mono"
      />
      <div className="flex flex-wrap items-center gap-2">
        <input
          type="file"
          accept=".csv,.txt"
          className="file-input file-input-sm"
          aria-label="A CSV file of specimens"
          onChange={async (event) => {
            const file = event.target.files?.[0];
            if (file) setText(await file.text());
          }}
        />
        <button type="button" className="btn btn-primary btn-small" disabled={text.trim() === ''} onClick={take}>
          Add them
        </button>
        {taken && taken.specimens.length > 0 && (
          <button type="button" className="btn btn-line btn-small" onClick={takeGood}>
            Add the {taken.specimens.length} good rows alone
          </button>
        )}
      </div>
      {taken && (
        <ul role="alert" className="max-h-32 overflow-auto text-signal">
          {taken.problems.slice(0, 50).map(({ message, where, hint }) => (
            <li key={`${where?.row} ${message}`}>
              Row {where?.row}: {message} {hint}
            </li>
          ))}
          {taken.problems.length > 50 && <li>… and {taken.problems.length - 50} more rows</li>}
        </ul>
      )}
    </section>
  );
}

function OnFile({ working }: { working: WorkingCase }) {
  const clock = useClock();
  const { id: site } = useSite();
  const [search, setSearch] = useState('');
  const { data: reads = [] } = useReadsQuery({ site, search, limit: 60 });
  const take = (read: Read) =>
    working.setSpecimens((all) => [...all, { bits: read.bits, source: read.reader?.name ?? 'pasted', at: read.at }]);
  return (
    <section className="panel flex max-h-56 flex-col gap-2 overflow-auto p-3" aria-label="Reads on file">
      <input
        value={search}
        onChange={(event) => setSearch(event.target.value)}
        placeholder="length, hex, reader"
        aria-label="Search reads"
        className="input w-64"
      />
      <ul>
        {reads.map((read) => (
          <li key={read.id} className="flex items-center gap-3 border-t border-faint py-1">
            <MiniTape bits={read.bits} />
            <span className="font-mono">{read.bits.length} bits</span>
            <span className="text-ink-2">
              {read.reader?.name ?? 'pasted'}, {clock(read.at)}
            </span>
            <button type="button" className="switch-link ml-auto" onClick={() => take(read)}>
              add
            </button>
          </li>
        ))}
      </ul>
    </section>
  );
}
