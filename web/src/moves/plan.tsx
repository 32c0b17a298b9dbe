import { keepPreviousData, useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { useState } from "react";
import { answer, api, type Hosting, type Move, type MovePlan } from "../api/client";
import { useFolderId } from "../api/folder";
import { useKeys } from "../frame/keys";
import { Button, Section, Trouble } from "../parts/controls";
import { Letters } from "../parts/letters";
import { count, Mono, Sentence } from "../parts/words";

interface Props {
  moves: Move[];
  said: string | undefined;
  onMoves: (moves: Move[]) => void;
  onAdd: (moves: Move[]) => void;
  onDone: (said: string) => void;
}

/** The plan: what moves, what follows from it, what clashes, and what can't follow. */
export function PlanPanel({ moves, said, onMoves, onAdd, onDone }: Props) {
  const folder = useFolderId();
  const queries = useQueryClient();
  const [leavePages, setLeavePages] = useState(false);
  const body = { moves, leavePages };
  const { data, error } = useQuery({
    queryKey: ["folder", folder, "move-plan", body],
    queryFn: () => answer<MovePlan>(api.POST("/folders/{folder}/moves/plan", { params: { path: { folder } }, body })),
    enabled: moves.length > 0,
    placeholderData: keepPreviousData,
  });
  const carry = useMutation({
    mutationFn: () => answer(api.POST("/folders/{folder}/moves", { params: { path: { folder } }, body })),
    onSuccess: () =>
      onDone(
        `${count(data?.files.length ?? 0, "file")} moved, ${count(data?.rewritesInAll ?? 0, "reference")} rewritten. It can be undone in History.`,
      ),
    onSettled: () => queries.invalidateQueries({ queryKey: ["folder", folder] }),
  });
  const ready = moves.length > 0 && data?.clashes.length === 0 && !carry.isPending;
  useKeys((key) => {
    if (key !== "r" || !ready) return false;
    carry.mutate();
    return true;
  });
  if (moves.length === 0) {
    return (
      <section aria-label="Plan" className="min-h-0 overflow-y-auto bg-paper px-6 pt-4 pb-8">
        {said && (
          <p role="status" className="mb-4 bg-act-soft px-3 py-2">
            {said}
          </p>
        )}
        <h2 className="text-[20px] font-semibold">Nothing is planned yet</h2>
        <p className="mt-1.5 max-w-[60ch] text-second">
          Drag pages or folders onto a folder, or choose them and name the new place. Double-click a name, or press{" "}
          <Mono>E</Mono>, to rename it. What follows from it stands here before anything happens: which references
          change and how, and what can’t follow.
        </p>
        <NamingRules onAdd={onAdd} />
      </section>
    );
  }
  return (
    <section aria-label="Plan" className="flex min-h-0 flex-col bg-paper px-6 pt-4">
      <h2 className="text-[20px] leading-tight font-semibold">
        {data
          ? `${count(data.files.length, "file moves", "files move")}, ${count(data.rewritesInAll, "reference follows", "references follow")} in ${count(data.pages, "file")}`
          : "Working out what follows"}
      </h2>
      <ul aria-label="Planned moves" className="mt-2 max-h-[26%] shrink-0 overflow-y-auto">
        {moves.map((m) => (
          <Planned
            key={m.from}
            move={m}
            onTo={(to) => onMoves(moves.map((n) => (n.from === m.from ? { ...n, to } : n)))}
            onDrop={() => onMoves(moves.filter((n) => n.from !== m.from))}
          />
        ))}
      </ul>
      {error && <Trouble error={error} />}
      {carry.error && <Trouble error={carry.error} />}
      {data?.clashes.map((clash) => (
        <p key={clash} role="alert" className="mt-1 border-l-[3px] border-broken bg-broken-soft px-3 py-1.5">
          <Sentence text={clash} />
        </p>
      ))}
      <div className="mt-3 flex flex-wrap items-center gap-3">
        <Button kind="act" keycap="R" disabled={!ready} onClick={() => carry.mutate()}>
          Move {moves.length > 1 ? "them" : "it"}
        </Button>
        <Button onClick={() => onMoves([])}>Drop the plan</Button>
        <label className="flex items-center gap-2 text-[13px]">
          <input type="checkbox" checked={leavePages} onChange={(e) => setLeavePages(e.target.checked)} />
          leave a page at each old address that leads to the new one
        </label>
      </div>
      {data && <Follows plan={data} />}
    </section>
  );
}

function Planned({ move, onTo, onDrop }: { move: Move; onTo: (to: string) => void; onDrop: () => void }) {
  const [to, setTo] = useState(move.to);
  const keep = () => to.trim() !== move.to && onTo(to.trim());
  return (
    <li className="flex items-baseline gap-2 border-b border-hairline py-1">
      <Mono className="max-w-[45%] wrap-anywhere">{move.from}</Mono>
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
      <button type="button" onClick={onDrop} className="text-[13px] text-act hover:underline">
        leave it<span className="sr-only"> {move.from}</span>
      </button>
    </li>
  );
}

/** What follows from the moves, before and after, letter by letter. */
function Follows({ plan }: { plan: MovePlan }) {
  return (
    // biome-ignore lint/a11y/noNoninteractiveTabindex: what scrolls has to be reached by keyboard
    <div tabIndex={0} className="-mr-4 min-h-0 flex-1 overflow-y-auto pr-4 pb-6">
      {plan.faults.map((f) => (
        <p key={f.path} className="mt-2 text-[13px] text-fragile">
          <Mono>{f.path}</Mono> <Sentence text={f.fault} />
          {f.better && (
            <>
              ; <Mono>{f.better}</Mono> works everywhere
            </>
          )}
          .
        </p>
      ))}
      {plan.rewritesInAll > 0 && (
        <Section title={`What is rewritten: ${count(plan.rewritesInAll, "reference")}`}>
          {plan.rewrites.map((r, i) => (
            <div
              // biome-ignore lint/suspicious/noArrayIndexKey: a row is its place
              key={i}
              className="grid grid-cols-[minmax(0,1fr)_36px_minmax(0,1.2fr)_minmax(0,1.2fr)] gap-x-3 border-b border-hairline py-1.5 font-mono text-[12.5px]"
            >
              <span className="wrap-anywhere">{r.page}</span>
              <span className="text-right text-second">{r.line || ""}</span>
              <span className="wrap-anywhere">
                <Letters runs={r.runs} side="written" />
              </span>
              <span className="wrap-anywhere">
                <Letters runs={r.runs} side="real" />
              </span>
            </div>
          ))}
          {plan.rewritesInAll > plan.rewrites.length && (
            <p className="py-1.5 text-second">and {count(plan.rewritesInAll - plan.rewrites.length, "more", "more")}</p>
          )}
        </Section>
      )}
      {(plan.toldInAll > 0 || plan.scripts > 0) && (
        <Section title="What can’t follow, or stays as it was">
          {plan.scripts > 0 && (
            <p className="text-[13px] text-second">
              {count(plan.scripts, "script runs", "scripts run")} on the pages that are touched; addresses that they
              build are not seen. Other sites that lead here can’t follow either.
            </p>
          )}
          {plan.told.map((t, i) => (
            // biome-ignore lint/suspicious/noArrayIndexKey: a row is its place
            <p key={i} className="border-b border-hairline py-1 text-[13px] text-second">
              <Mono className="text-ink">{t.written}</Mono> {t.why} · <Mono>{t.page}</Mono> line {t.line}
            </p>
          ))}
          {plan.toldInAll > plan.told.length && (
            <p className="py-1 text-second">and {count(plan.toldInAll - plan.told.length, "more", "more")}</p>
          )}
        </Section>
      )}
    </div>
  );
}

/** Plans a better name for each one that breaks the naming rules. */
function NamingRules({ onAdd }: { onAdd: (moves: Move[]) => void }) {
  const folder = useFolderId();
  const { data } = useQuery({
    queryKey: ["folder", folder, "names"],
    queryFn: () =>
      answer<Hosting>(api.GET("/folders/{folder}/hosting", { params: { path: { folder }, query: { limit: 1 } } })),
  });
  const better = data?.names.filter((n) => n.better) ?? [];
  if (better.length === 0) return null;
  return (
    <Section title="Names that may not work everywhere">
      <p className="text-second">
        {count(better.length, "file has", "files have")} a name that may not work on every host.
      </p>
      <div className="mt-2">
        <Button
          onClick={() =>
            onAdd(
              better.map((n) => ({
                from: n.path,
                to: n.path.slice(0, n.path.lastIndexOf("/") + 1) + n.better,
              })),
            )
          }
        >
          Plan better names for {better.length === 1 ? "it" : `all ${better.length}`}
        </Button>
      </div>
    </Section>
  );
}
