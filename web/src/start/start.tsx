import { useMutation, useQuery } from "@tanstack/react-query";
import { useNavigate } from "@tanstack/react-router";
import { useEffect, useState } from "react";
import { answer, api, type Folder, type KnownFolder, type PageCount } from "../api/client";
import { useSession } from "../api/folder";
import { Button, Input, Section, Trouble } from "../parts/controls";
import { useTheme } from "../parts/theme";
import { ago, count, Mono, useShort } from "../parts/words";

/** Where one begins: the folders that were opened, and a way to choose another one. */
export default function Start() {
  const navigate = useNavigate();
  useTheme();
  const session = useSession();
  const known = useQuery({
    queryKey: ["folders"],
    queryFn: () => answer<KnownFolder[]>(api.GET("/folders")),
    refetchOnMount: "always",
  });
  const open = useMutation({
    mutationFn: (path: string) => answer<Folder>(api.POST("/folders", { body: { path } })),
    onSuccess: (folder) => navigate({ to: "/folder/$folder/overview", params: { folder: String(folder.id) } }),
  });
  // Started with a folder, Arvel begins there; who comes back here wants another one.
  const start = session.data?.start;
  useEffect(() => {
    if (start === undefined || sessionStorage.getItem("begun")) return;
    sessionStorage.setItem("begun", "yes");
    void navigate({ to: "/folder/$folder/overview", params: { folder: String(start) }, replace: true });
  }, [start, navigate]);
  return (
    <main className="h-full overflow-y-auto">
      <div className="mx-auto grid min-h-full max-w-[1120px] grid-cols-[380px_1fr] gap-14 px-8 pt-16 pb-10">
        <div>
          <h1 className="text-[34px] leading-tight font-bold">Arvel</h1>
          <p className="mt-2 text-[19px] leading-snug">
            Open a folder of pages. Every link in it is followed to where it lands; those that land nowhere are
            explained and repaired in your files.
          </p>
          {session.error && (
            <div className="mt-4">
              <Trouble error={session.error} />
            </div>
          )}
          <Section title="Opened before">
            <Known list={known.data} busy={open.isPending} onOpen={(path) => open.mutate(path)} />
          </Section>
        </div>
        <Chooser busy={open.isPending} error={open.error} onOpen={(path) => open.mutate(path)} />
      </div>
    </main>
  );
}

function Known({
  list,
  busy,
  onOpen,
}: {
  list: KnownFolder[] | undefined;
  busy: boolean;
  onOpen: (path: string) => void;
}) {
  const short = useShort();
  if (!list) return null;
  if (list.length === 0) return <p className="text-second">Folders you open will be listed here.</p>;
  return (
    <ul>
      {list.map((folder) => (
        <li key={folder.id} className="border-b border-hairline">
          <button
            type="button"
            disabled={busy || !folder.there}
            onClick={() => onOpen(folder.path)}
            className="block w-full px-1 py-2.5 text-left hover:bg-paper disabled:cursor-default disabled:hover:bg-transparent"
          >
            <span className={`block truncate font-semibold ${folder.there ? "text-act" : "text-second"}`}>
              {folder.name}
            </span>
            <Mono className="block truncate text-smaller text-second">{short(folder.path)}</Mono>
            <span className="text-small text-second">
              {folder.there ? `opened ${ago(new Date(folder.opened).getTime(), Date.now())}` : "no longer exists"}
            </span>
          </button>
        </li>
      ))}
    </ul>
  );
}

function pages({ count: n, more }: PageCount): string {
  if (more) return `${n.toLocaleString("en")} pages or more`;
  return n === 0 ? "" : count(n, "page");
}

/** Walks the machine's folders, from the home directory down. */
function Chooser({ busy, error, onOpen }: { busy: boolean; error: unknown; onOpen: (path: string) => void }) {
  const [path, setPath] = useState("");
  const [typed, setTyped] = useState<string>();
  const disk = useQuery({
    queryKey: ["disk", path],
    queryFn: () => answer(api.GET("/disk", { params: { query: { path } } })),
    staleTime: 5000,
  });
  const at = disk.data;
  const walk = (to: string) => {
    setPath(to);
    setTyped(undefined);
  };
  return (
    <section
      aria-label="Choose a folder"
      className="flex max-h-[calc(100vh-104px)] min-h-0 flex-col border border-hairline bg-paper"
    >
      <form
        className="flex items-center gap-3 border-b border-hairline px-4 py-3"
        onSubmit={(e) => {
          e.preventDefault();
          if (typed !== undefined && typed !== at?.path) walk(typed);
          else if (at) onOpen(at.path);
        }}
      >
        <Input
          aria-label="Path of the folder"
          value={typed ?? at?.path ?? path}
          onChange={(e) => setTyped(e.target.value)}
          spellCheck={false}
          className="flex-1 py-1 font-mono"
        />
        <Button
          kind="act"
          disabled={busy || !at}
          onClick={() => onOpen(typed ?? at?.path ?? "")}
          title={at ? `Open ${typed ?? at.path}` : undefined}
        >
          Open this folder
        </Button>
      </form>
      {error !== null && error !== undefined && <Trouble error={error} />}
      {disk.error && <Trouble error={disk.error} />}
      <p className="px-4 pt-3 text-small text-second" role="status">
        {at ? pages(at.pages) || "No pages in this folder or below it" : " "}
      </p>
      <ul aria-label="Folders in it" className="min-h-0 flex-1 overflow-y-auto px-2 py-2">
        {at?.parent && (
          <li>
            <button type="button" className={entry} onClick={() => walk(at.parent ?? "")}>
              <span className="text-second">one up, to</span>
              <Mono className="truncate">{at.parent}</Mono>
            </button>
          </li>
        )}
        {at?.folders.map((folder) => (
          <li key={folder.path}>
            <button type="button" className={entry} onClick={() => walk(folder.path)}>
              <Mono className="truncate">{folder.name}/</Mono>
              <span className="ml-auto shrink-0 text-small text-second">{pages(folder.pages)}</span>
            </button>
          </li>
        ))}
        {at && at.folders.length === 0 && <li className="px-2 py-2 text-second">There are no folders in this one.</li>}
      </ul>
    </section>
  );
}

const entry = "flex w-full items-baseline gap-2 rounded-[4px] px-2 py-1.5 text-left hover:bg-act-soft";
