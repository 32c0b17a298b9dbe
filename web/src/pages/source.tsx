import { EditorState } from "@codemirror/state";
import { EditorView } from "@codemirror/view";
import { keepPreviousData, useQuery } from "@tanstack/react-query";
import { useEffect, useRef } from "react";
import { answer, api, type Source } from "../api/client";
import { useFolderId, useSession } from "../api/folder";
import { Trouble } from "../parts/controls";
import { useDestination } from "../parts/destination";
import { setMarks, sourceLook, spanAt } from "../parts/source-look";

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
    const made = new EditorView({
      parent: host.current,
      state: EditorState.create({ extensions: [sourceLook(page, nonce), EditorState.readOnly.of(true)] }),
    });
    view.current = made;
    const under = (e: MouseEvent) => {
      const at = made.posAtCoords(e);
      return at === null ? undefined : spanAt(made.state, at);
    };
    const move = (e: MouseEvent) => {
      const span = under(e);
      handlers.current.point(span && { page: handlers.current.page, ...span.reference });
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
