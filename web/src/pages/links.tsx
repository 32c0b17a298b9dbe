import { lazy, Suspense, useEffect, useRef, useState } from "react";
import { answer, api, type Note, type Reference } from "../api/client";
import { useFolderId } from "../api/folder";
import type { Picked } from "../api/messages";
import { useStretches } from "../api/stretch";
import { ColumnHeader, Empty, Filter, Trouble } from "../parts/controls";
import { useDestination } from "../parts/destination";
import { Export } from "../parts/export";
import { List } from "../parts/list";
import { LandingMark, stateWords } from "../parts/mark";
import { filled, type Only } from "../parts/only";
import type { Shown } from "../parts/shown";
import { count, Mono, Sentence } from "../parts/words";
import type { See } from "../routes";
import { LivePage } from "./live";

// The editor is loaded when the source is opened.
const SourceText = lazy(() => import("./source"));
const WriteSource = lazy(() => import("../write/write"));

interface Props {
  page: string | undefined;
  link: string | undefined;
  only: Only;
  see: See | undefined;
  picked: Picked | undefined;
  onLink: (key: string) => void;
  onSee: (see: See | undefined) => void;
  onFollow: (page: string, key?: string) => Promise<void>;
  edit: boolean;
  onEdited: () => void;
  onShow: (shown: Shown | undefined) => void;
}

interface ReferenceStretch {
  rows: Reference[];
  total: number;
  all: number;
  found?: number;
  trouble?: string;
  untried: number;
  notes: Note[];
}

/** The second column: the references on a page in reading order, what the visitor sees and what is written. */
export function LinkColumn(props: Props) {
  const { page, link, only, see: way, picked, onLink, onSee, onFollow, edit, onEdited, onShow } = props;
  const folder = useFolderId();
  const [find, setFind] = useState("");
  const column = useRef<HTMLElement>(null);
  const list = useStretches<Reference, ReferenceStretch>(
    ["folder", folder, "references", page, find, only, link],
    async (offset, limit) => {
      const query = {
        page: page ?? "",
        q: find,
        offset,
        limit,
        ...filled(only),
        ...(link ? { find: link } : {}),
      };
      const { references, ...rest } = await answer(
        api.GET("/folders/{folder}/references", { params: { path: { folder }, query } }),
      );
      return { rows: references, ...rest };
    },
    page !== undefined,
  );
  const { row, reach, see } = list;
  const selected = list.list?.found ?? -1;
  useSelection(page, list.settled ? list.list : undefined, link, onLink);
  const { point } = useDestination();

  const all = list.list?.all ?? 0;
  return (
    <section
      ref={column}
      aria-label="Link"
      className="flex min-h-0 flex-col border-r border-hairline bg-paper"
      onBlur={() => point(undefined)}
    >
      <ColumnHeader>
        <h2 className="text-title font-semibold">{way === "write" ? "Write" : "Link"}</h2>
        <span className="truncate text-small text-second">
          {way === "write" ? <Mono>{page}</Mono> : list.list && told(list.total, all, list.list.untried)}
        </span>
        <span className="flex-1" />
        <Ways way={way} onSee={onSee} />
        {way === undefined && (
          <Filter
            label="find a link"
            value={find}
            onChange={setFind}
            onLeave={() => column.current?.querySelector<HTMLElement>('[role="listbox"]')?.focus()}
          />
        )}
        {way === undefined && (
          <Export
            name="Links"
            rows={async () =>
              (await list.all()).map((r) => ({
                page: page ?? "",
                line: r.line,
                text: r.text,
                written: r.written,
                state: r.state,
                leads: [r.destination.verb, r.destination.where, r.destination.note].filter(Boolean).join(" "),
              }))
            }
          />
        )}
      </ColumnHeader>
      {list.error && page && <Trouble error={list.error} />}
      {list.list?.trouble && (
        <p className="border-b border-hairline px-edge py-2 text-fragile">
          <Mono>{page}</Mono> {list.list.trouble}.
        </p>
      )}
      {way === undefined && list.list && list.list.notes.length > 0 && <Notes notes={list.list.notes} />}
      {way === "source" && page && (
        <Suspense>
          <SourceText page={page} link={link} onLink={onLink} />
        </Suspense>
      )}
      {way === "write" && page && (
        <Suspense>
          <WriteSource
            page={page}
            link={link}
            edit={edit}
            picked={picked}
            onPage={onFollow}
            onEdited={onEdited}
            onShow={onShow}
          />
        </Suspense>
      )}
      {way === "page" && page && <LivePage page={page} link={link} onPage={onFollow} onLink={onFollow} />}
      {way === undefined && list.list && list.total === 0 && <Empty>{emptiness(find, only, all)}</Empty>}
      {way === undefined && (
        <List
          label="Links"
          total={list.total}
          height={50}
          selected={selected}
          onSelect={(i) => reach(i, (to) => onLink(to.key))}
          onSee={see}
          onPoint={(i) => {
            const reference = i === undefined ? undefined : row(i);
            point(reference && page ? { page, ...reference } : undefined);
          }}
          onKey={(key, at) => {
            const chosen = row(at);
            if (key === "Enter" && chosen?.opens) {
              if (/^https?:/.test(chosen.opens)) window.open(chosen.opens, "_blank", "noopener,noreferrer");
              else void onFollow(chosen.opens);
              return true;
            }
            return false;
          }}
          rowKey={(i) => row(i)?.key ?? i}
          render={(i, on) => <ReferenceRow reference={row(i)} on={on} />}
        />
      )}
    </section>
  );
}

