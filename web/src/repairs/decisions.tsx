import { useMutation, useQueryClient } from "@tanstack/react-query";
import { useState } from "react";
import { answer, api, type Cause } from "../api/client";
import { useFolderId } from "../api/folder";
import { Button, Input, Trouble } from "../parts/controls";
import { count } from "../parts/words";

/** Takes all references of a cause away and keeps what they show. */
export function TakeAway({ cause, onSaid }: { cause: Cause; onSaid: (said: string) => void }) {
  const folder = useFolderId();
  const queries = useQueryClient();
  const away = useMutation({
    mutationFn: () =>
      answer(api.POST("/folders/{folder}/cause/away", { params: { path: { folder }, query: { key: cause.key } } })),
    onSuccess: ({ taken, left }) =>
      onSaid(
        `${count(taken, "reference")} taken away${left > 0 ? `, ${left.toLocaleString("en")} left, since they are part of something larger` : ""}.`,
      ),
    onSettled: () => queries.invalidateQueries({ queryKey: ["folder", folder] }),
  });
  return (
    <>
      <Button disabled={away.isPending} onClick={() => away.mutate()}>
        Remove these references
      </Button>
      {away.error && <Trouble error={away.error} />}
    </>
  );
}

/** Sets a cause aside, with the reason why it stays as it is. */
export function Aside({ cause }: { cause: Cause }) {
  const folder = useFolderId();
  const queries = useQueryClient();
  const [open, setOpen] = useState(false);
  const [reason, setReason] = useState(cause.missingFolder ? `${cause.missingFolder}/ is not part of this folder` : "");
  const aside = useMutation({
    mutationFn: () =>
      answer(
        api.POST("/folders/{folder}/cause/aside", {
          params: { path: { folder }, query: { key: cause.key } },
          body: { reason: reason.trim() },
        }),
      ),
    onSettled: () => queries.invalidateQueries({ queryKey: ["folder", folder] }),
  });
  if (!open) return <Button onClick={() => setOpen(true)}>Set aside</Button>;
  return (
    <form
      className="flex items-center gap-2"
      onSubmit={(e) => {
        e.preventDefault();
        aside.mutate();
      }}
    >
      <Input
        autoFocus
        aria-label="Why it stays as it is"
        placeholder="Why it stays as it is"
        value={reason}
        onChange={(e) => setReason(e.target.value)}
        className="w-64 py-1"
      />
      <Button type="submit" disabled={aside.isPending || reason.trim() === ""}>
        Set {count(cause.findings, "finding")} aside
      </Button>
      <Button onClick={() => setOpen(false)}>Leave it</Button>
      {aside.error && <Trouble error={aside.error} />}
    </form>
  );
}
