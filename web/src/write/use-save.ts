import type { EditorView } from "@codemirror/view";
import { useMutation, useQueryClient } from "@tanstack/react-query";
import { type RefObject, useRef } from "react";
import { answer, api, type HeadingAt, type LinkedWords, ProblemError } from "../api/client";
import { useFolderId } from "../api/folder";
import { between } from "./texts";
import type { Base } from "./use-draft";

/** Saves the text, and what goes with it on other pages. */
export function useSave(
  view: RefObject<EditorView | undefined>,
  base: RefObject<Base | undefined>,
  page: string,
  draft: { cancel: () => void; now: () => Promise<void> },
  onProblem: (problem: unknown) => void,
  onSaid: (said: string) => void,
) {
  const folder = useFolderId();
  const queries = useQueryClient();
  /** The text as it was last saved. */
  const saved = useRef<string>(undefined);
  const save = useMutation({
    mutationFn: async (more: { gives?: HeadingAt; words?: LinkedWords } | undefined) => {
      const v = view.current;
      const text = v?.state.doc.toString() ?? "";
      draft.cancel();
      saved.current = text;
      const body = { page, text, base: base.current?.hash ?? "", ...more };
      const done = await answer(api.PUT("/folders/{folder}/source", { params: { path: { folder } }, body }));
      if (done.text === text || !v || view.current !== v || v.state.doc.toString() !== text) return;
      saved.current = done.text; // its list of contents was renewed
      v.dispatch({ changes: between(text, done.text) });
    },
    onMutate: () => onProblem(undefined),
    onSuccess: () => onSaid("Saved."),
    onError: async (e) => {
      onProblem(e instanceof ProblemError && e.problem.status === 409 ? undefined : e);
      await draft.now();
    },
    onSettled: () => queries.invalidateQueries({ queryKey: ["folder", folder] }),
  });
  return { save, saved };
}
