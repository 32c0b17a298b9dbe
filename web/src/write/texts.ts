import type { TextEdit } from "../api/client";

/** The text with edits made in it. */
export function applied(text: string, edits: TextEdit[]): string {
  let out = "";
  let at = 0;
  for (const { from, to, insert } of edits) {
    out += text.slice(at, from) + insert;
    at = to;
  }
  return out + text.slice(at);
}

/** What of a text has to be replaced so that it is another. */
export function between(text: string, fresh: string) {
  let from = 0;
  while (from < text.length && text[from] === fresh[from]) from++;
  let end = 0;
  while (end < text.length - from && end < fresh.length - from && text.at(-1 - end) === fresh.at(-1 - end)) end++;
  return { from, to: text.length - end, insert: fresh.slice(from, fresh.length - end) };
}
