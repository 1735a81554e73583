/** The keys that work on every screen. Single keys do nothing while typing, and can be switched off. */
import { useEffect } from 'react';
import { commandsShown, helpShown, rigToggled, shortcutsShown } from '../platform/frame/slice.ts';
import { useAppDispatch, useAppSelector } from '../platform/state/hooks.ts';
import { OFFERED } from '../platform/words/offered.ts';

export const FRAME_KEYS: [keys: string, what: string][] = [
  ['Ctrl+K', 'command list: go anywhere, do anything'],
  ['g', 'into the rig; from within it, close it'],
  ['a', 'to what the screen offers to do next'],
  ['p', 'type or paste a read'],
  ['n', 'type the number that is printed on the card'],
  ['/', 'search this screen'],
  ['Ctrl+Enter', 'in a form: send it'],
  ['h', 'help for this screen'],
  ['?', 'these shortcuts'],
  ['paste', 'anywhere outside a field: take the text in as a read'],
];

/** The last that there is: of several prints, the newest. */
const focusNewest = (selector: string) => {
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
      if ((event.ctrlKey || event.metaKey) && event.key === 'Enter' && event.target instanceof HTMLElement) {
        event.target.closest('form')?.requestSubmit();
        return;
      }
      const typing =
        event.target instanceof HTMLElement &&
        event.target.closest('input, textarea, select, [contenteditable], dialog, [role=dialog]');
      if (!singleKeys || typing || event.ctrlKey || event.metaKey || event.altKey) return;
      const actions: Record<string, () => void> = {
        g: () => {
          const isInside = document.activeElement?.closest('aside') != null;
          if (!isRigOpen || isInside) dispatch(rigToggled());
          focusSoon(isRigOpen && isInside ? '#screen' : 'aside [data-card][aria-checked="true"]');
        },
        p: () => focusNewest('#intake'),
        n: () => focusNewest('[data-printed], [data-print]'),
        '/': () => focusNewest('[data-search]'),
        a: () => document.querySelector<HTMLElement>(OFFERED)?.focus(),
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
