import { Check } from "lucide-react";

/** What is chosen in a row of a list, for the pointer. The row says it to a screen reader, and the list takes the keys. */
export function Tick({ on, title, onSwap }: { on: boolean; title: string; onSwap?: () => void }) {
  return (
    <span
      aria-hidden="true"
      title={title}
      data-tick={title}
      onClick={(e) => {
        if (!onSwap) return;
        e.stopPropagation();
        onSwap();
      }}
      className={`inline-flex size-[15px] shrink-0 items-center justify-center rounded-[3px] border ${on ? "border-act bg-act text-on-act" : "border-second bg-paper"}`}
    >
      {on && <Check size={11} strokeWidth={3} />}
    </span>
  );
}
