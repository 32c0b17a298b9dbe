import type { State } from "../api/client";
import { stateWords } from "./mark";
import { ruleWords, wayWords } from "./names";

/** Which references the lists are of. */
export interface Only {
  state: State | undefined;
  way: string | undefined;
  rule: string | undefined;
}

/** The filter as the API takes it: what is not set is left out. */
export function filled({ state, way, rule }: Only): { state?: State; way?: string; rule?: string } {
  return { ...(state ? { state } : {}), ...(way ? { way } : {}), ...(rule ? { rule } : {}) };
}

/** The filter in words. */
export function onlyWords({ state, way, rule }: Only): string {
  const names: Record<string, string> = wayWords;
  return [state && stateWords[state], way && (names[way] ?? way), rule && (ruleWords[rule] ?? rule)]
    .filter(Boolean)
    .join(", ");
}
