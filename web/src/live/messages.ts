import type { components } from "../api/schema.gen";

type Reference = components["schemas"]["Reference"];

/** What the script in a page tells the interface. */
export type FromPage =
  /** A page was opened in the frame; or what is not there. */
  | { arvel: "at"; page?: string; missing?: string; fragment: string }
  /** The pointer or the focus is on a reference, or on none. */
  | { arvel: "point"; page?: string; reference?: Reference }
  /** A reference was clicked. */
  | { arvel: "click"; page: string; reference: Reference; follows: Follows }
  /** A heading, or what bears an id, was pointed out as the target of a link. */
  | { arvel: "aimed"; page: string; id: string; text: string; heading: boolean }
  /** Words or a picture were selected. */
  | { arvel: "picked"; page: string; what: Picked };

/** What of a page is selected: words, which stand on it as often as before says before that place; or a picture. */
export type Picked = { text: string; before: number } | { key: string };

/** What a click on a reference does. */
export type Follows = "inside" | "outside" | "nowhere";

/** What the interface tells the script in a page. */
export type ToPage =
  /** Show the marks, or hide them. */
  | { arvel: "marks"; shown: boolean }
  /** A click points out a target, or does no more. */
  | { arvel: "aim"; on: boolean }
  /** These files changed. */
  | { arvel: "renew"; paths: string[] }
  /** This reference is selected. */
  | { arvel: "select"; key: string };
