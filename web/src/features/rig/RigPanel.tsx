/** The tray of credentials and the readers to hold them to: by drag, by button, by number key. */

import { DndContext, type DragEndEvent, PointerSensor, useDroppable, useSensor, useSensors } from '@dnd-kit/core';
import type { Presented, Reader, TrayCard } from '@rawbits/api';
import { type KeyboardEvent, useState } from 'react';
import { presentedHere } from '../../parts/inHand/slice.ts';
import { useLayOnPadMutation, usePresentMutation, useRigQuery } from '../../platform/endpoints/rig.ts';
import { FailureNote, type Told } from '../../platform/forms/FailureNote.tsx';
import { said } from '../../platform/frame/slice.ts';
import { useSite } from '../../platform/site/useSite.ts';
import { useAppDispatch } from '../../platform/state/hooks.ts';
import { inSiteDays } from '../../platform/words/siteDays.ts';
import { PAD, PadTarget, padInWords } from './PadTarget.tsx';
import { TrayCardButton } from './TrayCardButton.tsx';

type Result = { reader: string; presented?: Presented; failure?: Told };

/** The tray lies in so many columns. */
const COLUMNS = 2;

export function RigPanel() {
  const { id, zone, may } = useSite();
  const { data, error } = useRigQuery(id);
  const [present] = usePresentMutation();
  const [lay, { error: notLaid }] = useLayOnPadMutation();
  const [chosen, setChosen] = useState<string>();
  const [result, setResult] = useState<Result>();
  const dispatch = useAppDispatch();
  const sensors = useSensors(useSensor(PointerSensor, { activationConstraint: { distance: 6 } }));
  const cards = data?.cards ?? [];
  const readers = data?.readers ?? [];
  const card = cards.find((c) => c.id === chosen) ?? cards[0];

  const hold = async (held: TrayCard | undefined, reader: Reader | undefined) => {
    if (!held || !reader || !may('take reads')) return;
    setChosen(held.id);
    const answer = await present({ site: id, card: held.id, reader: reader.id });
    const presented = answer.data && { ...answer.data, reason: inSiteDays(answer.data.reason, zone) };
    setResult({ reader: reader.id, presented, failure: answer.error });
    if (presented?.readId) dispatch(presentedHere(presented.readId));
    if (presented) dispatch(said(`${reader.name}: ${presented.outcome}. ${presented.reason}`));
  };
  const layOnPad = async (laid: (TrayCard | undefined)[]) => {
    if (!may('take reads')) return;
    const ids = laid.flatMap((c) => (c ? [c.id] : []));
    const answer = await lay({ site: id, cards: ids });
    if (answer.data) dispatch(said(padInWords(answer.data)));
  };
  const onDragEnd = ({ active, over }: DragEndEvent) => {
    const dragged = cards.find((c) => c.id === active.id);
    if (over?.id === PAD) return void layOnPad([dragged]);
    return void hold(
      dragged,
      readers.find((r) => r.id === over?.id),
    );
  };
  const onKeyDown = (event: KeyboardEvent) => {
    const step = { ArrowDown: COLUMNS, ArrowUp: -COLUMNS, ArrowRight: 1, ArrowLeft: -1 }[event.key];
    if (step) {
      event.preventDefault();
      const at = cards.findIndex((c) => c.id === card?.id) + step;
      const next = cards[(at + cards.length) % cards.length];
      setChosen(next?.id);
      if (next) document.getElementById(`tray-${next.id}`)?.focus();
    }
    if (event.key === '0') {
      event.preventDefault();
      void layOnPad([card]);
    }
    const reader = /^[1-9]$/.test(event.key) ? readers[Number(event.key) - 1] : undefined;
    if (reader) {
      event.preventDefault();
      void hold(card, reader);
    }
  };
  return (
    <div className="flex w-64 min-h-0 flex-col gap-2 py-3 pr-3 max-sm:w-48">
      <h2>Rig</h2>
      <FailureNote failure={error} />
      {data && !data.answers && (
        <p className="text-signal">The rig does not answer. Start Raw Bits again with bin/start.</p>
      )}
      <DndContext
        sensors={sensors}
        onDragEnd={onDragEnd}
        accessibility={{
          screenReaderInstructions: { draggable: 'Choose with the arrow keys, then press the number of a reader.' },
        }}
      >
        <section aria-label="Readers" className="grid gap-1">
          {readers.map((reader, i) => (
            <ReaderTarget
              key={reader.id}
              reader={reader}
              index={i + 1}
              card={card}
              disabled={!may('take reads')}
              result={result?.reader === reader.id ? result : undefined}
              onHold={() => void hold(card, reader)}
            />
          ))}
          <PadTarget
            cards={cards}
            chosen={card}
            disabled={!may('take reads')}
            failure={notLaid}
            onLay={(laid) => void layOnPad(laid)}
          />
        </section>
        <p className="text-[0.9rem] text-ink-2">Choose a card, then a reader; or drag it there.</p>
        <div
          role="radiogroup"
          aria-label="Card tray"
          className="grid min-h-0 auto-rows-max grid-cols-2 gap-2 overflow-y-auto pr-1 pb-2"
          onKeyDown={onKeyDown}
        >
          {cards.map((c) => (
            <TrayCardButton key={c.id} card={c} chosen={c === card} onChoose={() => setChosen(c.id)} />
          ))}
        </div>
      </DndContext>
    </div>
  );
}

interface ReaderTargetProps {
  reader: Reader;
  index: number;
  card: TrayCard | undefined;
  disabled: boolean;
  result?: Result;
  onHold: () => void;
}

function ReaderTarget({ reader, index, card, disabled, result, onHold }: ReaderTargetProps) {
  const { setNodeRef, isOver } = useDroppable({ id: reader.id });
  const refused = result?.presented?.outcome === 'refused' || result?.presented?.outcome === 'nothing';
  return (
    <div ref={setNodeRef} className={`border bg-base-100 ${isOver ? 'border-primary bg-chosen' : 'border-base-300'}`}>
      <button
        type="button"
        onClick={onHold}
        disabled={disabled || !card}
        data-reader={reader.device}
        className="flex w-full cursor-pointer items-center gap-2 px-2 py-1.5 text-left hover:bg-chosen disabled:cursor-not-allowed"
      >
        <kbd className="kbd">{index}</kbd>
        <span className="font-bold">{reader.name}</span>
      </button>
      {result && (
        <p role="status" data-testid="presented" className="border-t border-faint px-2 py-1 text-[0.9rem]">
          {result.presented && (
            <strong className={refused ? 'text-signal' : 'text-primary'}>{result.presented.outcome}. </strong>
          )}
          {result.presented?.reason}
          <FailureNote failure={result.failure} />
        </p>
      )}
    </div>
  );
}
