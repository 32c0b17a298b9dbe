import { type ReactNode, useState } from "react";
import type { Cause } from "../api/client";
import { Filter, TextButton } from "../parts/controls";
import { ruleWords } from "../parts/names";
import { Choose } from "../parts/select";

interface Wanted {
  find: string;
  state: string;
  certainty: string;
  rule: string;
  folder: string;
}

const nothing: Wanted = { find: "", state: "", certainty: "", rule: "", folder: "" };
/** The value of "no choice" in a list of choices, where an empty one is not allowed. */
const any = "any";

/** Which of the causes are listed. */
export function useCauseFilter(causes: Cause[]) {
  const [wanted, setWanted] = useState(nothing);
  const { find, state, certainty, rule, folder } = wanted;
  const low = find.toLowerCase();
  const shown = causes.filter(
    (c) =>
      (!low || `${c.message} ${c.evidence}`.toLowerCase().includes(low)) &&
      (!state || c.state === state) &&
      (!certainty || (certainty === "none" ? !c.certainty : c.certainty === certainty)) &&
      (!rule || c.rules.includes(rule)) &&
      (!folder || c.folders.includes(folder === "/" ? "" : folder)),
  );
  return { wanted, setWanted, shown };
}

interface Props {
  causes: Cause[];
  wanted: Wanted;
  onWanted: (wanted: Wanted) => void;
  onLeave: () => void;
  children: ReactNode;
}

/** Filters the causes: by words, how bad and how certain they are, by rule and by folder. */
export function CauseFilters({ causes, wanted, onWanted, onLeave, children }: Props) {
  const rules = [...new Set(causes.flatMap((c) => c.rules))].sort();
  const folders = [...new Set(causes.flatMap((c) => c.folders))].sort();
  const choice = (name: keyof Wanted, label: string, all: string, options: { value: string; label: string }[]) => (
    <Choose
      label={label}
      value={wanted[name] || any}
      options={[{ value: any, label: all }, ...options]}
      onChoose={(value) => onWanted({ ...wanted, [name]: value === any ? "" : value })}
      className="max-w-40 text-small"
    />
  );
  const set = Object.values(wanted).some((value) => value !== "");
  return (
    <div className="flex shrink-0 flex-wrap items-baseline gap-x-3 gap-y-1.5 border-b border-hairline px-[22px] pb-2">
      <Filter
        label="find a cause"
        value={wanted.find}
        onChange={(find) => onWanted({ ...wanted, find })}
        onLeave={onLeave}
      />
      {choice("state", "How bad", "broken or not", [
        { value: "broken", label: "broken" },
        { value: "fragile", label: "fragile" },
        { value: "advice", label: "advice" },
      ])}
      {choice("certainty", "How certain", "certain or not", [
        { value: "certain", label: "certain" },
        { value: "likely", label: "likely" },
        { value: "possible", label: "possible" },
        { value: "none", label: "no repair known" },
      ])}
      {choice(
        "rule",
        "The rule",
        "all rules",
        rules.map((value) => ({ value, label: ruleWords[value] ?? value })),
      )}
      {choice(
        "folder",
        "The folder",
        "all folders",
        folders.map((value) => ({ value: value || "/", label: value || "the top" })),
      )}
      {set && (
        <TextButton onClick={() => onWanted(nothing)} className="text-small">
          show all
        </TextButton>
      )}
      <span className="ml-auto">{children}</span>
    </div>
  );
}
