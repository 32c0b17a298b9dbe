import { useQuery } from "@tanstack/react-query";
import { answer, api, type Change, type ChangeDetail } from "../api/client";
import { useFolderId } from "../api/folder";
import { Button, Trouble } from "../parts/controls";
import { Letters } from "../parts/letters";
import { count, Mono, Sentence, yearOf } from "../parts/words";

/** How a change is taken back: as a whole, without the files that were edited since, or with all that came after it. */
export type How = "whole" | "partly" | "back to";

export function standing(change: Change): string {
  if (change.state === "taken back") return "cut short, and put back as it was";
  if (change.state === "writing") return "cut short; completed or put back at the next start";
  if (change.undoneBy) return change.kind === "undo" ? "done again since" : "undone since";
  return "";
}

export function when(made: string): string {
  const at = new Date(made);
  const day = { day: "numeric", month: "long", ...yearOf(at.getTime(), Date.now()) } as const;
  return at.toLocaleString("en-GB", { ...day, hour: "2-digit", minute: "2-digit" });
}

interface Props {
  change: Change;
  busy: boolean;
  /** How many changes were made after it. */
  later: number;
  inTheWay: boolean;
  onUndo: (how: How) => void;
}

/** One change, letter by letter, and how to take it back. */
export function Detail({ change, busy, later, inTheWay, onUndo }: Props) {
  const folder = useFolderId();
  const { data, error } = useQuery({
    queryKey: ["folder", folder, "change", change.id],
    queryFn: () =>
      answer<ChangeDetail>(
        api.GET("/folders/{folder}/changes/{change}", { params: { path: { folder, change: change.id } } }),
      ),
  });
  const undone = change.kind === "undo";
  return (
    <>
      <h2 className="text-head leading-tight font-semibold wrap-anywhere">
        <Sentence text={change.title} />
      </h2>
      <p className="mt-1.5 mb-3 text-second">
        {[when(change.made), count(change.count, "file"), standing(change)].filter(Boolean).join(" · ")}
      </p>
      <div className="flex flex-wrap items-center gap-3">
        {change.canUndo && (
          <Button kind="act" disabled={busy} onClick={() => onUndo("whole")}>
            {undone ? "Do it again" : "Undo"}
          </Button>
        )}
        {change.canUndo && inTheWay && change.count > 1 && (
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
      {error && <Trouble error={error} />}
      {data?.files.map((file) => (
        <ChangedFile key={`${file.kind} ${file.path}`} file={file} />
      ))}
      {data && (data.more > 0 || data.filesInAll > data.files.length) && (
        <p className="mt-5 text-second">
          {[
            data.filesInAll > data.files.length ? count(data.filesInAll - data.files.length, "more file") : "",
            data.more > 0 ? count(data.more, "more line") : "",
          ]
            .filter(Boolean)
            .join(" and ")}
          : see the diff.
        </p>
      )}
    </>
  );
}

function ChangedFile({ file }: { file: ChangeDetail["files"][number] }) {
  return (
    <section className="mt-5" aria-label={file.path}>
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
      {file.lines.map((line, i) => (
        <div
          // biome-ignore lint/suspicious/noArrayIndexKey: lines stay where they are, and a line can have several edits
          key={i}
          className="grid grid-cols-[56px_60px_1fr] gap-x-2 pt-2 font-mono text-small leading-[20px]"
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
  );
}
