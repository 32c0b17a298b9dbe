import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { useSearch } from "@tanstack/react-router";
import { useEffect, useRef, useState } from "react";
import { answer, api, type Cause, type CauseDetail, type CauseList } from "../api/client";
import { useFolderId } from "../api/folder";
import { Button, ColumnHeader, Empty, Trouble } from "../parts/controls";
import { Export } from "../parts/export";
import { useSay } from "../parts/here";
import { useKeys } from "../parts/keys";
import { List } from "../parts/list";
import { certaintyLooks } from "../parts/names";
import { AsideList } from "../parts/rules";
import { Said } from "../parts/said";
import { count, Sentence } from "../parts/words";
import { CauseView } from "./cause";
import { CauseFilters, useCauseFilter } from "./filters";

const nothing = () => {};
const none: Cause[] = [];

/** Repairs: what happened, what brings most first, each with its evidence and all that it touches. */
export default function RepairsView() {
  const folder = useFolderId();
  const queries = useQueryClient();
  const say = useSay<{ cause?: string }>();
  const { cause: wanted }: { cause?: string } = useSearch({ strict: false });
  const { data, error } = useQuery({
    queryKey: ["folder", folder, "causes"],
    queryFn: () => answer<CauseList>(api.GET("/folders/{folder}/causes", { params: { path: { folder } } })),
  });
  const every = data?.causes ?? none;
  const { wanted: filter, setWanted: setFilter, shown: causes } = useCauseFilter(every);
  const list = useRef<HTMLElement>(null);
  const certain = (data?.certain ?? 0) + (data?.certainFragile ?? 0);
  const found = causes.findIndex((c) => c.key === wanted);
  // All causes of a kind at once, and a folder that was chosen for one that is not here, are in no list.
  const { data: apart } = useQuery({
    queryKey: ["folder", folder, "cause", wanted, "alone"],
    queryFn: () =>
      answer<CauseDetail>(
        api.GET("/folders/{folder}/cause", {
          params: { path: { folder }, query: { key: wanted ?? "", offset: 0, limit: 1 } },
        }),
      ),
    enabled: !!wanted && !!data && found < 0,
    retry: false,
  });
  // What was repaired is gone from the list; what took its place is looked at next.
  const last = useRef(0);
  useEffect(() => {
    if (found >= 0) last.current = found;
  }, [found]);
  const at = found >= 0 ? found : Math.min(last.current, causes.length - 1);
  const shown = (found < 0 && wanted && apart?.cause) || causes[at];
  const choose = (i: number) => {
    const to = causes[i];
    if (to) void say({ cause: to.key });
  };
  const [said, setSaid] = useState<string>();
  const repair = useMutation({
    mutationFn: (body: {
      key?: string;
      certainty: "certain" | "likely" | "possible";
      leave?: { page: string; key: string }[];
    }) => answer(api.POST("/folders/{folder}/causes", { params: { path: { folder } }, body })),
    onMutate: () => setSaid(undefined),
    onSuccess: ({ repaired, broken }) => setSaid(`${repairedOf(repaired, broken)}.`),
    onSettled: () => queries.invalidateQueries({ queryKey: ["folder", folder] }),
  });
  const all = () => repair.mutate({ certainty: "certain" });
  useKeys((key) => {
    if (key === "/") {
      list.current?.querySelector<HTMLElement>('input[type="search"]')?.focus();
      return true;
    }
    if (key !== "c" || certain === 0 || repair.isPending) return false;
    all();
    return true;
  });
  if (error) return <Trouble error={error} />;
  return (
    <div className="grid min-h-0 flex-1 grid-cols-[420px_minmax(0,1fr)]">
      <section ref={list} aria-label="Causes" className="flex min-h-0 flex-col border-r border-hairline">
        <ColumnHeader className="px-[22px]">
          <h2 className="flex-1 text-title font-semibold">
            {data &&
              `${data.broken.toLocaleString("en")} broken${data.fragile > 0 ? `, ${data.fragile.toLocaleString("en")} fragile` : ""}`}
          </h2>
          {data && certain > 0 && (
            <Button
              disabled={repair.isPending}
              onClick={all}
              keycap="C"
              title={`Repair all that is certain: ${parts(data.certain, data.certainFragile)}`}
            >
              Repair {count(certain, "certain one")}
            </Button>
          )}
        </ColumnHeader>
        {every.length > 1 && (
          <CauseFilters
            causes={every}
            wanted={filter}
            onWanted={setFilter}
            onLeave={() => list.current?.querySelector<HTMLElement>('[role="listbox"]')?.focus()}
          >
            <Export
              name="Causes"
              rows={() =>
                causes.map((c) => ({
                  cause: c.message.replaceAll("`", ""),
                  state: c.state,
                  references: c.findings,
                  certainty: c.certainty,
                  rules: c.rules.join(" "),
                }))
              }
            />
          </CauseFilters>
        )}
        {repair.error && <Trouble error={repair.error} />}
        <Said said={said} className="px-[22px] py-2" />
        {!data && <Empty>Working out what happened. In a large folder this takes a few seconds.</Empty>}
        {data && !every.some((c) => c.state !== "advice") && (
          <Empty>Nothing is broken or fragile. Anything that is will be listed here with its cause.</Empty>
        )}
        {every.length > 0 && causes.length === 0 && <Empty>No cause is like that. Show all to see the others.</Empty>}
        <List
          label="Causes"
          total={causes.length}
          height={68}
          selected={shown === causes[at] ? at : -1}
          onSelect={choose}
          onSee={nothing}
          rowKey={(i) => causes[i]?.key ?? i}
          render={(i, on) => <CauseLine cause={causes[i]} on={on} />}
        />
        <div className="max-h-[35%] shrink-0 overflow-y-auto px-[22px] pb-3">
          <AsideList />
        </div>
      </section>
      {shown ? (
        <CauseView
          key={shown.key}
          cause={shown}
          busy={repair.isPending}
          onRepair={(leave) => repair.mutate({ key: shown.key, certainty: shown.least, leave })}
          onKey={(key) => void say({ cause: key })}
          onSaid={setSaid}
        />
      ) : (
        <section aria-label="Cause" className="bg-paper" />
      )}
    </div>
  );
}

