import { useNavigate } from "@tanstack/react-router";
import { useState } from "react";
import { answer, api, type FateRow, type Hosting } from "../api/client";
import { useFolderId } from "../api/folder";
import { useStretches } from "../api/stretch";
import { ColumnHeader, Empty, Filter, Section, Trouble } from "../parts/controls";
import { Export } from "../parts/export";
import { List } from "../parts/list";
import { LandingMark, stateWords } from "../parts/mark";
import { count, Mono, Path, Sentence } from "../parts/words";
import { Places } from "./places";

type Fates = Hosting & { rows: FateRow[]; total: number };

/** Hosting: where the folder is opened and published, and what fares differently there. */
export default function HostingView() {
  const folder = useFolderId();
  const [find, setFind] = useState("");
  const [at, setAt] = useState(0);
  const list = useStretches<FateRow, Fates>(["folder", folder, "hosting", find], (offset, limit) =>
    answer(api.GET("/folders/{folder}/hosting", { params: { path: { folder }, query: { q: find, offset, limit } } })),
  );
  const { row, see } = list;
  const navigate = useNavigate();
  const open = ({ page, key }: FateRow) =>
    void navigate({
      to: "/folder/$folder/pages",
      params: { folder: String(folder) },
      search: { page, link: key },
    });
  const places = list.list?.places ?? [];
  const columns = { gridTemplateColumns: `minmax(0,1.1fr) minmax(0,1fr) repeat(${places.length}, minmax(0,1.2fr))` };
  return (
    <div className="grid min-h-0 flex-1 grid-cols-[400px_minmax(0,1fr)]">
      <section aria-label="Places" className="min-h-0 overflow-y-auto border-r border-hairline px-[22px] pt-4 pb-8">
        <Places />
        {list.list && <Names names={list.list.names} />}
      </section>
      <section aria-label="What differs" className="flex min-h-0 flex-col bg-paper">
        <ColumnHeader>
          <h2 className="text-title font-semibold">What differs between them</h2>
          <span className="text-small text-second">{list.list && count(list.total, "reference")}</span>
          <span className="flex-1" />
          <Filter label="find" value={find} onChange={setFind} />
          <Export
            name="What differs"
            rows={async () =>
              (await list.all()).map((r) => ({
                page: r.page,
                line: r.line,
                written: r.written,
                ...Object.fromEntries(places.map((p, i) => [p.phrase, r.fates[i]?.state ?? ""])),
              }))
            }
          />
        </ColumnHeader>
        {list.error && <Trouble error={list.error} />}
        {places.length > 0 && (
          <div className="grid items-end gap-x-4 border-y border-hairline px-edge py-2 text-small" style={columns}>
            <span className="text-second">on</span>
            <span className="text-second">written</span>
            {places.map((p, i) => (
              <span key={p.phrase} className="leading-tight">
                <span className={i === 0 ? "font-semibold" : ""}>{p.phrase}</span>
                <span className="block text-second tabular-nums">{p.broken.toLocaleString("en")} broken</span>
              </span>
            ))}
          </div>
        )}
        {list.list && list.total === 0 && (
          <Empty>
            {find
              ? `Nothing that differs has “${find}” in it.`
              : places.length < 2
                ? "Tick another place: references that behave differently there are listed here."
                : "Every reference behaves the same at each of these places."}
          </Empty>
        )}
        <List
          label="What differs"
          total={list.total}
          height={52}
          selected={at}
          onSelect={setAt}
          onSee={see}
          rowKey={(i) => (row(i) ? `${row(i)?.page} ${row(i)?.key}` : i)}
          render={(i, on) => <FateLine row={row(i)} on={on} columns={columns} onOpen={open} />}
          onKey={(key) => {
            const chosen = row(at);
            if (key !== "Enter" || !chosen) return false;
            open(chosen);
            return true;
          }}
        />
      </section>
    </div>
  );
}

interface FateLineProps {
  row: FateRow | undefined;
  on: boolean;
  columns: React.CSSProperties;
  onOpen: (row: FateRow) => void;
}

function FateLine({ row, on, columns, onOpen }: FateLineProps) {
  if (!row) return <div className="h-[52px]" />;
  return (
    <div
      className={`grid items-start gap-x-4 border-b border-hairline px-edge py-2 text-small ${on ? "bg-act-soft" : "hover:bg-ground"}`}
      style={columns}
    >
      {/* biome-ignore lint/a11y/useKeyWithClickEvents: the list takes the keys */}
      {/* biome-ignore lint/a11y/noStaticElementInteractions: it is part of an option */}
      <span onClick={() => onOpen(row)} className="cursor-pointer font-mono wrap-anywhere text-act hover:underline">
        {row.page}
        <span className="font-sans text-second"> line {row.line}</span>
      </span>
      <Mono className="wrap-anywhere">{row.written}</Mono>
      {row.fates.map((fate, i) => (
        // biome-ignore lint/suspicious/noArrayIndexKey: a fate is its place's
        <span key={i} className="flex items-start gap-2">
          <LandingMark state={fate.state} label />
          <span className="wrap-anywhere leading-tight" title={stateWords[fate.state]}>
            <Sentence text={fate.says} />
          </span>
        </span>
      ))}
    </div>
  );
}

/** How many names of files and of folders there are in the list. */
function named(names: Hosting["names"]): string {
  const folders = names.filter((n) => n.path.endsWith("/")).length;
  const files = names.length - folders;
  if (names.length === 0) return "Names";
  const kinds = [files > 0 ? count(files, "file name") : "", folders > 0 ? count(folders, "folder name") : ""];
  return `${kinds.filter(Boolean).join(" and ")} may not work everywhere`;
}

/** The names that break the naming rules, each with a better one. */
function Names({ names }: { names: Hosting["names"] }) {
  return (
    <Section title={named(names)}>
      {names.length === 0 && (
        <p className="text-second">Every name is made of small letters, digits, hyphens and underscores.</p>
      )}
      <ul>
        {names.map((n) => (
          <li key={n.path} className="border-b border-hairline py-1.5 leading-tight">
            <Path>{n.path}</Path>
            <span className="block text-small text-second">
              <Sentence text={n.fault} />
              {n.better && (
                <>
                  ; <Mono className="text-ink">{n.better}</Mono> works everywhere
                </>
              )}
            </span>
          </li>
        ))}
      </ul>
    </Section>
  );
}
