import { useState } from "react";
import { useSettings } from "../api/settings";
import { Input, Trouble } from "../parts/controls";
import { count } from "../parts/words";
import { when } from "./detail";

/** How much of the history is kept, and what was taken out of it. */
export function Limits({ pruned, until }: { pruned: number; until: string | undefined }) {
  const { settings, error, set } = useSettings();
  if (!settings) return null;
  return (
    <div className="shrink-0 border-t border-hairline px-edge py-2 text-small text-second">
      <p className="flex flex-wrap items-baseline gap-x-1.5">
        Keep up to
        <Amount
          label="Megabytes of history"
          value={settings.historyMegabytes || 1000}
          onSet={(n) => set({ ...settings, historyMegabytes: n })}
        />
        MB, from the last
        <Amount
          label="Days of history"
          value={settings.historyDays ?? 0}
          onSet={(n) => set({ ...settings, historyDays: n })}
        />
        days (0: from any time). The last 24 hours always stay.
      </p>
      {pruned > 0 && (
        <p className="mt-1">
          {count(pruned, "older change")} {pruned === 1 ? "was" : "were"} removed to keep to that
          {until && `, the last of ${when(until)}`}. {pruned === 1 ? "It" : "They"} can no longer be undone.
        </p>
      )}
      {error && <Trouble error={error} />}
    </div>
  );
}

function Amount({ label, value, onSet }: { label: string; value: number; onSet: (n: number) => void }) {
  const [typed, setTyped] = useState<string>();
  const done = () => {
    const n = Number(typed);
    if (typed !== undefined && Number.isInteger(n) && n >= 0 && n !== value) onSet(n);
    setTyped(undefined);
  };
  return (
    <Input
      aria-label={label}
      inputMode="numeric"
      value={typed ?? value}
      onChange={(e) => setTyped(e.target.value.replace(/[^0-9]/g, ""))}
      onBlur={done}
      onKeyDown={(e) => e.key === "Enter" && done()}
      className="w-14 text-right font-mono text-ink"
    />
  );
}
