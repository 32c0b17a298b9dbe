import { type KeyboardEvent, type RefObject, useEffect, useState } from "react";
import type { Composed, LinkedWords } from "../api/client";

/** What every kind of line is given. */
export interface Line {
  page: string;
  text: string;
  /** Shows the page as it will be, beside. */
  onShow: (composed: Composed | undefined) => void;
  onWrite: (composed: Composed, words?: LinkedWords) => void;
  onClose: () => void;
}

/**
 * Writes the line at Enter, as soon as what was typed last is worked out. Where something is missing, its place gets the focus
 * and the reason is said.
 */
export function useEnter(
  root: RefObject<HTMLElement | null>,
  composed: Composed | undefined,
  failed: boolean,
  write: (composed: Composed) => void,
) {
  const [pressed, setPressed] = useState(false);
  const [asked, setAsked] = useState(false);
  const focus = (place?: string) => {
    const find = () => {
      const all = root.current?.querySelectorAll<HTMLElement>("[data-place]") ?? [];
      return [...all].find((at) => !place || at.dataset["place"] === place);
    };
    setTimeout(() => find()?.focus()); // once it is there
  };
  // biome-ignore lint/correctness/useExhaustiveDependencies: done once, when it is worked out
  useEffect(() => {
    if (!pressed || (!composed && !failed)) return;
    setPressed(false);
    if (!composed) return;
    if (composed.wants) {
      setAsked(true);
      focus(composed.wants);
    } else write(composed);
  }, [pressed, composed, failed]);
  return {
    asked,
    focus,
    press: () => setPressed(true),
    onKeyDown: (e: KeyboardEvent) => {
      const area = e.target instanceof HTMLTextAreaElement && !e.ctrlKey;
      const field = e.target instanceof HTMLInputElement && e.target.type !== "file" && e.target.type !== "checkbox";
      if (e.key !== "Enter" || e.defaultPrevented || area || (!field && !(e.target instanceof HTMLTextAreaElement)))
        return;
      e.preventDefault();
      setPressed(true);
    },
  };
}

export type Enter = ReturnType<typeof useEnter>;
