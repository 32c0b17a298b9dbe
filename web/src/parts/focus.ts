import { type RefObject, useEffect } from "react";

// Where the focus may go: not into a field, where what is meant as a key would be typed.
const lists = '[role="listbox"], [role="tree"], [data-stop]';
const others = 'button:not([disabled]), a[href], [tabindex="0"]';

/**
 * Keeps the focus in the view when what had it goes away by what was done with it, such as a button of a repair: the
 * nearest thing around it that can be focused gets it, so that the keys go on working where they did.
 */
export function useKeptFocus(main: RefObject<HTMLElement | null>): void {
  useEffect(() => {
    const view = main.current;
    if (!view) return;
    let around: Element[] = [];
    const note = (e: FocusEvent) => {
      around = [];
      for (let at = e.target instanceof Element ? e.target : null; at && at !== view; at = at.parentElement) {
        around.push(at);
      }
    };
    const keep = () => {
      const lost = around[0];
      if (!lost || document.activeElement !== document.body) return;
      const disabled = lost instanceof HTMLButtonElement && lost.disabled;
      if (lost.isConnected && !disabled) return;
      const near = around.slice(1).find((at) => at.isConnected && at.querySelector(`${lists}, ${others}`)) ?? view;
      const to = near.querySelector<HTMLElement>(lists) ?? near.querySelector<HTMLElement>(others) ?? view;
      to.focus({ preventScroll: true });
    };
    const watch = new MutationObserver(keep);
    view.addEventListener("focusin", note);
    watch.observe(view, { childList: true, subtree: true, attributes: true, attributeFilter: ["disabled"] });
    return () => {
      view.removeEventListener("focusin", note);
      watch.disconnect();
    };
  }, [main]);
}
