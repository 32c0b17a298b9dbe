import { useMutation, useQueryClient } from "@tanstack/react-query";
import { useState } from "react";
import { answer, api } from "../api/client";
import { useFolderId } from "../api/folder";
import { Button, Input, Section, TextButton, Trouble } from "./controls";
import { ruleWords } from "./names";

interface Mark {
  page: string;
  rule: string;
  written: string;
}

/** Sets findings aside for a reason that is kept, or brings them back where there is none. */
export function useAside() {
  const folder = useFolderId();
  const queries = useQueryClient();
  return useMutation({
    mutationFn: (body: { marks: Mark[]; reason?: string }) =>
      answer(api.POST("/folders/{folder}/aside", { params: { path: { folder } }, body })),
    onSettled: () => queries.invalidateQueries({ queryKey: ["folder", folder] }),
  });
}

/** Sets what was found of a reference aside, for a reason that is remembered. */
export function SetAside({ marks }: { marks: Mark[] }) {
  const [open, setOpen] = useState(false);
  const [reason, setReason] = useState("");
  const aside = useAside();
  if (marks.length === 0) return null;
  if (!open) {
    return (
      <p className="mt-4 text-small text-second">
        Is it meant so?{" "}
        <TextButton onClick={() => setOpen(true)} strong>
          Set it aside
        </TextButton>
      </p>
    );
  }
  return (
    <Section title="Set aside">
      <form
        onSubmit={(e) => {
          e.preventDefault();
          aside.mutate({ marks, reason: reason.trim() });
        }}
      >
        <label className="block text-small text-second">
          Why it stays as it is ({marks.map((m) => ruleWords[m.rule] ?? m.rule).join(", ")})
          <Input
            autoFocus
            value={reason}
            onChange={(e) => setReason(e.target.value)}
            className="mt-1 block w-full py-1 text-[14px] text-ink"
          />
        </label>
        {aside.error && <Trouble error={aside.error} />}
        <div className="mt-2 flex gap-2">
          <Button type="submit" disabled={aside.isPending || reason.trim() === ""}>
            Set aside
          </Button>
          <Button onClick={() => setOpen(false)}>Leave it</Button>
        </div>
      </form>
    </Section>
  );
}
