import { EditorView } from "@codemirror/view";
import { type RefObject, useEffect } from "react";
import { answer, api } from "../api/client";
import { useFolderId } from "../api/folder";
import type { Picked } from "../api/messages";

/** Selects in the source what is selected in the page itself. */
export function usePicked(view: RefObject<EditorView | undefined>, page: string, picked: Picked | undefined) {
  const folder = useFolderId();
  // biome-ignore lint/correctness/useExhaustiveDependencies: what is selected in the page is looked for once
  useEffect(() => {
    const v = view.current;
    if (!v || !picked) return;
    const text = v.state.doc.toString();
    const wanted = "key" in picked ? { key: picked.key } : { words: picked.text, before: picked.before };
    const params = { path: { folder } };
    void answer(api.POST("/folders/{folder}/locate", { params, body: { page, text, ...wanted } })).then(
      ({ from, to }) => {
        if (from === undefined || to === undefined || view.current !== v || v.state.doc.toString() !== text) return;
        v.dispatch({
          selection: { anchor: from, head: to },
          effects: EditorView.scrollIntoView(from, { y: "center" }),
        });
      },
      () => {}, // it is not there, or will be asked for again
    );
  }, [picked]);
}
