import type { ReactNode, RefObject } from "react";
import { Button } from "../parts/controls";
import { KeyCap } from "../parts/key-cap";
import type { Enter } from "./line";

interface Props {
  root: RefObject<HTMLFieldSetElement | null>;
  enter: Pick<Enter, "onKeyDown" | "press">;
  /** What Enter does, in a word or two. */
  word?: string;
  onClose: () => void;
  children: ReactNode;
}

/** A line with its places, what writes it, and what leaves it. */
export function LineFrame({ root, enter, word = "Write it", onClose, children }: Props) {
  return (
    <fieldset ref={root} onKeyDown={enter.onKeyDown} className="min-w-0">
      {children}
      <div className="mt-2.5 flex flex-wrap items-center gap-x-4 gap-y-1.5 text-small text-second">
        <Button kind="act" keycap="Enter" className="py-0.5" onClick={enter.press}>
          {word}
        </Button>
        <Button keycap="Esc" className="py-0.5" onClick={onClose}>
          Leave it
        </Button>
        <KeyCap keys="↓">choose</KeyCap>
        <KeyCap keys="Tab">next place</KeyCap>
        <KeyCap keys="Ctrl E">something else</KeyCap>
      </div>
    </fieldset>
  );
}
