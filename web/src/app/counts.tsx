import { useNavigate, useSearch } from "@tanstack/react-router";
import type { State } from "../api/client";
import { useFolder, useFolderId } from "../api/folder";
import { LandingMark, stateWords } from "../parts/mark";
import type { PagesSearch } from "../routes";

const shown: State[] = ["broken", "fragile", "unchecked", "sound"];

/** The four states with their counts. Each shows the references of that state in Pages, and all of them when chosen again. */
export function Counts() {
  const folder = useFolderId();
  const { data } = useFolder();
  const navigate = useNavigate();
  const search: { state?: State } = useSearch({ strict: false });
  if (!data || data.version === 0) return null;
  return (
    <div role="toolbar" aria-label="References by state" className="ml-auto flex gap-1">
      {shown.map((state) => {
        const n = data.counts[state as "broken" | "fragile" | "unchecked" | "sound"];
        const on = search.state === state;
        return (
          <button
            key={state}
            type="button"
            aria-pressed={on}
            aria-label={`${n.toLocaleString("en")} ${stateWords[state]}`}
            title={on ? "Show all references" : `Show only what is ${stateWords[state]}`}
            onClick={() =>
              navigate({
                to: "/folder/$folder/pages",
                params: { folder: String(folder) },
                search: (s: PagesSearch) => ({ ...s, state: on ? undefined : state }),
              })
            }
            className="flex items-center gap-2 rounded-[5px] px-2 py-1 tabular-nums hover:bg-paper aria-pressed:bg-act-soft"
          >
            <LandingMark state={state} />
            <span className="font-mono text-small">{n.toLocaleString("en")}</span>
          </button>
        );
      })}
    </div>
  );
}
