import type { LiveMark } from "./client";

/**
 * What the script in a page tells the interface, on a port that only the two have. It names things and shows nothing: what
 * is said of a reference, the interface asks the API.
 */
export type FromPage =
  /** A page was opened in the frame; none where nothing is at the address. */
  | { arvel: "at"; page?: string; fragment: string }
  /** The pointer or the focus is on a reference, or on none. */
  | { arvel: "point"; page: string; key?: string }
  /** A reference was clicked. */
  | { arvel: "click"; page: string; key: string; follows: Follows }
  /** A heading, or an element with an id, was pointed out as the target of a link. */
  | { arvel: "aimed"; page: string; id: string; text: string }
  /** A picture was pointed out. */
  | { arvel: "aimed-picture"; page: string; key: string }
  /** A key that goes back was pressed. */
  | { arvel: "back" }
  /** Words or a picture were selected. */
  | { arvel: "picked"; page: string; what: Picked }
  /** The page is still alive. */
  | { arvel: "alive" };

/** What of a page is selected: words, which occur as often as `before` says before that place; or a picture. */
export type Picked = { text: string; before: number } | { key: string };

/** What a click on a reference does. */
export type Follows = "inside" | "outside" | "nowhere";

/** What the interface tells the script in a page. */
export type ToPage =
  /** Show the marks, or hide them. */
  | { arvel: "marks"; shown: boolean }
  /** Show this text in place of the file's, with its references. */
  | { arvel: "text"; was: string; text: string; marks: LiveMark[] }
  /** A click points out a target, or does no more. */
  | { arvel: "aim"; on: boolean }
  /** These files changed. */
  | { arvel: "renew"; paths: string[] }
  /** This reference is selected. */
  | { arvel: "select"; key: string }
  /** Say that the page is still alive. */
  | { arvel: "alive" };

const text = (value: unknown): value is string => typeof value === "string" && value.length < 10_000;
const key = (value: unknown): value is string => typeof value === "string" && /^[0-9a-f]{8}\.\d{1,7}$/.test(value);
const follows: unknown[] = ["inside", "outside", "nowhere"];

/** The message, if it has the shape of one. A page is the author's, who need not have written it. */
export function fromPage(data: unknown): FromPage | undefined {
  if (typeof data !== "object" || data === null) return undefined;
  const m = data as Record<string, unknown>;
  const fits = () => {
    switch (m["arvel"]) {
      case "at":
        return (m["page"] === undefined || text(m["page"])) && text(m["fragment"]);
      case "point":
        return text(m["page"]) && (m["key"] === undefined || key(m["key"]));
      case "click":
        return text(m["page"]) && key(m["key"]) && follows.includes(m["follows"]);
      case "aimed":
        return text(m["page"]) && text(m["id"]) && text(m["text"]);
      case "aimed-picture":
        return text(m["page"]) && key(m["key"]);
      case "back":
        return true;
      case "picked":
        return text(m["page"]) && picked(m["what"]);
      case "alive":
        return true;
    }
    return false;
  };
  return fits() ? (data as FromPage) : undefined;
}

function picked(what: unknown): boolean {
  if (typeof what !== "object" || what === null) return false;
  const w = what as Record<string, unknown>;
  return key(w["key"]) || (text(w["text"]) && Number.isInteger(w["before"]));
}
