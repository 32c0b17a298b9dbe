import { useQueries } from "@tanstack/react-query";
import { type DragEvent, useState } from "react";
import { answer, api, type Move, type TreeEntry } from "../api/client";
import { useFolderId } from "../api/folder";
import { Button, Input, Trouble } from "../parts/controls";
import { useKeys } from "../parts/keys";
import { List } from "../parts/list";
import { NotSaved } from "../parts/mark";
import { Tick } from "../parts/tick";
import { Mono } from "../parts/words";
import { Fault, useNameFault } from "./name-fault";
import { join, NewFolder } from "./new-folder";

interface Props {
  chosen: ReadonlySet<string>;
  onChosen: (chosen: ReadonlySet<string>) => void;
  planned: Move[];
  onMoves: (moves: Move[]) => void;
  onDelete: (paths: string[]) => void;
}

interface Row {
  entry: TreeEntry;
  depth: number;
  open: boolean;
}

const nothing = () => {};
const nameOf = (path: string) => path.slice(path.lastIndexOf("/") + 1);
const parentOf = (path: string) => path.slice(0, Math.max(0, path.lastIndexOf("/")));
/** The folder as a tree. What is chosen is moved by dragging, or by naming the new place. */
export function Tree({ chosen, onChosen, planned, onMoves, onDelete }: Props) {
  const folder = useFolderId();
  const [open, setOpen] = useState<ReadonlySet<string>>(new Set([""]));
  const [at, setAt] = useState(-1);
  const [renaming, setRenaming] = useState<string>();
  const [over, setOver] = useState<string>();
  const paths = [...open];
  const levels = useQueries({
    queries: paths.map((path) => ({
      queryKey: ["folder", folder, "tree", path],
      queryFn: () =>
        answer<TreeEntry[]>(api.GET("/folders/{folder}/tree", { params: { path: { folder }, query: { path } } })),
    })),
  });
  const below = new Map(paths.map((path, i) => [path, levels[i]?.data ?? []]));
  const rows: Row[] = [];
  const lay = (path: string, depth: number) => {
    for (const entry of below.get(path) ?? []) {
      const isOpen = entry.folder && open.has(entry.path);
      rows.push({ entry, depth, open: isOpen });
      if (isOpen) lay(entry.path, depth + 1);
    }
  };
  lay("", 0);
  const shown = at < 0 ? undefined : rows[Math.min(at, rows.length - 1)];

  const swap = (set: ReadonlySet<string>, path: string) => {
    const next = new Set(set);
    if (!next.delete(path)) next.add(path);
    return next;
  };
  /** What an action is about: all that is chosen, or else the one at hand. */
  const subjects = (path: string) => (chosen.has(path) ? [...chosen] : [path]);
  const moveInto = (target: string, path: string) =>
    onMoves(subjects(path).map((from) => ({ from, to: join(target, nameOf(from)) })));

  /** What deleting is about: what is chosen, or else the row at hand. */
  const doomed = chosen.size > 0 ? [...chosen] : shown ? [shown.entry.path] : [];
  useKeys((key) => {
    if (!shown) return false;
    if (key === "e") setRenaming(shown.entry.path);
    else if (key === "Delete") onDelete(doomed);
    else if (key === "m") document.getElementById("move-to")?.focus();
    else return false;
    return true;
  });

  const drop = (target: string) => ({
    onDragOver: (e: DragEvent) => {
      e.preventDefault();
      e.stopPropagation();
      setOver(target);
    },
    onDrop: (e: DragEvent) => {
      e.preventDefault();
      e.stopPropagation();
      setOver(undefined);
      const path = e.dataTransfer.getData("text/plain");
      if (path) moveInto(target, path);
    },
  });
  return (
    <>
      <div className="flex min-h-head shrink-0 flex-wrap items-center gap-2 px-edge py-1.5">
        <h2 className="text-title font-semibold">The folder</h2>
        <span className="flex-1" />
        <MoveTo
          count={chosen.size}
          onMove={(target) => {
            const first = [...chosen][0] ?? shown?.entry.path;
            if (first) moveInto(target, first);
          }}
        />
        <Button
          disabled={doomed.length === 0}
          title="See what deleting what is chosen would break (Delete)"
          onClick={() => onDelete(doomed)}
        >
          Delete
        </Button>
        <NewFolder parent={shown ? (shown.entry.folder ? shown.entry.path : parentOf(shown.entry.path)) : ""} />
      </div>
      {levels[0]?.error && <Trouble error={levels[0].error} />}
      {/* biome-ignore lint/a11y/noStaticElementInteractions: the top of the folder is a place to drop on, too */}
      <div
        className={`flex min-h-0 flex-1 flex-col ${over === "" ? "bg-act-soft" : ""}`}
        onDragLeave={() => setOver(undefined)}
        {...drop("")}
      >
        <List
          label="The folder"
          total={rows.length}
          height={34}
          selected={at}
          onSelect={setAt}
          onSee={nothing}
          ticked={(i) => chosen.has(rows[i]?.entry.path ?? "")}
          onKey={(key) => {
            if (!shown) return false;
            const { entry } = shown;
            if (key === " ") onChosen(swap(chosen, entry.path));
            else if (key === "ArrowRight" && shown.open) setAt(Math.min(at + 1, rows.length - 1));
            else if (key === "ArrowRight" && entry.folder) setOpen(new Set(open).add(entry.path));
            else if (key === "ArrowLeft" && shown.open) setOpen(swap(open, entry.path));
            else if (key === "ArrowLeft") {
              const parent = rows.findIndex((r) => r.entry.path === parentOf(entry.path));
              if (parent < 0) return false;
              setAt(parent);
            } else if (key === "Enter" && entry.folder) setOpen(swap(open, entry.path));
            else return false;
            return true;
          }}
          rowKey={(i) => rows[i]?.entry.path ?? i}
          branch={(i) => ({
            level: (rows[i]?.depth ?? 0) + 1,
            open: rows[i]?.entry.folder ? rows[i]?.open : undefined,
          })}
          render={(i, on) => {
            const row = rows[i];
            if (!row) return null;
            const { entry } = row;
            return (
              // biome-ignore lint/a11y/noStaticElementInteractions: the list takes the keys
              <div
                draggable={renaming !== entry.path}
                onDragStart={(e) => e.dataTransfer.setData("text/plain", entry.path)}
                onDoubleClick={() => setRenaming(entry.path)}
                {...(entry.folder ? drop(entry.path) : {})}
                className={`flex h-[34px] items-center gap-2 border-b border-hairline pr-4 ${over === entry.path ? "bg-act-soft outline-2 -outline-offset-2 outline-act" : on ? "bg-paper" : "hover:bg-paper"}`}
                style={{ paddingLeft: 14 + row.depth * 20 }}
              >
                <Tick
                  on={chosen.has(entry.path)}
                  title={`Choose ${entry.path}`}
                  onSwap={() => onChosen(swap(chosen, entry.path))}
                />
                {renaming === entry.path ? (
                  <Rename
                    entry={entry}
                    onDone={(name) => {
                      setRenaming(undefined);
                      if (name && name !== entry.name) {
                        onMoves([{ from: entry.path, to: join(parentOf(entry.path), name) }]);
                      }
                    }}
                  />
                ) : (
                  <Name
                    row={row}
                    planned={planned.find((m) => m.from === entry.path)}
                    onOpen={() => setOpen(swap(open, entry.path))}
                  />
                )}
              </div>
            );
          }}
        />
      </div>
    </>
  );
}

