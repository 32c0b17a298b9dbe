import { useQuery } from "@tanstack/react-query";
import { useState } from "react";
import { answer, api, type Move } from "../api/client";
import { useFolderId } from "../api/folder";
import { Button, Section, TextButton, Trouble } from "../parts/controls";
import { Check } from "../parts/fields";
import { Clashes, Follows } from "../parts/follows";
import { Said } from "../parts/said";
import { usePlan } from "../parts/use-plan";
import { count, Mono, more, Path } from "../parts/words";
import { Lead } from "./lead";

/** A path with another name at its end. */
const renamed = (path: string, name: string) => path.slice(0, path.lastIndexOf("/") + 1) + name;

/** How many moves are listed. */
export const rowsShown = 200;

interface Props {
  moves: Move[];
  said: string | undefined;
  onMoves: (moves: Move[]) => void;
  onAdd: (moves: Move[]) => void;
  onDone: (said: string) => void;
  /** What references are to be led away from, if somebody came here for that. */
  lead: string | undefined;
}

/** The plan: what moves, what follows from it, what clashes, and what can't follow. */
export function PlanPanel({ moves, said, onMoves, onAdd, onDone, lead }: Props) {
  const folder = useFolderId();
  const [leavePages, setLeavePages] = useState(false);
  const { plan, error, carry, ready } = usePlan({
    key: ["moves", moves, leavePages],
    ask: (really) => {
      const body = { moves, leavePages };
      const params = { path: { folder } };
      return really
        ? answer(api.POST("/folders/{folder}/moves", { params, body }))
        : answer(api.POST("/folders/{folder}/moves/plan", { params, body }));
    },
    wanted: moves.length > 0,
    onDone: (done) => onDone(`${count(done.moved, "file")} moved, ${count(done.references, "reference")} rewritten.`),
  });
  if (moves.length === 0) {
    return (
      <section aria-label="Plan" className="min-h-0 overflow-y-auto bg-paper px-6 pt-4 pb-8">
        <Said said={said} />
        <h2 className="text-head font-semibold">Nothing is planned yet</h2>
        <p className="mt-1.5 max-w-[60ch] text-second">
          Drag pages or folders onto a folder, or choose them and name the new place. Double-click a name, or press{" "}
          <Mono>E</Mono>, to rename it. You see here what follows before anything happens: which references change and
          how, and what can’t follow. <Mono>Delete</Mono> shows what would break, and lets you choose what becomes of
          it.
        </p>
        <NamingRules onAdd={onAdd} />
        <Lead key={lead} from={lead ?? ""} onDone={onDone} />
      </section>
    );
  }
  return (
    <section aria-label="Plan" className="flex min-h-0 flex-col bg-paper px-6 pt-4">
      <h2 className="text-head leading-tight font-semibold">
        {plan
          ? `${count(plan.filesInAll, "file moves", "files move")}, ${count(plan.rewritesInAll, "reference follows", "references follow")} in ${count(plan.pages, "file")}`
          : "Working out what follows"}
      </h2>
      <ul aria-label="Planned moves" className="mt-2 max-h-[26%] shrink-0 overflow-y-auto">
        {moves.slice(0, rowsShown).map((m) => (
          <Planned
            key={m.from}
            move={m}
            onTo={(to) => onMoves(moves.map((n) => (n.from === m.from ? { ...n, to } : n)))}
            onDrop={() => onMoves(moves.filter((n) => n.from !== m.from))}
          />
        ))}
        {moves.length > rowsShown && <li className="py-1 text-second">{more(moves.length - rowsShown)}</li>}
      </ul>
      {error && <Trouble error={error} />}
      <Clashes plan={plan} />
      <div className="mt-3 flex flex-wrap items-center gap-3">
        <Button kind="act" keycap="R" disabled={!ready} onClick={carry}>
          Move {moves.length > 1 ? "them" : "it"}
        </Button>
        <Button onClick={() => onMoves([])}>Drop the plan</Button>
        <Check
          label="leave a page at each old address that leads to the new one"
          on={leavePages}
          onTick={setLeavePages}
        />
      </div>
      {plan && (
        <Follows
          plan={plan}
          rewritten="What is rewritten"
          told="What can’t follow"
          onBetter={(path, better) =>
            onMoves(moves.map((m) => (m.to === path ? { ...m, to: renamed(path, better) } : m)))
          }
        />
      )}
    </section>
  );
}

function Planned({ move, onTo, onDrop }: { move: Move; onTo: (to: string) => void; onDrop: () => void }) {
  const [to, setTo] = useState(move.to);
  const keep = () => to.trim() !== move.to && onTo(to.trim());
  return (
    <li className="flex items-baseline gap-2 border-b border-hairline py-1">
      <Path className="max-w-[45%]">{move.from}</Path>
      <span>→</span>
      <input
        aria-label={`Where ${move.from} moves to`}
        value={to}
        spellCheck={false}
        onChange={(e) => setTo(e.target.value)}
        onBlur={keep}
        onKeyDown={(e) => e.key === "Enter" && keep()}
        className="min-w-0 flex-1 border-b border-transparent bg-transparent font-mono text-[0.96em] focus:border-act"
      />
      <TextButton onClick={onDrop} className="text-small">
        leave it<span className="sr-only"> {move.from}</span>
      </TextButton>
    </li>
  );
}

/** Plans a better name for each one that breaks the naming rules. */
function NamingRules({ onAdd }: { onAdd: (moves: Move[]) => void }) {
  const folder = useFolderId();
  const { data } = useQuery({
    queryKey: ["folder", folder, "better-names"],
    queryFn: () => answer<Move[]>(api.GET("/folders/{folder}/better-names", { params: { path: { folder } } })),
  });
  if (!data || data.length === 0) return null;
  return (
    <Section title="Names that may not work everywhere">
      <p className="text-second">
        {count(data.length, "name of a file or folder", "names of files and folders")} may not work on every host.
      </p>
      <div className="mt-2">
        <Button onClick={() => onAdd(data)}>
          Plan {data.length === 1 ? "a better name for it" : `better names for all ${data.length}`}
        </Button>
      </div>
    </Section>
  );
}
