/** The intake: the latest read on every screen, and a field that takes a paste. Pasting outside a field is a read, too. */
import { Bits } from '@rawbits/core/bits';
import type { Failure } from '@rawbits/core/failure';
import { LONGEST_TEXT } from '@rawbits/core/intake';
import { type KeyboardEvent, type ClipboardEvent as ReactClipboardEvent, useEffect, useState } from 'react';
import { Link } from 'react-router';
import { chosen, inHandOf, latestKnown, type ReadInHand } from '../parts/inHand/slice.ts';
import { MiniTape } from '../parts/tape/MiniTape.tsx';
import { useDraft } from '../platform/drafts/useDraft.ts';
import { useReadsQuery } from '../platform/endpoints/reads.ts';
import { FailureNote } from '../platform/forms/FailureNote.tsx';
import { isField } from '../platform/forms/isField.ts';
import { useNow } from '../platform/hooks/useNow.ts';
import { useSite } from '../platform/site/useSite.ts';
import { useAppDispatch, useAppSelector } from '../platform/state/hooks.ts';
import { age } from '../platform/words/time.ts';
import { MyReaders, useMyReaders } from './MyReaders.tsx';
import { SeveralReads } from './SeveralReads.tsx';
import { type Several, useIntake } from './useIntake.ts';

export function IntakeBar() {
  const { id } = useSite();
  const follows = useAppSelector((state) => state.frame.follows);
  const latest = useAppSelector((state) => state.read.latest);
  const dispatch = useAppDispatch();
  const { data, isLoading } = useReadsQuery({ site: id, limit: 60 });
  const takeIn = useIntake();
  const [text = '', setText] = useDraft<string>('reads to paste', id);
  const [failure, setFailure] = useState<Failure>();
  const [several, setSeveral] = useState<Several>();

  const mine = useMyReaders();
  useEffect(() => {
    const newest = data?.find(({ reader }) => !reader || mine.length === 0 || mine.includes(reader.id));
    if (newest) dispatch(latestKnown(inHandOf(newest)));
  }, [data, mine, dispatch]);

  useEffect(() => {
    const onPaste = (event: ClipboardEvent) => {
      // Lines that are being looked through stay until they are taken or left.
      if (isField(event.target) || several) return;
      const pasted = event.clipboardData?.getData('text') ?? '';
      if (pasted.trim() === '') return;
      event.preventDefault();
      const taken = takeIn(pasted);
      setFailure(taken.failure);
      setSeveral(taken.several);
      if (taken.failure && pasted.length <= LONGEST_TEXT) setText(pasted);
    };
    document.addEventListener('paste', onPaste);
    return () => document.removeEventListener('paste', onPaste);
  }, [takeIn, several, setText]);

  const submit = (value: string) => {
    const taken = takeIn(value);
    setFailure(taken.failure);
    setSeveral(taken.several);
    if (!taken.failure) setText('');
  };
  const onFieldPaste = (event: ReactClipboardEvent<HTMLInputElement>) => {
    const pasted = event.clipboardData.getData('text');
    if (text !== '' && pasted.length <= LONGEST_TEXT) return;
    event.preventDefault();
    if (pasted.length <= LONGEST_TEXT) setText(pasted.trim().replace(/\s*[\r\n]+\s*/g, ' '));
    submit(pasted);
  };
  const onKeyDown = (event: KeyboardEvent<HTMLInputElement>) => {
    if (event.key === 'Enter' && text.trim() !== '') submit(text);
    if (event.key === 'Escape') {
      setText('');
      setFailure(undefined);
      event.currentTarget.blur();
    }
  };
  return (
    <header className="@container relative col-start-2 row-start-1 flex min-h-[54px] min-w-0 flex-wrap items-center gap-x-4 gap-y-1 border-b border-base-300 bg-base-100 px-4 py-1.5">
      {latest ? (
        <Latest read={latest} onOpen={() => dispatch(chosen(latest))} site={id} />
      ) : (
        <span className="text-ink-2">
          {isLoading ? 'Loading …' : 'No read yet: hold a card to a reader, or paste one.'}
        </span>
      )}
      {!follows && (
        <span
          role="status"
          className="text-signal"
          title="Raw Bits follows at most eight pages of one operator at once"
        >
          This page does not follow what happens: close other pages, or load it again.
        </span>
      )}
      <div className="ml-auto flex min-w-0 items-center gap-3">
        <MyReaders />
        <input
          id="intake"
          value={text}
          onChange={(event) => {
            setText(event.target.value);
            setFailure(undefined);
          }}
          onPaste={onFieldPaste}
          onKeyDown={onKeyDown}
          placeholder="paste a read …"
          aria-label="Paste a read: bits, hex, decimal, UID, OSDP frame"
          aria-describedby={failure ? 'intake-failure' : undefined}
          aria-invalid={failure !== undefined}
          autoComplete="off"
          spellCheck={false}
          className="input w-56 min-w-32 font-mono"
        />
      </div>
      {failure && (
        <div className="panel absolute top-full right-4 z-30 mt-1 flex max-w-xl items-start gap-3 border-signal p-3">
          <FailureNote failure={failure} id="intake-failure" />
          <button type="button" className="switch-link" onClick={() => setFailure(undefined)}>
            close
          </button>
        </div>
      )}
      {several && <SeveralReads {...several} onClose={() => setSeveral(undefined)} />}
    </header>
  );
}

function Latest({ read, onOpen, site }: { read: ReadInHand; onOpen: () => void; site: string }) {
  const now = useNow();
  const { zone } = useSite();
  return (
    <Link
      to={`/${site}/read`}
      onClick={onOpen}
      className="flex min-w-0 items-center gap-3 hover:text-primary"
      title="Open it on Read"
    >
      <strong className="@max-[48rem]:hidden">Latest read</strong>
      <MiniTape bits={read.bits} />
      <span className="font-mono whitespace-nowrap">{read.bits.length} bits</span>
      <span className="max-w-40 truncate font-mono text-ink-2 @max-[66rem]:hidden">
        {Bits.fromBinary(read.bits).toHex()}
      </span>
      <span className="truncate text-ink-2 max-md:hidden">
        {read.from} · {age(read.at, now, zone)}
      </span>
    </Link>
  );
}
