import { css } from "@codemirror/lang-css";
import { html } from "@codemirror/lang-html";
import { HighlightStyle, syntaxHighlighting } from "@codemirror/language";
import { type EditorState, type Extension, RangeSetBuilder, StateEffect, StateField } from "@codemirror/state";
import { Decoration, type DecorationSet, EditorView, lineNumbers } from "@codemirror/view";
import { tags } from "@lezer/highlight";
import type { Span } from "../api/client";

interface Marks {
  spans: Span[];
  selected: string | undefined;
}

/** Draws the marks at the references of the text anew. */
export const setMarks = StateEffect.define<Marks>();

const marks = StateField.define<{ spans: Span[]; shown: DecorationSet }>({
  create: () => ({ spans: [], shown: Decoration.none }),
  update(value, tr) {
    let { spans, shown } = value;
    if (tr.docChanged) shown = shown.map(tr.changes);
    for (const effect of tr.effects) {
      if (!effect.is(setMarks)) continue;
      spans = effect.value.spans;
      shown = draw(effect.value, tr.state.doc.length);
    }
    return { spans, shown };
  },
  provide: (field) => EditorView.decorations.from(field, (value) => value.shown),
});

function draw({ spans, selected }: Marks, length: number): DecorationSet {
  const builder = new RangeSetBuilder<Decoration>();
  for (const { from, to, reference } of [...spans].sort((a, b) => a.from - b.from || a.to - b.to)) {
    if (from === to || to > length) continue;
    const chosen = reference.key === selected ? " ref-selected" : "";
    builder.add(from, to, Decoration.mark({ class: `ref ref-${reference.state}${chosen}` }));
  }
  return builder.finish();
}

/** The reference at a place of the text. */
export function spanAt(state: EditorState, at: number): Span | undefined {
  return state.field(marks).spans.find((s) => s.from <= at && at <= s.to);
}

/** The reference of a key, as it was last judged. */
export function spanOf(state: EditorState, key: string | undefined): Span | undefined {
  return state.field(marks).spans.find((s) => s.reference.key === key);
}

/** Quiet colours for what is no reference: the source is read for its addresses. */
const quiet = HighlightStyle.define([
  { tag: [tags.tagName, tags.attributeName, tags.propertyName], color: "var(--ink)" },
  { tag: [tags.angleBracket, tags.definitionOperator, tags.bracket], color: "var(--second)" },
  { tag: [tags.attributeValue, tags.string], color: "var(--ink)" },
  { tag: [tags.comment, tags.documentMeta, tags.processingInstruction], color: "var(--second)", fontStyle: "italic" },
]);

/** How the source of a page looks and what it is called, with its references marked. */
export function sourceLook(page: string, nonce: string): Extension[] {
  return [
    EditorView.cspNonce.of(nonce),
    lineNumbers(),
    EditorView.lineWrapping,
    EditorView.contentAttributes.of({ "aria-label": `Source of ${page}`, tabindex: "0" }),
    page.endsWith(".css") ? css() : html({ autoCloseTags: false }),
    syntaxHighlighting(quiet),
    marks,
  ];
}
