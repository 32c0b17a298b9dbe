import { useMutation, useQueryClient } from "@tanstack/react-query";
import { Link } from "@tanstack/react-router";
import { useState } from "react";
import { answer, api, type Change, ProblemError } from "../api/client";
import { useFolderId } from "../api/folder";
import { useStretches } from "../api/stretch";
import { ColumnHeader, Empty, Filter, Trouble } from "../parts/controls";
import { Export } from "../parts/export";
import { List } from "../parts/list";
import { count, Sentence } from "../parts/words";
import { Detail, type How, standing, when } from "./detail";
import { Limits } from "./limits";

/** History: what was changed, when, letter by letter, and back again. */
export default function HistoryView() {
  const folder = useFolderId();
  const queries = useQueryClient();
  const [at, setAt] = useState(0);
  const [find, setFind] = useState("");
  const list = useStretches<Change, { rows: Change[]; total: number; pruned: number; prunedUntil?: string }>(
    ["folder", folder, "changes", find],
    async (offset, limit) => {
      const { changes, ...rest } = await answer(
        api.GET("/folders/{folder}/changes", { params: { path: { folder }, query: { q: find, offset, limit } } }),
      );
      return { rows: changes, ...rest };
    },
  );
  const [said, setSaid] = useState("");
  const undo = useMutation({
    mutationFn: async ({ change, how }: { change: number; how: How }) => {
      const path = { folder, change };
      if (how === "back to") {
        const { undone, left } = await answer(
          api.POST("/folders/{folder}/changes/{change}/undo-back-to", { params: { path } }),
        );
        const but = left.length > 0 ? `, but for ${left.join(", ")}, edited since` : "";
        return `${count(undone, "change")} taken back${but}.`;
      }
      const query = { partly: how === "partly" };
      const { left } = await answer(api.POST("/folders/{folder}/changes/{change}/undo", { params: { path, query } }));
      return left.length > 0 ? `Taken back, but for ${left.join(", ")}, which was edited since.` : "";
    },
    onMutate: () => setSaid(""),
    onSuccess: (what) => {
      setSaid(what);
      setAt(0);
    },
    onSettled: () => queries.invalidateQueries({ queryKey: ["folder", folder] }),
  });
  const { row, see } = list;
  const shown = row(at);
  if (list.error) return <Trouble error={list.error} />;
  if (list.list && list.total === 0 && !find) {
    return (
      <div className="mx-auto mt-24 w-[520px]">
        <h1 className="mb-2 text-head font-semibold">Nothing has been changed yet</h1>
        <p className="text-second">
          Every change you make here will be listed with the letters it changed. You can undo it, even days later.{" "}
          <Link
            to="/folder/$folder/pages"
            params={{ folder: String(folder) }}
            className="font-semibold text-act underline"
          >
            Look at the pages
          </Link>
        </p>
      </div>
    );
  }
  return (
    <div className="grid min-h-0 flex-1 grid-cols-[420px_1fr]">
      <section aria-label="Changes" className="flex min-h-0 flex-col border-r border-hairline">
        <ColumnHeader>
          <h2 className="text-title font-semibold">Changes</h2>
          <span className="text-small text-second">
            {list.list && `${list.total.toLocaleString("en")}, the last first`}
          </span>
          <span className="flex-1" />
          <Filter label="find a change" value={find} onChange={setFind} />
          <Export
            name="Changes"
            rows={async () =>
              (await list.all()).map((c) => ({ when: c.made, change: c.title.replaceAll("`", ""), files: c.count }))
            }
          />
        </ColumnHeader>
        {list.list && list.total === 0 && <Empty>No change has “{find}” in its title.</Empty>}
        <List
          label="Changes"
          total={list.total}
          height={64}
          selected={at}
          onSelect={(i) => {
            undo.reset();
            setAt(i);
          }}
          onSee={see}
          rowKey={(i) => row(i)?.id ?? i}
          render={(i, on) => <ChangeRow change={row(i)} on={on} />}
        />
        <Limits pruned={list.list?.pruned ?? 0} until={list.list?.prunedUntil} />
      </section>
      <section
        aria-label="Change"
        data-stop
        tabIndex={-1}
        className="min-h-0 overflow-y-auto bg-paper px-6 pt-3.5 pb-8 outline-none"
      >
        {undo.error && <Trouble error={undo.error} />}
        {said && (
          <p role="status" className="mb-3 bg-act-soft px-3 py-2">
            {said}
          </p>
        )}
        {shown && (
          <Detail
            change={shown}
            busy={undo.isPending}
            later={at}
            inTheWay={inTheWay(undo.error)}
            onUndo={(how) => undo.mutate({ change: shown.id, how })}
          />
        )}
        {!shown && list.list && <Empty>Choose a change to see what it changed.</Empty>}
      </section>
    </div>
  );
}

const inTheWay = (error: unknown) => error instanceof ProblemError && error.problem.status === 409;

function ChangeRow({ change, on }: { change: Change | undefined; on: boolean }) {
  if (!change) return <div className="h-16" />;
  const dim = change.undoneBy || change.state !== "done";
  return (
    <div
      className={`border-b border-b-hairline border-l-[3px] px-4 py-2.5 ${on ? "border-l-act bg-paper" : "border-l-transparent hover:bg-paper"}`}
    >
      <div className={`line-clamp-2 wrap-anywhere ${dim ? "text-second" : ""}`}>
        <Sentence text={change.title} />
      </div>
      <div className="text-small text-second">{[when(change.made), standing(change)].filter(Boolean).join(" · ")}</div>
    </div>
  );
}
