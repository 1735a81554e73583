/** The keys that work on every screen. Single keys do nothing while typing, and can be switched off. */
import { useEffect } from 'react';
import { commandsShown, rigToggled, shortcutsShown } from '../platform/frame/slice.ts';
import { useAppDispatch, useAppSelector } from '../platform/state/hooks.ts';

export const FRAME_KEYS: [keys: string, what: string][] = [
  ['Ctrl+K', 'command list: go anywhere, do anything'],
  ['g', 'open or close the rig'],
  ['p', 'type or paste a read'],
  ['/', 'search this screen'],
  ['?', 'these shortcuts'],
  ['paste', 'anywhere outside a field: take the text in as a read'],
];

const focus = (selector: string) => {
  const field = document.querySelector<HTMLInputElement>(selector);
  field?.focus();
  field?.select();
};

export function useFrameKeys(): void {
  const dispatch = useAppDispatch();
  const singleKeys = useAppSelector((state) => state.frame.singleKeys);
  useEffect(() => {
    const onKeyDown = (event: KeyboardEvent) => {
      if ((event.ctrlKey || event.metaKey) && event.key.toLowerCase() === 'k') {
        event.preventDefault();
        dispatch(commandsShown(true));
        return;
      }
      const typing =
        event.target instanceof HTMLElement &&
        event.target.closest('input, textarea, select, [contenteditable], dialog, [role=dialog]');
      if (!singleKeys || typing || event.ctrlKey || event.metaKey || event.altKey) return;
      const actions: Record<string, () => void> = {
        g: () => dispatch(rigToggled()),
        p: () => focus('#intake'),
        '/': () => focus('[data-search]'),
        '?': () => dispatch(shortcutsShown(true)),
      };
      const action = actions[event.key];
      if (!action) return;
      event.preventDefault();
      action();
    };
    document.addEventListener('keydown', onKeyDown);
    return () => document.removeEventListener('keydown', onKeyDown);
  }, [dispatch, singleKeys]);
}
