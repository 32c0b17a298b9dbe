import { useMutation, useQueryClient } from "@tanstack/react-query";
import { useEffect, useState } from "react";
import { answer, api } from "../api/client";
import { useFolderId } from "../api/folder";
import { TextButton, Trouble } from "./controls";
import { Sentence } from "./words";

interface Props {
  said: string | undefined;
  /** Nothing was changed that can be undone. */
  final?: boolean;
  className?: string;
}

/** What was done, said where it was done, and how to undo it. */
export function Said({ said, final, className = "mb-4 px-3 py-2" }: Props) {
  const folder = useFolderId();
  const queries = useQueryClient();
  const [undone, setUndone] = useState("");
  // biome-ignore lint/correctness/useExhaustiveDependencies: what is said next was done after that
  useEffect(() => setUndone(""), [said]);
  const undo = useMutation({
    mutationFn: () => answer(api.POST("/folders/{folder}/undo", { params: { path: { folder } } })),
    onSuccess: ({ title }) => setUndone(`Undone: ${title.replace(/^Undone: /, "")}`),
    onSettled: () => queries.invalidateQueries({ queryKey: ["folder", folder] }),
  });
  if (!said) return null;
  return (
    <div className={`shrink-0 bg-act-soft ${className}`}>
      <p role="status" className="flex items-baseline gap-3">
        <span className="min-w-0 flex-1 wrap-anywhere">
          <Sentence text={undone || said} />
        </span>
        {!final && !undone && (
          <TextButton strong disabled={undo.isPending} onClick={() => undo.mutate()} className="shrink-0">
            Undo
          </TextButton>
        )}
      </p>
      {undo.error && <Trouble error={undo.error} />}
    </div>
  );
}
