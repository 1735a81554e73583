import { useEffect, useRef } from 'react';
import { useLocation } from 'react-router';
import { shortcutsShown, singleKeysToggled } from '../platform/frame/slice.ts';
import { useAppDispatch, useAppSelector } from '../platform/state/hooks.ts';
import { VERSION } from '../platform/words/version.ts';
import { FRAME_KEYS } from './useFrameKeys.ts';

const TAPE_KEYS: [string, string][] = [
  ['← → ↑ ↓', 'move along the tape'],
  ['Shift + arrows', 'select'],
  ['Home, End', 'first bit, last bit'],
  ['Ctrl+C', 'copy the selected bits'],
  ['Esc', 'select nothing'],
];
const EDITOR_KEYS: [string, string][] = [
  ['f n i v', 'the bits selected are facility, number, issue, a value'],
  ['e o k x', '… even or odd parity, a check, fixed'],
  ['c, u', 'cover them by the chosen parity bit, or leave them out'],
  ['Del', 'they become unassigned'],
  ['Ctrl+Z, Ctrl+Y', 'undo, redo'],
];
const STACK_KEYS: [string, string][] = [
  ['← →, Home, End', 'move over the columns and hear why'],
  ['Enter', 'in a print: keep it, and wait for the next card'],
];
const RIG_KEYS: [string, string][] = [
  ['↑ ↓', 'choose a card of the tray'],
  ['1, 2, 3 …', 'hold it to that reader'],
  ['0', 'lay it on the pad'],
];

function Keys({ title, keys }: { title: string; keys: [string, string][] }) {
  return (
    <section>
      <h2 className="mb-1">{title}</h2>
      <dl className="grid grid-cols-[8rem_1fr] gap-y-1">
        {keys.map(([key, what]) => (
          <div key={key} className="contents">
            <dt>
              <kbd className="kbd">{key}</kbd>
            </dt>
            <dd>{what}</dd>
          </div>
        ))}
      </dl>
    </section>
  );
}

export function ShortcutList() {
  const { shortcutsOpen, singleKeys } = useAppSelector((state) => state.frame);
  const dispatch = useAppDispatch();
  const dialog = useRef<HTMLDialogElement>(null);
  const screen = useLocation().pathname.split('/')[2];
  useEffect(() => {
    if (shortcutsOpen) dialog.current?.showModal();
    else dialog.current?.close();
  }, [shortcutsOpen]);
  return (
    <dialog
      ref={dialog}
      className="panel m-auto w-full max-w-lg p-5 text-base-content backdrop:bg-black/40"
      aria-label="Shortcuts"
      onClose={() => dispatch(shortcutsShown(false))}
    >
      <div className="grid gap-4">
        <Keys title="Everywhere" keys={FRAME_KEYS} />
        <Keys title="On a tape" keys={TAPE_KEYS} />
        {screen === 'formats' && <Keys title="On the tape of a format being changed" keys={EDITOR_KEYS} />}
        {screen === 'identify' && <Keys title="On the stack of a case" keys={STACK_KEYS} />}
        <Keys title="In the rig" keys={RIG_KEYS} />
        <label className="flex items-center gap-2">
          <input
            type="checkbox"
            className="checkbox checkbox-sm"
            checked={singleKeys}
            onChange={() => dispatch(singleKeysToggled())}
          />
          Single-key shortcuts
        </label>
        <button
          type="button"
          className="btn btn-line justify-self-start"
          onClick={() => dispatch(shortcutsShown(false))}
        >
          Close
        </button>
        <p className="text-ink-2">Raw Bits {VERSION}</p>
      </div>
    </dialog>
  );
}