const ways: { way: See | undefined; word: string; title: string }[] = [
  { way: undefined, word: "links", title: "Its links in reading order (L)" },
  { way: "source", word: "source", title: "Its source, with marks (S)" },
  { way: "page", word: "page", title: "The page itself, live (W)" },
  { way: "write", word: "write", title: "Write in its source, beside the page itself (E)" },
];

/** The ways to see a page. */
function Ways({ way, onSee }: { way: See | undefined; onSee: (see: See | undefined) => void }) {
  return (
    <fieldset aria-label="Ways to see the page" className="flex shrink-0 gap-2.5 text-small">
      {ways.map(({ way: to, word, title }) => (
        <button
          key={word}
          type="button"
          aria-pressed={way === to}
          title={title}
          onClick={() => onSee(to)}
          className="border-b-2 border-transparent text-second hover:text-ink aria-pressed:border-act aria-pressed:text-ink"
        >
          {word}
        </button>
      ))}
    </fieldset>
  );
}

/** How many links stand here, and how many of them are left to try once one was. */
function told(total: number, all: number, untried: number): string {
  const links = total === all ? `${all} in all` : `${total} of ${all}`;
  return untried > 0 ? `${untried} of ${all} to try` : links;
}

/** What is wrong with the page as a whole, its ids and its name. */
function Notes({ notes }: { notes: Note[] }) {
  return (
    <ul
      aria-label="About the page"
      className="max-h-[30%] shrink-0 overflow-y-auto border-b border-hairline px-edge py-1.5 text-small"
    >
      {notes.map((note) => (
        <li key={`${note.rule} ${note.line} ${note.headline}`} className="py-1 text-second">
          <span className={note.state === "fragile" ? "font-semibold text-fragile" : "font-semibold text-ink"}>
            <Sentence text={note.headline} />
          </span>
          {note.line > 0 && <span className="font-mono"> line {note.line}</span>}. <Sentence text={note.sentence} />
        </li>
      ))}
    </ul>
  );
}

function emptiness(find: string, { state, way, rule }: Only, all: number): string {
  if (all === 0) return "This page has no links, pictures or other references. They will be listed here.";
  if (find) return `No reference on this page has “${find}” in it.`;
  const kind = [state ? stateWords[state] : "", way || rule ? "of the kind that is shown" : ""].filter(Boolean);
  return `None of the ${count(all, "reference")} on this page is ${kind.join(" and ")}.`;
}

/** Chooses the first broken reference of a page that was just opened, or else its first. */
function useSelection(
  page: string | undefined,
  list: ReferenceStretch | undefined,
  link: string | undefined,
  onLink: (key: string) => void,
) {
  const at = useRef({ page, index: 0 });
  const { select } = useDestination();
  useEffect(() => {
    if (!list || !page) return;
    if (at.current.page !== page) at.current = { page, index: -1 };
    if (list.found !== undefined && link) {
      at.current.index = list.found;
      const reference = list.rows[list.found];
      if (reference) select({ page, ...reference });
      return;
    }
    // The selected one is gone, or there was none: what took its place, or the first that needs the author.
    const { index } = at.current;
    const next = index >= 0 && link ? list.rows[Math.min(index, list.rows.length - 1)] : undefined;
    const to = next ?? list.rows.find((r) => r.state === "broken") ?? list.rows[0];
    select(undefined);
    if (to) onLink(to.key);
  }, [page, list, link, onLink, select]);
}

function ReferenceRow({ reference, on }: { reference: Reference | undefined; on: boolean }) {
  if (!reference) return <div className="h-[50px] border-b border-hairline" />;
  const { state, text, label, written, line } = reference;
  const ground = on ? (state === "broken" ? "bg-broken-soft" : "bg-act-soft") : "hover:bg-ground";
  return (
    <div className={`flex h-[50px] items-center gap-2.5 border-b border-hairline px-edge ${ground}`}>
      <span className="w-7 shrink-0 text-right font-mono text-tiny text-second">{line}</span>
      <div className="min-w-0 flex-1 leading-[19px]">
        <div className="flex items-baseline gap-2">
          {text && <span className="truncate">{label === "image" ? `“${text}”` : text}</span>}
          <span className="shrink-0 text-smaller text-second">{label || (text ? "" : "no words")}</span>
        </div>
        <Mono className="block truncate text-small">{written || <i className="text-second">nothing written</i>}</Mono>
      </div>
      {reference.tried && (
        <span className="shrink-0 text-tiny text-second" title="Followed in the page itself since it last changed">
          tried
        </span>
      )}
      <LandingMark state={state} label />
    </div>
  );
}
