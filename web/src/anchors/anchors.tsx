import { useQuery } from "@tanstack/react-query";
import { Link, useSearch } from "@tanstack/react-router";
import { useCallback, useState } from "react";
import { answer, api, type Landmark, type Outline } from "../api/client";
import { useFolderId } from "../api/folder";
import { ColumnHeader, Empty, Filter, Section, Trouble } from "../parts/controls";
import { usePoint } from "../parts/destination";
import { useEditKey } from "../parts/edit-key";
import { Export } from "../parts/export";
import { FromColumn } from "../parts/from";
import { useSay } from "../parts/here";
import { List } from "../parts/list";
import { count, Mono, more, Sentence } from "../parts/words";
import { RenameId } from "./rename";

const nothing = () => {};

const all = { state: undefined, way: undefined, rule: undefined };

/** Anchors: a page's headings and ids, who refers to each, and what is looked for and not there. */
export default function AnchorsView() {
  const folder = useFolderId();
  const { page }: { page?: string } = useSearch({ strict: false });
  const say = useSay<{ page?: string }>();
  const choose = useCallback((to: string) => void say({ page: to }), [say]);
  const { data, error } = useQuery({
    queryKey: ["folder", folder, "outline", page],
    queryFn: () =>
      answer<Outline>(
        api.GET("/folders/{folder}/outline", { params: { path: { folder }, query: { page: page ?? "" } } }),
      ),
    enabled: page !== undefined,
  });
  return (
    <div className="grid min-h-0 flex-1 grid-cols-[262px_minmax(340px,480px)_minmax(0,1fr)]">
      <FromColumn page={page} only={all} onAll={() => {}} onPage={choose} />
      {error && page ? <Trouble error={error} /> : null}
      {data && <Marks key={data.path} outline={data} />}
    </div>
  );
}

function Marks({ outline }: { outline: Outline }) {
  const [at, setAt] = useState(0);
  const [find, setFind] = useState("");
  const low = find.toLowerCase();
  const landmarks = outline.landmarks.filter((l) => `${l.text} #${l.name}`.toLowerCase().includes(low));
  const shown = landmarks[Math.min(at, landmarks.length - 1)];
  const missing = landmarks.filter((l) => l.line === 0).length;
  return (
    <>
      <section aria-label="Headings and ids" className="flex min-h-0 flex-col border-r border-hairline bg-paper">
        <ColumnHeader>
          <h2 className="text-title font-semibold">Headings and ids</h2>
          <span className="text-small text-second">
            {landmarks.length - missing}
            {missing > 0 && `, and ${count(missing, "missing id")}`}
          </span>
          <span className="flex-1" />
          <Filter label="find an id" value={find} onChange={setFind} />
          <Export
            name="Headings and ids"
            rows={() =>
              landmarks.map((l) => ({
                page: outline.path,
                line: l.line,
                heading: l.text,
                id: l.name,
                references: l.referrersInAll,
              }))
            }
          />
        </ColumnHeader>
        {landmarks.length === 0 && find !== "" && <Empty>No heading and no id has “{find}” in it.</Empty>}
        {outline.landmarks.length === 0 && (
          <Empty>
            This page has no headings and no ids. Give an element an <Mono>id</Mono>, and links can lead to it.
          </Empty>
        )}
        <List
          label="Headings and ids"
          total={landmarks.length}
          height={50}
          selected={at}
          onSelect={setAt}
          onSee={nothing}
          rowKey={(i) => i}
          render={(i, on) => <MarkRow mark={landmarks[i]} on={on} />}
        />
      </section>
      <section
        aria-label="What leads there"
        data-stop
        tabIndex={-1}
        className="min-h-0 overflow-y-auto px-6 pt-3.5 pb-8 outline-none"
      >
        {shown && <Referrers mark={shown} page={outline.path} />}
      </section>
    </>
  );
}

