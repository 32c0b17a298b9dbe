import type { EditorView } from "@codemirror/view";
import { type RefObject, useCallback, useState } from "react";
import { answer, api } from "../api/client";
import { useFolderId } from "../api/folder";
import type { Copied } from "./pasted";

/** What was pasted from a page in another folder: its paths as they must be here. */
export function usePasted(view: RefObject<EditorView | undefined>, page: string) {
  const folder = useFolderId();
  const [copied, setCopied] = useState<Copied>();
  const pasted = async (from: number, to: number) => {
    const text = view.current?.state.doc.toString() ?? "";
    const params = { path: { folder } };
    const body = { page, text, from, to };
    const found = await answer<Copied>(api.POST("/folders/{folder}/pasted", { params, body })).catch(() => undefined);
    if (found?.edits.length && view.current?.state.doc.toString() === text) setCopied(found);
  };
  const forget = useCallback(() => setCopied(undefined), []);
  return { copied, pasted, forget };
}
