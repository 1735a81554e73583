/** What can be done with the bits chosen: give them a role, clear them, put them under a parity bit. */
import type { Span } from '@rawbits/core/format';
import { nameOf } from '@rawbits/core/format';
import { Redo2, Undo2 } from 'lucide-react';
import { useAppDispatch, useAppSelector } from '../../../platform/state/hooks.ts';
import { draftRedone, draftUndone } from './drafts.ts';
import { ROLE_KEYS, type RoleChoice } from './roles.ts';

export function Toolbar({
  draftKey,
  at,
  onAt,
  onRole,
  onClear,
  onCover,
  covering,
}: {
  draftKey: string;
  at: string;
  onAt: (at: string) => void;
  onRole: (role: RoleChoice) => void;
  onClear: () => void;
  onCover: (on: boolean) => void;
  covering: Span | undefined;
}) {
  const { past, future } = useAppSelector((state) => state.drafts[draftKey]!);
  const dispatch = useAppDispatch();
  const covers = covering?.role === 'parity' || covering?.role === 'check';
  return (
    <div className="mt-2 flex flex-wrap items-center gap-x-2 gap-y-1.5">
      <label className="flex items-center gap-1.5">
        <span className="text-ink-2">Bits</span>
        <input
          value={at}
          onChange={(event) => onAt(event.target.value)}
          placeholder="2-9"
          aria-label="Bits chosen, as positions"
          spellCheck={false}
          autoComplete="off"
          className="input w-28 font-mono"
        />
      </label>
      <span className="text-ink-2">are</span>
      {ROLE_KEYS.map(([role, key, words]) => (
        <button key={role} type="button" className="btn btn-line btn-small gap-1! px-1.5!" onClick={() => onRole(role)}>
          {words} <kbd className="kbd">{key}</kbd>
        </button>
      ))}
      <button type="button" className="btn btn-line btn-small gap-1! px-1.5!" onClick={onClear}>
        unassign <kbd className="kbd">Del</kbd>
      </button>
      {covers && (
        <span className="flex items-center gap-1.5 border-l border-base-300 pl-2">
          <span className="text-ink-2">{nameOf(covering)}:</span>
          <button type="button" className="btn btn-line btn-small" onClick={() => onCover(true)}>
            cover them <kbd className="kbd">c</kbd>
          </button>
          <button type="button" className="btn btn-line btn-small" onClick={() => onCover(false)}>
            leave them out <kbd className="kbd">u</kbd>
          </button>
        </span>
      )}
      <span className="ml-auto flex flex-wrap gap-1">
        <button
          type="button"
          className="btn btn-line btn-small"
          disabled={past.length === 0}
          onClick={() => dispatch(draftUndone(draftKey))}
          title="Undo, Ctrl+Z"
        >
          <Undo2 size={15} aria-hidden="true" /> <span className="sr-only">Undo</span>
        </button>
        <button
          type="button"
          className="btn btn-line btn-small"
          disabled={future.length === 0}
          onClick={() => dispatch(draftRedone(draftKey))}
          title="Redo, Ctrl+Y"
        >
          <Redo2 size={15} aria-hidden="true" /> <span className="sr-only">Redo</span>
        </button>
      </span>
    </div>
  );
}
