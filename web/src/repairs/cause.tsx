import { useQuery } from "@tanstack/react-query";
import { useNavigate } from "@tanstack/react-router";
import { useEffect, useState } from "react";
import { answer, api, type Cause, type CauseDetail, type CauseRow } from "../api/client";
import { useFolderId } from "../api/folder";
import { useStretches } from "../api/stretch";
import { Button, Input, TextButton, Trouble } from "../parts/controls";
import { pointed, useDestination } from "../parts/destination";
import { DiffLines } from "../parts/diff";
import { Export } from "../parts/export";
import { useKeys } from "../parts/keys";
import { Letters } from "../parts/letters";
import { List } from "../parts/list";
import { Mend } from "../parts/mend";
import { certaintyLooks } from "../parts/names";
import { Tick } from "../parts/tick";
import { Mono, Sentence } from "../parts/words";
import { Aside, TakeAway } from "./decisions";

interface Props {
  cause: Cause;
  busy: boolean;
  onRepair: (leave: { page: string; key: string }[]) => void;
  /** Shows another cause instead: all of its kind, or with a folder chosen. */
  onKey: (key: string) => void;
  onSaid: (said: string) => void;
}

const columns = "grid grid-cols-[minmax(0,1fr)_44px_minmax(0,1.3fr)_minmax(0,1.3fr)_24px] gap-x-3";

/** One cause: its evidence, every reference that it touches before and after, and what to do. */
export function CauseView({ cause, busy, onRepair, onKey, onSaid }: Props) {
  const folder = useFolderId();
  const [left, setLeft] = useState<ReadonlyMap<string, { page: string; key: string }>>(new Map());
  const [at, setAt] = useState(0);
  const [diff, setDiff] = useState(false);
  const list = useStretches<CauseRow, CauseDetail & { rows: CauseRow[] }>(
    ["folder", folder, "cause", cause.key],
    (offset, limit) =>
      answer(
        api.GET("/folders/{folder}/cause", { params: { path: { folder }, query: { key: cause.key, offset, limit } } }),
      ),
  );
  const { row, see } = list;
  const chosen = cause.repairable - left.size;
  const navigate = useNavigate();
  const open = (i: number, edit = false) => {
    const r = row(i);
    if (!r) return;
    const link = r.key ? { page: r.page, link: r.key } : { page: r.page };
    const search = edit ? { ...link, see: "write" as const, edit } : link;
    void navigate({ to: "/folder/$folder/pages", params: { folder: String(folder) }, search });
  };
  const swap = (i: number) => {
    const r = row(i);
    if (!r?.then) return;
    const name = `${r.page} ${r.key}`;
    const next = new Map(left);
    if (!next.delete(name)) next.set(name, { page: r.page, key: r.key });
    setLeft(next);
  };
  const repair = () => onRepair([...left.values()]);
  const { point, select } = useDestination();
  const here = row(at);
  useEffect(() => select(pointed(here)), [here, select]);
  useEffect(
    () => () => {
      point(undefined);
      select(undefined);
    },
    [point, select],
  );
  useKeys((key) => {
    if (key === "r" && chosen > 0 && !busy) repair();
    else if (key === "d") setDiff(!diff);
    else if (key === "e" && here?.key) open(at, true);
    else return false;
    return true;
  });
  return (
    <section aria-label="Cause" className="flex min-h-0 flex-col bg-paper px-[26px] pt-4">
      <h2 className="text-head leading-tight font-semibold wrap-anywhere">
        <Sentence text={cause.message} />
      </h2>
      <p className="mt-1.5 max-w-[80ch] text-second">
        <Sentence text={cause.evidence} />
      </p>
      {cause.kindKey && cause.kind !== "kind" && (
        <p className="mt-1.5">
          <TextButton strong onClick={() => onKey(cause.kindKey)}>
            {cause.kindTitle}
          </TextButton>
        </p>
      )}
      {list.error && <Trouble error={list.error} />}
      <div className="mt-3 flex flex-wrap items-center gap-3">
        {cause.repairable > 0 && (
          <Button kind="act" keycap="R" disabled={busy || chosen === 0} onClick={repair}>
            {chosen === cause.findings
              ? `Repair ${chosen === 1 ? "it" : `all ${chosen.toLocaleString("en")}`}`
              : `Repair ${chosen.toLocaleString("en")} of ${cause.findings.toLocaleString("en")}`}
          </Button>
        )}
        {cause.repairable > 0 && (
          <Button keycap="D" aria-pressed={diff} onClick={() => setDiff(!diff)}>
            {diff ? "Show the references" : "Show the files’ diff"}
          </Button>
        )}
        <Aside cause={cause} />
        {cause.missingFolder && <TakeAway cause={cause} onSaid={onSaid} />}
        {!diff && (
          <span className="order-last ml-auto">
            <Export
              name="References of a cause"
              rows={async () =>
                (await list.all()).map((r) => ({
                  page: r.page,
                  line: r.line,
                  written: r.written,
                  repair: r.then,
                  certainty: r.certainty,
                  why: r.why.replaceAll("`", ""),
                }))
              }
            />
          </span>
        )}
        {list.list && <Mend mends={list.list.mends} of={{ cause: cause.key }} onSaid={onSaid} />}
      </div>
      {cause.missingFolder && <Whereabouts cause={cause} onKey={onKey} />}
      {diff ? (
        <Diff cause={cause} />
      ) : (
        <>
          <div className={`${columns} mt-4 border-b border-hairline pr-2 pb-1.5 text-small text-second`}>
            <span>in</span>
            <span className="text-right">line</span>
            <span>now</span>
            <span>then</span>
          </div>
          <div className="-mr-[26px] flex min-h-0 flex-1 flex-col pr-[18px]">
            <List
              label="What changes"
              total={list.total}
              height={40}
              selected={at}
              onSelect={setAt}
              onSee={see}
              onPoint={(i) => point(i === undefined ? undefined : pointed(row(i)))}
              onKey={(key) => {
                if (key === " ") swap(at);
                else if (key === "Enter") open(at);
                else return false;
                return true;
              }}
              rowKey={(i) => i}
              ticked={(i) => (row(i)?.then ? !left.has(`${row(i)?.page} ${row(i)?.key}`) : undefined)}
              render={(i, on) => (
                <Row
                  row={row(i)}
                  on={on}
                  left={left.has(`${row(i)?.page} ${row(i)?.key}`)}
                  onSwap={() => swap(i)}
                  onOpen={() => open(i)}
                />
              )}
            />
          </div>
        </>
      )}
    </section>
  );
}

