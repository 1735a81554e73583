/**
 * The focus never falls to the body: where what had it is taken off the page (a row that was deleted, a form that was
 * saved, a screen that was left) it goes to the nearest thing around it that is still there, so that Tab goes on from
 * that place. A button that can do nothing while it works has it again afterwards.
 */
import { useEffect } from 'react';

const isSeen = (element: Element): boolean =>
  element.isConnected && !element.closest('dialog:not([open]), [hidden]') && (element.checkVisibility?.() ?? true);

export function useFocusKept(): void {
  useEffect(() => {
    /** What had the focus last, and what it stood in, from the inside out. */
    let last: HTMLElement | undefined;
    let around: HTMLElement[] = [];
    const onFocusIn = ({ target }: FocusEvent) => {
      if (!(target instanceof HTMLElement) || target === document.body) return;
      last = target;
      around = [];
      for (let next = target.parentElement; next && next !== document.body; next = next.parentElement)
        around.push(next);
    };
    const onPointerDown = () => {
      // Who presses beside everything means to leave it.
      last = undefined;
    };
    const mend = () => {
      if (!last || (document.activeElement ?? document.body) !== document.body) return;
      if (isSeen(last)) {
        if (!last.matches(':disabled')) last.focus({ preventScroll: true });
        return;
      }
      const main = document.getElementById('screen');
      const place = around.find((one) => isSeen(one) && (one === main || main?.contains(one) || one.matches('aside')));
      const to = place ?? main;
      if (!to) return;
      if (to.tabIndex < 0 && !to.hasAttribute('tabindex')) to.tabIndex = -1;
      to.focus({ preventScroll: true });
    };
    const observer = new MutationObserver(mend);
    observer.observe(document.body, {
      childList: true,
      subtree: true,
      attributes: true,
      attributeFilter: ['disabled', 'open', 'hidden'],
    });
    document.addEventListener('focusin', onFocusIn);
    document.addEventListener('pointerdown', onPointerDown, { capture: true });
    return () => {
      observer.disconnect();
      document.removeEventListener('focusin', onFocusIn);
      document.removeEventListener('pointerdown', onPointerDown, { capture: true });
    };
  }, []);
}
