import type { Span } from "../api/client";

/**
 * Where words that were selected in the page itself stand in its source: at the place before which they stand as often
 * as in the page. White space counts as one space, as a browser shows it; what stands between tags is looked through.
 */
export function wordsIn(source: string, words: string, before: number): { from: number; to: number } | undefined {
  const places: number[] = [];
  let text = "";
  const hidden = /<!--[\s\S]*?(?:-->|$)|<(script|style|title|textarea)\b[\s\S]*?(?:<\/\1[^>]*>|$)|<[a-z/!?][^>]*>/giy;
  for (let i = Math.max(0, source.search(/<body\b/i)); i < source.length; ) {
    hidden.lastIndex = i;
    const skipped = source[i] === "<" ? hidden.exec(source) : null;
    if (skipped) {
      i += skipped[0].length;
      continue;
    }
    const space = /\s/.test(source[i] ?? "");
    if (!space || !text.endsWith(" ")) {
      text += space ? " " : source[i];
      places.push(i);
    }
    i++;
  }
  const wanted = words.replace(/\s+/g, " ").trim();
  if (!wanted) return undefined;
  let at = -1;
  for (let n = 0; n <= before; n++) {
    const next = text.indexOf(wanted, at + 1);
    if (next < 0) break;
    at = next;
  }
  const from = places[at];
  const last = places[at + wanted.length - 1];
  return from === undefined || last === undefined ? undefined : { from, to: last + 1 };
}

/** Where the tag of a picture stands in the source, by the key of its reference. */
export function pictureIn(source: string, spans: Span[], key: string): { from: number; to: number } | undefined {
  const span = spans.find((s) => s.reference.key === key);
  const from = span ? source.lastIndexOf("<", span.from) : -1;
  const tag = from < 0 ? undefined : /^<(?:[^>"']|"[^"]*"|'[^']*')*>/.exec(source.slice(from))?.[0];
  return tag ? { from, to: from + tag.length } : undefined;
}
