import { useMutation, useQueryClient } from "@tanstack/react-query";
import { Link } from "@tanstack/react-router";
import { useState } from "react";
import { answer, api, type Change, ProblemError } from "../api/client";
import { useFolderId } from "../api/folder";
import { useStretches } from "../api/stretch";
import { useKeys } from "../frame/keys";
import { Button, Empty, Trouble } from "../parts/controls";
import { Letters } from "../parts/letters";
import { List } from "../parts/list";
import { count, Mono, Sentence } from "../parts/words";

/** History: what was changed, when, letter by letter, and back again. */
export default function HistoryView() {
  const folder = useFolderId();
  const queries = useQueryClient();
  const [at, setAt] = useState(0);
  const list = useStretches<Change, { rows: Change[]; total: number }>(
    ["folder", folder, "changes"],
    async (offset, limit) => {
      const { changes, total } = await answer(
        api.GET("/folders/{folder}/changes", { params: { path: { folder }, query: { offset, limit } } }),
      );
      return { rows: changes, total };
    },
  );
  const [said, setSaid] = useState("");
  const undo = useMutation({
    mutationFn: async ({ change, how }: { change: number; how: How }) => {
      const path = { folder, change };
      if (how === "back to") {
        const { undone } = await answer(
          api.POST("/folders/{folder}/changes/{change}/undo-back-to", { params: { path } }),
        );
        return `${count(undone, "change")} taken back.`;
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
  useKeys((key) => {
    if (key !== "u" || !shown?.canUndo || undo.isPending) return false;
    undo.mutate({ change: shown.id, how: "whole" });
    return true;
  });
  if (list.error) return <Trouble error={list.error} />;
  if (list.list && list.total === 0) {
    return (
      <div className="mx-auto mt-24 w-[520px]">
        <h1 className="mb-2 text-[20px] font-semibold">Nothing has been changed yet</h1>
        <p className="text-second">
          Every repair stands here as soon as it is made, with the letters it changed, and can be taken back, also days
          later.{" "}
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
        <div className="flex h-[45px] shrink-0 items-center gap-2 px-[18px]">
          <h2 className="text-[15px] font-semibold">Changes</h2>
          <span className="text-[13px] text-second">
            {list.list && `${list.total.toLocaleString("en")}, the last first`}
          </span>
        </div>
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
        {!shown && list.list && <Empty>Choose a change to see its letters.</Empty>}
      </section>
    </div>
  );
}

/** How a change is taken back: as a whole, without the files that were edited since, or with all that came after it. */
type How = "whole" | "partly" | "back to";

const inTheWay = (error: unknown) => error instanceof ProblemError && error.problem.status === 409;

function standing(change: Change): string {
  if (change.state === "taken back") return "cut short, and put back as it was";
  if (change.state === "writing") return "cut short; completed or put back at the next start";
  if (change.undoneBy) return "undone since";
  return "";
}

function when(made: string): string {
  return new Date(made).toLocaleString("en-GB", { day: "numeric", month: "long", hour: "2-digit", minute: "2-digit" });
}

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
      <div className="text-[13px] text-second">{[when(change.made), standing(change)].filter(Boolean).join(" · ")}</div>
    </div>
  );
}

interface DetailProps {
  change: Change;
  busy: boolean;
  /** How many changes were made after it. */
  later: number;
  inTheWay: boolean;
  onUndo: (how: How) => void;
}

function Detail({ change, busy, later, inTheWay, onUndo }: DetailProps) {
  const folder = useFolderId();
  return (
    <>
      <h2 className="text-[20px] leading-tight font-semibold wrap-anywhere">
        <Sentence text={change.title} />
      </h2>
      <p className="mt-1.5 mb-3 text-second">
        {[when(change.made), count(change.files.length, "file"), standing(change)].filter(Boolean).join(" · ")}
      </p>
      <div className="flex flex-wrap items-center gap-3">
        {change.canUndo && (
          <Button kind="act" keycap="U" disabled={busy} onClick={() => onUndo("whole")}>
            Undo
          </Button>
        )}
        {change.canUndo && inTheWay && change.files.length > 1 && (
          <Button disabled={busy} onClick={() => onUndo("partly")}>
            Undo the rest, leave those alone
          </Button>
        )}
        {change.canUndo && later > 0 && (
          <Button disabled={busy} onClick={() => onUndo("back to")}>
            Undo it and all after it
          </Button>
        )}
        <a
          href={`/api/v1/folders/${folder}/changes/${change.id}/diff`}
          download={`change-${change.id}.diff`}
          className="text-act underline"
        >
          as a diff
        </a>
      </div>
      {change.files.map((file) => (
        <section key={file.path} className="mt-5" aria-label={file.path}>
          <h3 className="border-b border-hairline pb-1">
            <Mono className="break-all">{file.path}</Mono>
            {file.kind !== "edited" && (
              <span className="text-second">
                {" "}
                {file.kind}
                {file.from && (
                  <>
                    {" from "}
                    <Mono>{file.from}</Mono>
                  </>
                )}
              </span>
            )}
          </h3>
          {file.lines.map((line) => (
            <div
              key={line.line}
              className="grid grid-cols-[56px_60px_1fr] gap-x-2 pt-2 font-mono text-[13px] leading-[20px]"
            >
              <span className="text-right text-second">{line.line}</span>
              <span className="font-sans text-second">before</span>
              <span className="wrap-anywhere whitespace-pre-wrap">
                <Letters runs={line.runs} side="written" />
              </span>
              <span />
              <span className="font-sans text-second">after</span>
              <span className="wrap-anywhere whitespace-pre-wrap">
                <Letters runs={line.runs} side="real" />
              </span>
            </div>
          ))}
        </section>
      ))}
    </>
  );
}