/** So many broken references, and so many fragile ones. */
const parts = (broken: number, fragile: number) =>
  [
    broken > 0 ? `${broken.toLocaleString("en")} broken` : "",
    fragile > 0 ? `${fragile.toLocaleString("en")} fragile` : "",
  ]
    .filter(Boolean)
    .join(" and ");

const repairedOf = (repaired: number, broken: number) =>
  `${count(repaired, "reference")} repaired: ${parts(broken, repaired - broken)}`;

function CauseLine({ cause, on }: { cause: Cause | undefined; on: boolean }) {
  if (!cause) return null;
  const n = cause.broken || cause.findings;
  return (
    <div
      className={`flex gap-3 border-b border-b-hairline border-l-[3px] py-2.5 pr-4 pl-3 ${on ? "border-l-act bg-paper" : "border-l-transparent hover:bg-paper"}`}
    >
      <span className="w-14 shrink-0 text-right leading-none">
        <span
          className={`block font-bold tabular-nums ${n >= 10_000 ? "text-title" : "text-head"} ${cause.state === "broken" ? "" : "text-second"}`}
        >
          {n.toLocaleString("en")}
        </span>
        <span className="text-tiny text-second">{cause.state}</span>
      </span>
      <span className="min-w-0 flex-1">
        <span className="line-clamp-2 leading-[19px] wrap-anywhere">
          <Sentence text={cause.message} />
        </span>
        <span className="block text-small text-second">
          {cause.certainty ? (
            <span className={certaintyLooks[cause.certainty] ?? ""}>{cause.certainty}</span>
          ) : cause.state === "advice" ? (
            "look at it on its page"
          ) : (
            "no repair known"
          )}
          {cause.certainty &&
            cause.repairable < cause.findings &&
            `, for ${cause.repairable.toLocaleString("en")} of them`}
        </span>
      </span>
    </div>
  );
}
