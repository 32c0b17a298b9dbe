import { css } from "@codemirror/lang-css";
import { html } from "@codemirror/lang-html";
import { HighlightStyle, syntaxHighlighting } from "@codemirror/language";
import { EditorState, RangeSetBuilder, StateEffect, StateField } from "@codemirror/state";
import { Decoration, type DecorationSet, EditorView, lineNumbers } from "@codemirror/view";
import { tags } from "@lezer/highlight";
import { keepPreviousData, useQuery } from "@tanstack/react-query";
import { useEffect, useRef } from "react";
import { answer, api, type Source, type Span } from "../api/client";
import { useFolderId, useSession } from "../api/folder";
import { useDestination } from "../frame/destination";
import { Trouble } from "../parts/controls";

interface Props {
  page: string;
  link: string | undefined;
  onLink: (key: string) => void;
}

/** The source of a page, with marks where its references stand. */
export default function SourceText({ page, link, onLink }: Props) {
  const folder = useFolderId();
  const { data, error } = useQuery({
    queryKey: ["folder", folder, "source", page],
    queryFn: () =>
      answer<Source>(api.GET("/folders/{folder}/source", { params: { path: { folder }, query: { page } } })),
    placeholderData: keepPreviousData,
  });
  const nonce = useSession().data?.nonce;
  const host = useRef<HTMLDivElement>(null);
  const view = useRef<EditorView>(undefined);
  const { point } = useDestination();
  const handlers = useRef({ page, onLink, point });
  useEffect(() => {
    handlers.current = { page, onLink, point };
  });
  useEffect(() => {
    if (!host.current || !nonce) return;
    const made = new EditorView({ parent: host.current, state: stateOf("", page, nonce) });
    view.current = made;
    const under = (e: MouseEvent) => {
      const at = made.posAtCoords(e);
      return at === null ? undefined : spanAt(made.state, at);
    };
    const move = (e: MouseEvent) => {
      const span = under(e);
      handlers.current.point(span && { page: handlers.current.page, reference: span.reference });
    };
    const click = (e: MouseEvent) => {
      const span = under(e);
      if (span) handlers.current.onLink(span.reference.key);
    };
    made.dom.addEventListener("mousemove", move);
    made.dom.addEventListener("mouseleave", () => handlers.current.point(undefined));
    made.dom.addEventListener("click", click);
    return () => made.destroy();
  }, [page, nonce]);
  // biome-ignore lint/correctness/useExhaustiveDependencies: the editor is made once the nonce is there
  useEffect(() => {
    const v = view.current;
    if (!v || !data) return;
    const top = v.scrollDOM.scrollTop;
    if (v.state.doc.toString() !== data.text) {
      v.dispatch({ changes: { from: 0, to: v.state.doc.length, insert: data.text } });
      v.scrollDOM.scrollTop = top;
    }
    v.dispatch({ effects: setMarks.of({ spans: data.spans, selected: link }) });
  }, [data, link, nonce]);
  // What is selected elsewhere is brought into view here.
  // biome-ignore lint/correctness/useExhaustiveDependencies: the editor is made once the nonce is there
  useEffect(() => {
    const span = data?.spans.find((s) => s.reference.key === link);
    if (span) view.current?.dispatch({ effects: EditorView.scrollIntoView(span.from, { y: "nearest", yMargin: 60 }) });
  }, [data, link, nonce]);
  if (error && !data) return <Trouble error={error} />;
  return <div ref={host} className="source min-h-0 flex-1 overflow-hidden" data-testid="source" />;
}

interface Marks {
  spans: Span[];
  selected: string | undefined;
}

const setMarks = StateEffect.define<Marks>();

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

function spanAt(state: EditorState, at: number): Span | undefined {
  return state.field(marks).spans.find((s) => s.from <= at && at <= s.to);
}

/** Quiet colours for what is no reference: the source is read for its addresses. */
const quiet = HighlightStyle.define([
  { tag: [tags.tagName, tags.attributeName, tags.propertyName], color: "var(--ink)" },
  { tag: [tags.angleBracket, tags.definitionOperator, tags.bracket], color: "var(--second)" },
  { tag: [tags.attributeValue, tags.string], color: "var(--ink)" },
  { tag: [tags.comment, tags.documentMeta, tags.processingInstruction], color: "var(--second)", fontStyle: "italic" },
]);

function stateOf(text: string, page: string, nonce: string): EditorState {
  return EditorState.create({
    doc: text,
    extensions: [
      EditorView.cspNonce.of(nonce),
      lineNumbers(),
      EditorView.lineWrapping,
      EditorState.readOnly.of(true),
      EditorView.contentAttributes.of({ "aria-label": `Source of ${page}` }),
      page.endsWith(".css") ? css() : html(),
      syntaxHighlighting(quiet),
      marks,
    ],
  });
}
