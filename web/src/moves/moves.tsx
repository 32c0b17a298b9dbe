import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { Link, useSearch } from "@tanstack/react-router";
import { useState } from "react";
import { answer, api, type Departure, type Move } from "../api/client";
import { useFolderId } from "../api/folder";
import { Button, TextButton, Trouble } from "../parts/controls";
import { count, more, Path } from "../parts/words";
import { PlanPanel, rowsShown } from "./plan";
import { RemovePanel } from "./remove";
import { Tree } from "./tree";

/** Moves: the folder as a tree, and a plan of what is to stand elsewhere, with all that follows from it. */
export default function MovesView() {
  const [moves, setMoves] = useState<Move[]>([]);
  const [chosen, setChosen] = useState<ReadonlySet<string>>(new Set());
  const [deleting, setDeleting] = useState<string[]>([]);
  const [said, setSaid] = useState<string>();
  const { lead }: { lead?: string } = useSearch({ strict: false });
  /** Gathers moves; one of the same file takes the place of the earlier one. */
  const add = (more: Move[]) => {
    setSaid(undefined);
    setMoves((all) => [
      ...all.filter((m) => !more.some((n) => n.from === m.from)),
      ...more.filter((m) => m.from !== m.to),
    ]);
    setChosen(new Set());
    setDeleting([]);
  };
  const done = (what: string) => {
    setMoves([]);
    setDeleting([]);
    setChosen(new Set());
    setSaid(what);
  };
  return (
    <div className="grid min-h-0 flex-1 grid-cols-[minmax(0,1fr)_minmax(0,1.05fr)]">
      <section aria-label="The folder" className="flex min-h-0 flex-col border-r border-hairline">
        <Departures free={moves.length === 0 && deleting.length === 0} onSaid={setSaid} />
        <Tree chosen={chosen} onChosen={setChosen} planned={moves} onMoves={add} onDelete={setDeleting} />
      </section>
      {deleting.length > 0 ? (
        <RemovePanel paths={deleting} onPaths={setDeleting} onDone={done} />
      ) : (
        <PlanPanel moves={moves} said={said} onMoves={setMoves} onAdd={add} onDone={done} lead={lead} />
      )}
    </div>
  );
}

/** Moves that were made elsewhere: accept, say that they were none, or, while nothing is planned, choose another target. */
function Departures({ free, onSaid }: { free: boolean; onSaid: (said: string) => void }) {
  const folder = useFolderId();
  const queries = useQueryClient();
  const { data } = useQuery({
    queryKey: ["folder", folder, "departures"],
    queryFn: () => answer<Departure[]>(api.GET("/folders/{folder}/departures", { params: { path: { folder } } })),
  });
  const reply = useMutation({
    mutationFn: (body: { moves: Move[]; follow: boolean }) =>
      answer(api.POST("/folders/{folder}/departures", { params: { path: { folder } }, body })),
    onSuccess: (_, { follow }) => onSaid(follow ? "The references follow." : ""),
    onSettled: () => queries.invalidateQueries({ queryKey: ["folder", folder] }),
  });
  if (!data || data.length === 0) return null;
  const all = data.filter((d) => d.sure).map(({ from, to }) => ({ from, to }));
  return (
    <div className="max-h-[45%] shrink-0 overflow-y-auto border-b border-hairline bg-act-soft px-edge py-2.5">
      <div className="flex items-center gap-3">
        <h2 className="flex-1 text-title font-semibold">Moved outside of Arvel</h2>
        {all.length > 1 && (
          <Button disabled={reply.isPending} onClick={() => reply.mutate({ moves: all, follow: true })}>
            Follow all {all.length}
          </Button>
        )}
      </div>
      {reply.error && <Trouble error={reply.error} />}
      <ul aria-label="Moved outside of Arvel">
        {data.slice(0, rowsShown).map((d) => (
          <li key={d.from} className="flex items-center gap-3 py-1.5">
            <div className="min-w-0 flex-1 leading-tight">
              <Path>{d.files ? `${d.from}/` : d.from}</Path> → <Path>{d.files ? `${d.to}/` : d.to}</Path>
              <span className="block text-small text-second">
                {d.files > 0 && `${count(d.files, "file")} · `}
                {d.still > 0 && `${count(d.still, "reference still leads", "references still lead")} to the old place`}
                {d.still > 0 && d.inside > 0 && "; "}
                {d.inside > 0 && count(d.inside, "of its own links no longer works", "of its own links no longer work")}
                {!d.same && " · it was edited, too"}
              </span>
            </div>
            <Button
              disabled={reply.isPending}
              onClick={() => reply.mutate({ moves: [{ from: d.from, to: d.to }], follow: true })}
            >
              Follow<span className="sr-only"> {d.from}</span>
            </Button>
            <div className="flex flex-col items-start gap-0.5 text-small">
              <TextButton
                disabled={reply.isPending}
                onClick={() => reply.mutate({ moves: [{ from: d.from, to: d.to }], follow: false })}
              >
                it was not moved<span className="sr-only">: {d.from}</span>
              </TextButton>
              {free && d.files === 0 && d.still > 0 && (
                <Link
                  to="/folder/$folder/moves"
                  params={{ folder: String(folder) }}
                  search={{ lead: d.from }}
                  className="text-act hover:underline"
                >
                  another target<span className="sr-only"> for what leads to {d.from}</span>
                </Link>
              )}
            </div>
          </li>
        ))}
        {data.length > rowsShown && <li className="py-1 text-second">{more(data.length - rowsShown)}</li>}
      </ul>
    </div>
  );
}
