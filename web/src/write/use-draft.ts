import type { EditorView } from "@codemirror/view";
import { useQueryClient } from "@tanstack/react-query";
import { type RefObject, useRef } from "react";
import { answer, api } from "../api/client";
import { useFolderId } from "../api/folder";
import { useLater } from "./use-later";

/** The file that the text was begun from. */
export interface Base {
  hash: string;
  text: string;
}

/** How long after the last key the text is kept, in milliseconds. */
const keepAfter = 400;

/** Keeps text that is not saved, and marks its page in the lists. */
export function useDraft(
  view: RefObject<EditorView | undefined>,
  base: RefObject<Base | undefined>,
  page: string,
  onProblem: (problem: unknown) => void,
) {
  const folder = useFolderId();
  const queries = useQueryClient();
  /** What was typed, as it was last kept. */
  const kept = useRef<string>(undefined);
  /** Whether the lists of pages were last asked for when there was text that is not saved. */
  const marked = useRef<boolean>(undefined);
  const draft = useLater(keepAfter, async () => {
    const v = view.current;
    if (!v || !base.current) return;
    const text = v.state.doc.toString();
    const typed = text !== base.current.text;
    const body = typed ? { page, text, base: base.current.hash } : { page };
    kept.current = text;
    await answer(api.PUT("/folders/{folder}/draft", { params: { path: { folder } }, body })).catch(onProblem);
    if (typed === marked.current) return;
    marked.current = typed;
    for (const list of ["pages", "tree"]) void queries.invalidateQueries({ queryKey: ["folder", folder, list] });
  });
  return { draft, kept };
}