interface RowProps {
  row: CauseRow | undefined;
  on: boolean;
  left: boolean;
  onSwap: () => void;
  onOpen: () => void;
}

function Row({ row, on, left, onSwap, onOpen }: RowProps) {
  if (!row) return <div className="h-10" />;
  return (
    <div
      className={`${columns} items-baseline border-b border-hairline py-2 pr-2 font-mono text-small ${on ? "bg-act-soft" : "hover:bg-ground"}`}
      title={row.why}
    >
      {/* biome-ignore lint/a11y/noStaticElementInteractions: the list takes the keys */}
      {/* biome-ignore lint/a11y/useKeyWithClickEvents: the list takes the keys */}
      <span onClick={onOpen} className="cursor-pointer wrap-anywhere hover:underline">
        {row.page}
      </span>
      <span className="text-right text-second">{row.line}</span>
      <span className="wrap-anywhere">
        {row.then ? <Letters runs={row.runs} side="written" /> : row.written || <i className="text-second">nothing</i>}
      </span>
      <span className={`wrap-anywhere ${left ? "text-second line-through" : ""}`}>
        {row.then ? (
          <>
            <Letters runs={row.runs} side="real" />
            {row.certainty !== "certain" && (
              <span className={`font-sans ${certaintyLooks[row.certainty] ?? ""}`}> {row.certainty}</span>
            )}
          </>
        ) : (
          <span className="font-sans text-second">look at it on its page</span>
        )}
      </span>
      {row.then ? <Tick on={!left} title={`Repair ${row.written} on ${row.page}`} onSwap={onSwap} /> : <span />}
    </div>
  );
}

/** What repairing the cause changes in the files. */
function Diff({ cause }: { cause: Cause }) {
  const folder = useFolderId();
  const { data, error } = useQuery({
    queryKey: ["folder", folder, "cause-diff", cause.key],
    queryFn: () =>
      answer<string>(
        api.GET("/folders/{folder}/cause/diff", {
          params: { path: { folder }, query: { key: cause.key } },
          parseAs: "text",
        }),
      ),
  });
  if (error) return <Trouble error={error} />;
  return <DiffLines text={data ?? ""} className="mt-4 min-h-0 flex-1 pb-6" />;
}

/** Where a folder is that is not here: its author says, and sees what then lands. */
function Whereabouts({ cause, onKey }: { cause: Cause; onKey: (key: string) => void }) {
  const folder = useFolderId();
  const [where, setWhere] = useState("");
  const { data } = useQuery({
    queryKey: ["folder", folder, "cause", cause.key, "holding"],
    queryFn: () =>
      answer<CauseDetail>(
        api.GET("/folders/{folder}/cause", {
          params: { path: { folder }, query: { key: cause.key, offset: 0, limit: 1 } },
        }),
      ),
  });
  const holding = data?.holding ?? [];
  const own = cause.key.slice(0, cause.key.lastIndexOf("/") + 1);
  const chosen = cause.key.length > own.length;
  const choose = (dir: string) => onKey(own + encodeURIComponent(dir.replace(/\/+$/, "")));
  return (
    <form
      className="mt-3 flex flex-wrap items-center gap-2"
      onSubmit={(e) => {
        e.preventDefault();
        if (where.trim()) choose(where.trim());
      }}
    >
      <label className="flex items-center gap-2">
        <span className="text-second">
          <Mono>{cause.missingFolder}/</Mono> is
        </span>
        <Input
          list="holding"
          placeholder="a folder in this one"
          value={where}
          onChange={(e) => setWhere(e.target.value)}
          className="w-64 py-1 font-mono"
        />
      </label>
      <datalist id="holding">
        {holding.map((dir) => (
          <option key={dir} value={dir} />
        ))}
      </datalist>
      <Button type="submit" disabled={where.trim() === ""}>
        Show what works then
      </Button>
      {chosen && <TextButton onClick={() => onKey(own)}>Choose another folder</TextButton>}
    </form>
  );
}
