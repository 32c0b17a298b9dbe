import { useEffect, useRef, useState } from "react";
import { answer, api, type Page } from "../api/client";
import { useFolderId } from "../api/folder";
import { useStretches } from "../api/stretch";
import { ColumnHeader, Empty, Filter, TextButton, Trouble } from "./controls";
import { Export } from "./export";
import { List } from "./list";
import { NotSaved } from "./mark";
import { filled, type Only, onlyWords } from "./only";
import { Choose } from "./select";
import { Strip } from "./strip";
import { count, Mono } from "./words";

interface Props {
  page: string | undefined;
  only: Only;
  onAll: () => void;
  onPage: (path: string) => void;
}

/** The first column: the pages of the folder, each with its strip. */
export function FromColumn({ page, only, onAll, onPage }: Props) {
  const folder = useFolderId();
  const [find, setFind] = useState("");
  const [sort, setSort] = useState<Sort>("path");
  const column = useRef<HTMLElement>(null);
  const list = useStretches<Page, PageStretch>(["folder", folder, "pages", find, only, sort, page], (offset, limit) =>
    fetchPages(folder, find, only, sort, offset, limit, page),
  );
  const { row, reach, see } = list;
  const selected = list.list?.found ?? -1;
  const first = row(0)?.path;
  // Something is always chosen, so that no column is empty without need.
  useEffect(() => {
    if (!page && first) onPage(first);
  }, [page, first, onPage]);

  const pick = (index: number) => reach(index, (to) => onPage(to.path));
  return (
    <section ref={column} aria-label="From" className="flex min-h-0 flex-col border-r border-hairline">
      <ColumnHeader>
        <h2 className="text-title font-semibold">From</h2>
        <span
          className="shrink-0 text-small text-second"
          aria-live="polite"
          title={list.list?.others ? `and ${count(list.list.others, "other file")} in which something is wrong` : ""}
        >
          {list.list ? found(list.total, list.list.all, list.list.others) : ""}
        </span>
        <span className="flex-1" />
        <Filter
          label="find a page"
          value={find}
          onChange={setFind}
          onLeave={() => column.current?.querySelector<HTMLElement>('[role="listbox"]')?.focus()}
        />
      </ColumnHeader>
      {(only.way || only.rule) && (
        <p className="flex items-baseline gap-2 border-y border-hairline bg-act-soft px-edge py-1 text-small">
          <span className="min-w-0 flex-1">only {onlyWords(only)}</span>
          <TextButton onClick={onAll} strong className="shrink-0">
            show all
          </TextButton>
        </p>
      )}
      {list.error && <Trouble error={list.error} />}
      {list.list && list.total === 0 && (
        <Empty>{find ? `No page has “${find}” in its name or title.` : "No page has such a reference."}</Empty>
      )}
      <List
        label="Pages"
        total={list.total}
        height={61}
        selected={selected}
        onSelect={pick}
        onSee={see}
        rowKey={(i) => row(i)?.path ?? i}
        above={(i) => {
          const p = row(i);
          return p?.first && p.folder ? (
            <div role="presentation" className="truncate px-edge pt-2.5 pb-1 font-mono text-small text-second">
              {p.folder}
            </div>
          ) : null;
        }}
        render={(i, on) => <PageRow page={row(i)} on={on} />}
      />
      <div className="flex shrink-0 items-baseline justify-between border-t border-hairline px-edge py-1 text-small">
        <Choose label="The order of the pages" options={orders} value={sort} onChoose={(to) => setSort(to as Sort)} />
        <Export
          name="Pages"
          rows={async () =>
            (await list.all()).map((p) => ({
              page: p.path,
              title: p.title,
              references: p.strip.length,
              broken: p.broken,
            }))
          }
        />
      </div>
    </section>
  );
}

/** How many there are, and of how many. Style sheets and pictures in which something is wrong are listed too. */
function found(n: number, all: number, others: number): string {
  if (n !== all) return `${n.toLocaleString("en")} of ${all.toLocaleString("en")}`;
  return `${count(all - others, "page")}${others > 0 ? ` + ${others.toLocaleString("en")}` : ""}`;
}

type Sort = "path" | "broken";

const orders: { value: Sort; label: string }[] = [
  { value: "path", label: "by folder" },
  { value: "broken", label: "most broken first" },
];

interface PageStretch {
  rows: Page[];
  total: number;
  all: number;
  others: number;
  found?: number;
}

async function fetchPages(
  folder: number,
  q: string,
  only: Only,
  sort: Sort,
  offset: number,
  limit: number,
  find: string | undefined,
): Promise<PageStretch> {
  const query = { q, sort, offset, limit, ...filled(only), ...(find ? { find } : {}) };
  const { pages, ...rest } = await answer(api.GET("/folders/{folder}/pages", { params: { path: { folder }, query } }));
  return { rows: pages, ...rest };
}

function PageRow({ page, on }: { page: Page | undefined; on: boolean }) {
  if (!page) return <div className="h-[61px]" />;
  const depth = Math.min(page.folder.split("/").length - 1, 4);
  return (
    <div
      className={`flex h-[61px] border-l-[3px] py-2 pr-3 ${on ? "border-act bg-paper" : "border-transparent hover:bg-paper"}`}
      style={{ paddingLeft: 15 + depth * 14 }}
      title={page.path}
    >
      <div className="min-w-0 flex-1">
        <div className="truncate text-[14px] font-semibold leading-[18px]">
          {page.unsaved && <NotSaved />}
          {page.title || page.name}
        </div>
        <Mono className="block truncate text-smaller leading-[17px] text-second">{page.name}</Mono>
        <Strip states={page.strip} />
      </div>
      {page.broken > 0 && (
        <span className="pl-2 font-bold text-broken tabular-nums" title={`${page.broken} broken`}>
          {page.broken.toLocaleString("en")}
          <span className="sr-only"> broken</span>
        </span>
      )}
      {page.broken === 0 && page.untried > 0 && (
        <span className="pl-2 text-tiny text-second" title="links that were not followed in the page itself yet">
          {page.untried} to try
        </span>
      )}
      {page.broken === 0 && page.trouble && (
        <span className="pl-2 text-fragile" title={`${page.path} ${page.trouble}`}>
          note
        </span>
      )}
    </div>
  );
}