function Name({ row, planned, onOpen }: { row: Row; planned: Move | undefined; onOpen: () => void }) {
  const { entry } = row;
  return (
    <>
      {entry.folder ? (
        // biome-ignore lint/a11y/noStaticElementInteractions: the list takes the keys
        // biome-ignore lint/a11y/useKeyWithClickEvents: the list takes the keys
        <span onClick={onOpen} className="font-mono">
          <span aria-hidden="true" className="inline-block w-4 text-second">
            {row.open ? "–" : "+"}
          </span>
          <span className="font-semibold">{entry.name}/</span>
        </span>
      ) : (
        <Mono className="min-w-0 truncate pl-4">{entry.name}</Mono>
      )}
      {entry.unsaved && <NotSaved />}
      <span className="min-w-0 flex-1 truncate text-small text-second">{entry.title}</span>
      {planned && <Mono className="max-w-[45%] truncate text-small text-act">→ {planned.to}</Mono>}
      {!planned && entry.fault && (
        <span className="text-small text-fragile" title={`${entry.name} ${entry.fault.replaceAll("`", "")}`}>
          name
        </span>
      )}
      {!entry.folder && (
        <span
          className="w-24 shrink-0 text-right text-small text-second tabular-nums"
          title="pages that refer to it, references in it"
        >
          {entry.in} in{entry.out > 0 && `, ${entry.out} out`}
        </span>
      )}
    </>
  );
}

/** Renames in place; a name that may not work everywhere is told as it is typed, with a better one. */
function Rename({ entry, onDone }: { entry: TreeEntry; onDone: (name: string | undefined) => void }) {
  const [name, setName] = useState(entry.name);
  const path = join(parentOf(entry.path), name.trim()) + (entry.folder ? "/" : "");
  const fault = useNameFault(path, name.trim() !== "");
  return (
    <>
      <input
        // biome-ignore lint/a11y/noAutofocus: it was just asked for
        autoFocus
        aria-label={`New name of ${entry.name}`}
        aria-describedby="name-fault"
        value={name}
        spellCheck={false}
        onFocus={(e) => e.target.setSelectionRange(0, Math.max(0, entry.name.lastIndexOf(".")) || entry.name.length)}
        onChange={(e) => setName(e.target.value)}
        onBlur={() => onDone(undefined)}
        onKeyDown={(e) => {
          e.stopPropagation();
          if (e.key === "Enter") onDone(name.trim());
          if (e.key === "Escape") onDone(undefined);
          if (e.key === "ArrowDown" && fault?.better) {
            e.preventDefault();
            setName(fault.better);
          }
        }}
        className="min-w-0 flex-1 border-b border-act bg-transparent font-mono"
      />
      <Fault id="name-fault" fault={fault} name={name} />
    </>
  );
}

function MoveTo({ count: n, onMove }: { count: number; onMove: (target: string) => void }) {
  const [to, setTo] = useState("");
  return (
    <form
      className="flex items-center gap-2.5 text-small"
      onSubmit={(e) => {
        e.preventDefault();
        onMove(to.trim().replace(/^\/+|\/+$/g, ""));
        setTo("");
      }}
    >
      <label htmlFor="move-to" className="text-second">
        move {n > 1 ? `the ${n}` : "it"} into
      </label>
      <Input
        id="move-to"
        value={to}
        onChange={(e) => setTo(e.target.value)}
        placeholder="folder/"
        spellCheck={false}
        className="w-28 font-mono"
      />
      <Button type="submit">Plan it</Button>
    </form>
  );
}
