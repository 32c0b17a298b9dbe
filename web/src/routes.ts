import type { State } from "./api/client";

/** What of the Pages view its address says. */
export interface PagesSearch {
  page?: string | undefined;
  link?: string | undefined;
  state?: State | undefined;
  way?: string | undefined;
  rule?: string | undefined;
  see?: See | undefined;
  /** The tag of the link is to be opened. */
  edit?: boolean | undefined;
}

/** The ways to see a page. Its links are listed where nothing else is said. */
export type See = "source" | "page" | "write";

const states: State[] = ["sound", "broken", "fragile", "unchecked", "inert"];
const ways: See[] = ["source", "page", "write"];

/** Reads what the address of the Pages view says, and leaves out what it can't. */
export function pagesSearch(s: Record<string, unknown>): PagesSearch {
  const state = states.find((known) => known === s.state);
  const see = ways.find((known) => known === s.see);
  return {
    ...(typeof s.page === "string" ? { page: s.page } : {}),
    ...(typeof s.link === "string" ? { link: s.link } : {}),
    ...(typeof s.way === "string" ? { way: s.way } : {}),
    ...(typeof s.rule === "string" ? { rule: s.rule } : {}),
    ...(state ? { state } : {}),
    ...(see ? { see } : {}),
    ...(s["edit"] === true ? { edit: true } : {}),
  };
}
