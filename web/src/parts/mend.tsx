import { useMutation, useQueryClient } from "@tanstack/react-query";
import { answer, api, type Mending } from "../api/client";
import { useFolderId } from "../api/folder";
import { Button, Trouble } from "./controls";
import { count, Sentence } from "./words";

interface Props {
  mends: Mending;
  /** The reference, or all of a cause. */
  of: { page: string; key: string } | { cause: string };
  onSaid?: (said: string) => void;
}

/** Puts right in the tags of references what a rule found on them. */
export function Mend({ mends, of, onSaid }: Props) {
  const folder = useFolderId();
  const queries = useQueryClient();
  const mend = useMutation({
    mutationFn: () =>
      answer(api.POST("/folders/{folder}/mend", { params: { path: { folder } }, body: { rule: mends.rule, ...of } })),
    onSuccess: ({ mended, left }) =>
      onSaid?.(`${count(mended, "tag")} changed${left > 0 ? `, ${left.toLocaleString("en")} left` : ""}.`),
    onSettled: () => queries.invalidateQueries({ queryKey: ["folder", folder] }),
  });
  if (!mends.rule) return null;
  return (
    <>
      <Button disabled={mend.isPending} onClick={() => mend.mutate()}>
        <span>
          <Sentence text={mends.label} />
        </span>
      </Button>
      {mend.error && <Trouble error={mend.error} />}
    </>
  );
}