function MarkRow({ mark, on }: { mark: Landmark | undefined; on: boolean }) {
  if (!mark) return null;
  const gone = mark.line === 0;
  const ground = on ? (gone ? "bg-broken-soft" : "bg-act-soft") : "hover:bg-ground";
  return (
    <div className={`flex h-[50px] items-center gap-2.5 border-b border-hairline px-edge ${ground}`}>
      <span className="w-7 shrink-0 text-right font-mono text-tiny text-second">{mark.line || ""}</span>
      <div className="min-w-0 flex-1 leading-[19px]" style={{ paddingLeft: Math.max(0, mark.level - 1) * 16 }}>
        <div className="truncate">
          {mark.text || <span className="text-second">{gone ? "missing" : "an element"}</span>}
          {mark.level > 0 && <span className="text-smaller text-second"> h{mark.level}</span>}
        </div>
        {mark.name ? (
          <Mono className={`block truncate text-small ${gone ? "font-semibold text-broken" : ""}`}>#{mark.name}</Mono>
        ) : (
          <span className="text-small text-second">no id, so nothing can lead here</span>
        )}
      </div>
      {mark.notes.length > 0 && <span className="font-semibold text-small text-fragile">fragile</span>}
      <span className="w-8 text-right text-second tabular-nums" title={count(mark.referrersInAll, "reference")}>
        {mark.referrersInAll > 0 ? mark.referrersInAll.toLocaleString("en") : "–"}
      </span>
    </div>
  );
}

function leads({ referrersInAll: n, line }: Landmark): string {
  if (n === 0) return "Nothing links to it";
  if (line === 0) return count(n, "link looks for it", "links look for it");
  return count(n, "reference leads there", "references lead there");
}

function Referrers({ mark, page }: { mark: Landmark; page: string }) {
  const folder = useFolderId();
  const point = usePoint();
  const editKey = useEditKey();
  return (
    <>
      <h2 className="text-head leading-tight font-semibold wrap-anywhere">
        {mark.line === 0 ? (
          <>
            Nothing on <Mono>{page}</Mono> has the id <Mono>{mark.name}</Mono>
          </>
        ) : (
          mark.text || <Mono>#{mark.name}</Mono>
        )}
      </h2>
      {mark.notes.map((note) => (
        <p key={note.rule} className="mt-1.5 text-second">
          <Sentence text={note.sentence} />
        </p>
      ))}
      {mark.line > 0 && mark.name && <RenameId key={`${page} ${mark.name}`} page={page} id={mark.name} />}
      {mark.name && mark.referrersInAll > 0 && (
        <p className="mt-2 text-small">
          <Link
            to="/folder/$folder/moves"
            params={{ folder: String(folder) }}
            search={{ lead: `${page}#${mark.name}` }}
            className="text-act underline"
          >
            Change where{" "}
            {mark.referrersInAll > 1
              ? `all ${mark.referrersInAll.toLocaleString("en")} of these links lead`
              : "this link leads"}
          </Link>
        </p>
      )}
      <Section title={leads(mark)}>
        <ul>
          {mark.referrers.map((from) => (
            <li key={`${from.page} ${from.key}`} className="border-b border-hairline">
              <Link
                to="/folder/$folder/pages"
                params={{ folder: String(folder) }}
                search={{ page: from.page, link: from.key }}
                className="block py-1.5 hover:bg-paper"
                title="Press E to change this link"
                {...editKey(from.page, from.key)}
                {...point(from)}
              >
                <span className="font-mono text-small text-act">{from.page}</span>
                <span className="text-small text-second"> line {from.line}</span>
                <span className="block truncate">
                  {from.text} <Mono className="text-small text-second">{from.written}</Mono>
                </span>
              </Link>
            </li>
          ))}
          {mark.referrersInAll > mark.referrers.length && (
            <li className="py-1.5 text-second">{more(mark.referrersInAll - mark.referrers.length)}</li>
          )}
        </ul>
      </Section>
    </>
  );
}
