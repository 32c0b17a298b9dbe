import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { useState } from "react";
import { answer, api, type Departure, type Move } from "../api/client";
import { useFolderId } from "../api/folder";
import { Button, Trouble } from "../parts/controls";
import { count, Mono } from "../parts/words";
import { PlanPanel } from "./plan";
import { Tree } from "./tree";

/** Moves: the folder as a tree, and a plan of what is to stand elsewhere, with all that follows from it. */
export default function MovesView() {
  const [moves, setMoves] = useState<Move[]>([]);
  const [chosen, setChosen] = useState<ReadonlySet<string>>(new Set());
  const [said, setSaid] = useState<string>();
  /** Gathers moves; one of the same file takes the place of the earlier one. */
  const add = (more: Move[]) => {
    setSaid(undefined);
    setMoves((all) => [
      ...all.filter((m) => !more.some((n) => n.from === m.from)),
      ...more.filter((m) => m.from !== m.to),
    ]);
    setChosen(new Set());
  };
  return (
    <div className="grid min-h-0 flex-1 grid-cols-[minmax(0,1fr)_minmax(0,1.05fr)]">
      <section aria-label="The folder" className="flex min-h-0 flex-col border-r border-hairline">
        <Departures onSaid={setSaid} />
        <Tree chosen={chosen} onChosen={setChosen} planned={moves} onMoves={add} />
      </section>
      <PlanPanel
        moves={moves}
        said={said}
        onMoves={setMoves}
        onAdd={add}
        onDone={(what) => {
          setMoves([]);
          setSaid(what);
        }}
      />
    </div>
  );
}

/** Moves that were made elsewhere: accept, or say that they were none. */
function Departures({ onSaid }: { onSaid: (said: string) => void }) {
  const folder = useFolderId();
  const queries = useQueryClient();
  const { data } = useQuery({
    queryKey: ["folder", folder, "departures"],
    queryFn: () => answer<Departure[]>(api.GET("/folders/{folder}/departures", { params: { path: { folder } } })),
  });
  const reply = useMutation({
    mutationFn: (body: { moves: Move[]; follow: boolean }) =>
      answer(api.POST("/folders/{folder}/departures", { params: { path: { folder } }, body })),
    onSuccess: (_, { follow }) => onSaid(follow ? "The references follow. It can be undone in History." : ""),
    onSettled: () => queries.invalidateQueries({ queryKey: ["folder", folder] }),
  });
  if (!data || data.length === 0) return null;
  const all = data.filter((d) => d.sure).map(({ from, to }) => ({ from, to }));
  return (
    <div className="max-h-[45%] shrink-0 overflow-y-auto border-b border-hairline bg-act-soft px-[18px] py-2.5">
      <div className="flex items-center gap-3">
        <h2 className="flex-1 text-[15px] font-semibold">Moved elsewhere</h2>
        {all.length > 1 && (
          <Button disabled={reply.isPending} onClick={() => reply.mutate({ moves: all, follow: true })}>
            Let all {all.length} be followed
          </Button>
        )}
      </div>
      {reply.error && <Trouble error={reply.error} />}
      <ul aria-label="Moved elsewhere">
        {data.map((d) => (
          <li key={d.from} className="flex items-center gap-3 py-1.5">
            <div className="min-w-0 flex-1 leading-tight">
              <Mono className="wrap-anywhere">{d.from}</Mono> → <Mono className="wrap-anywhere">{d.to}</Mono>
              <span className="block text-[13px] text-second">
                {d.still > 0 && `${count(d.still, "reference still leads", "references still lead")} to the old place`}
                {d.still > 0 && d.inside > 0 && "; "}
                {d.inside > 0 && `${count(d.inside, "one inside it is off", "inside it are off")}`}
                {!d.same && " · it was edited a little, too"}
              </span>
            </div>
            <Button
              disabled={reply.isPending}
              onClick={() => reply.mutate({ moves: [{ from: d.from, to: d.to }], follow: true })}
            >
              Follow<span className="sr-only"> {d.from}</span>
            </Button>
            <button
              type="button"
              disabled={reply.isPending}
              onClick={() => reply.mutate({ moves: [{ from: d.from, to: d.to }], follow: false })}
              className="text-[13px] text-act hover:underline"
            >
              it was not moved
            </button>
          </li>
        ))}
      </ul>
    </div>
  );
}
