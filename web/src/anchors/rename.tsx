import { useId, useState } from "react";
import { answer, api } from "../api/client";
import { useFolderId } from "../api/folder";
import { Button, Input, Trouble } from "../parts/controls";
import { Clashes, Follows } from "../parts/follows";
import { useKeys } from "../parts/keys";
import { usePlan } from "../parts/use-plan";
import { count } from "../parts/words";

/** Renames an id of a page, with all that refers to it. What changes is shown before. */
export function RenameId({ page, id }: { page: string; id: string }) {
  const folder = useFolderId();
  const field = useId();
  const [name, setName] = useState(id);
  const { plan, error, carry, ready } = usePlan({
    key: ["rename-id", page, id, name],
    ask: (really) =>
      answer(
        api.POST("/folders/{folder}/rename-id", {
          params: { path: { folder } },
          body: { page, from: id, to: name, carry: really },
        }),
      ),
    wanted: name.trim() !== id,
    onDone: () => {},
  });
  useKeys((key) => {
    if (key !== "e") return false;
    document.getElementById(field)?.focus();
    return true;
  });
  return (
    <>
      <form
        className="mt-3 flex items-baseline gap-2"
        onSubmit={(e) => {
          e.preventDefault();
          if (ready) carry();
        }}
      >
        <label htmlFor={field} className="text-small text-second">
          its id
        </label>
        <Input
          id={field}
          value={name}
          spellCheck={false}
          onChange={(e) => setName(e.target.value)}
          onFocus={(e) => e.target.select()}
          onKeyDown={(e) => {
            if (e.key === "Escape") setName(id);
          }}
          className="flex-1 font-mono"
        />
        <Button type="submit" disabled={!ready}>
          Rename{plan && ready && ` it, with ${count(plan.rewritesInAll - 1, "reference")}`}
        </Button>
      </form>
      {error && <Trouble error={error} />}
      <Clashes plan={plan} />
      {plan && ready && <Follows plan={plan} rewritten="What is rewritten" noun="place" told="What can’t follow" />}
    </>
  );
}
