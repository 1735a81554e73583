/** The keys that work on every screen. Single keys do nothing while typing, and can be switched off. */
import { useEffect } from 'react';
import { commandsShown, helpShown, rigToggled, shortcutsShown } from '../platform/frame/slice.ts';
import { useAppDispatch, useAppSelector } from '../platform/state/hooks.ts';

export const FRAME_KEYS: [keys: string, what: string][] = [
  ['Ctrl+K', 'command list: go anywhere, do anything'],
  ['g', 'open the rig and go into it, or close it'],
  ['p', 'type or paste a read'],
  ['n', 'type the number that is printed on the card'],
  ['/', 'search this screen'],
  ['h', 'help for this screen'],
  ['?', 'these shortcuts'],
  ['paste', 'anywhere outside a field: take the text in as a read'],
];

/** The last that there is: of several prints, the newest. */
const focus = (selector: string) => {
  const field = [...document.querySelectorAll<HTMLInputElement>(selector)].at(-1);
  field?.focus();
  field?.select();
};

/** Frames that are waited for what is about to be drawn. */
const MOST_FRAMES = 60;

/** Puts the focus on the first that matches, as soon as it is there. */
function focusSoon(selector: string, frames = MOST_FRAMES): void {
  const found = document.querySelector<HTMLElement>(selector);
  if (found) found.focus();
  else if (frames > 0) requestAnimationFrame(() => focusSoon(selector, frames - 1));
}

export function useFrameKeys(): void {
  const dispatch = useAppDispatch();
  const { singleKeys, rigOpen: isRigOpen } = useAppSelector((state) => state.frame);
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
        g: () => {
          dispatch(rigToggled());
          if (isRigOpen) focusSoon('#screen');
          else focusSoon('aside [data-card][tabindex="0"], aside [data-card]');
        },
        p: () => focus('#intake'),
        n: () => focus('[data-printed], [data-print]'),
        '/': () => focus('[data-search]'),
        h: () => dispatch(helpShown('')),
        '?': () => dispatch(shortcutsShown(true)),
      };
      const action = actions[event.key];
      if (!action) return;
      event.preventDefault();
      action();
    };
    document.addEventListener('keydown', onKeyDown);
    return () => document.removeEventListener('keydown', onKeyDown);
  }, [dispatch, singleKeys, isRigOpen]);
}
