import { useMutation, useQueryClient } from "@tanstack/react-query";
import { Link, Outlet, useLocation, useNavigate, useParams, useSearch } from "@tanstack/react-router";
import { useEffect, useRef, useState } from "react";
import { answer, api } from "../api/client";
import { LiveContext, useEvents, useFolder, useFolderId, useLive } from "../api/folder";
import { Button, Input, Trouble } from "../parts/controls";
import { DestinationProvider } from "../parts/destination";
import { useKeptFocus } from "../parts/focus";
import { Bar } from "../parts/progress";
import { count, Sentence } from "../parts/words";
import { AboutFolder } from "./about";
import { BottomLine } from "./bottom";
import { Counts } from "./counts";

/** The frame around every view of an open folder: the band above, the destination line below. */
export function Frame() {
  const { folder } = useParams({ from: "/folder/$folder" });
  const live = useEvents(Number(folder));
  const main = useRef<HTMLElement>(null);
  useKeptFocus(main);
  useTitle();
  // Who leaves for the folders from here wants another one than the one to begin with.
  useEffect(() => sessionStorage.setItem("begun", "yes"), []);
  return (
    <LiveContext value={live}>
      <DestinationProvider>
        <div className="flex h-full flex-col">
          <Band />
          <Working />
          <main ref={main} tabIndex={-1} className="flex min-h-0 flex-1 outline-none">
            <Body />
          </main>
          <BottomLine />
        </div>
      </DestinationProvider>
    </LiveContext>
  );
}

const viewNames: Record<string, string> = {
  overview: "Overview",
  pages: "Pages",
  repairs: "Repairs",
  moves: "Moves",
  anchors: "Anchors",
  hosting: "Hosting",
  history: "History",
};

/** The window says which folder and which view it shows. */
function useTitle() {
  const { data } = useFolder();
  const view = useLocation({ select: (at) => at.pathname.split("/")[3] ?? "" });
  const page = useSearch({ strict: false, select: (s: { page?: string | undefined }) => s.page });
  const folder = data?.path.split(/[/\\]/).at(-1) ?? "";
  useEffect(() => {
    const shown = view === "pages" && page ? page : viewNames[view];
    document.title = [shown, folder, "Arvel"].filter(Boolean).join(" · ");
    return () => {
      document.title = "Arvel";
    };
  }, [view, page, folder]);
}

const tab =
  "flex h-full items-center border-b-2 border-transparent pt-0.5 text-second hover:text-ink aria-[current=page]:border-act aria-[current=page]:font-semibold aria-[current=page]:text-ink";

function Band() {
  const { data } = useFolder();
  const { folder } = useParams({ from: "/folder/$folder" });
  return (
    <header className="flex h-13 shrink-0 items-center gap-6 border-b border-hairline px-5">
      <Link to="/" aria-label="Arvel: the folders" className="text-head font-bold">
        Arvel
      </Link>
      <AboutFolder folder={data} />
      <nav aria-label="Views" className="flex h-full gap-5">
        <Link to="/folder/$folder/overview" params={{ folder }} className={tab}>
          Overview
        </Link>
        <Link to="/folder/$folder/pages" params={{ folder }} className={tab}>
          Pages
        </Link>
        <Link to="/folder/$folder/repairs" params={{ folder }} className={tab}>
          Repairs
        </Link>
        <Link to="/folder/$folder/moves" params={{ folder }} className={tab}>
          Moves
        </Link>
        <Link to="/folder/$folder/anchors" params={{ folder }} className={tab}>
          Anchors
        </Link>
        <Link to="/folder/$folder/hosting" params={{ folder }} className={tab}>
          Hosting
        </Link>
        <Link to="/folder/$folder/history" params={{ folder }} className={tab}>
          History
        </Link>
      </nav>
      <Counts />
    </header>
  );
}

function Body() {
  const { data, error } = useFolder();
  const { progress, connected } = useLive();
  if (error && connected && !data) return <Alone>{<Trouble error={error} />}</Alone>;
  if (!data) return <Alone>{error ? <Trouble error={error} /> : null}</Alone>;
  if (data.state === "failed" && (data.version === 0 || data.missing)) {
    return (
      <Alone>
        <h1 className="mb-2 text-head font-semibold">
          {data.missing ? "The folder is not there" : "The folder can’t be read"}
        </h1>
        <p className="wrap-anywhere">{data.problem}</p>
        <OpenAgain path={data.path} />
        <p className="mt-3">
          <Link to="/" className="font-semibold text-act underline">
            Choose another folder
          </Link>
        </p>
      </Alone>
    );
  }
  if (data.state === "reading" && data.version === 0) {
    const { read, total } = progress ?? data;
    return (
      <Alone>
        <h1 className="mb-3 text-head font-semibold">Reading the folder</h1>
        <Bar label="Pages read" done={read} total={total} className="w-full" />
        <p className="mt-2 text-second" role="status">
          {total > 0 ? `${read.toLocaleString("en")} of ${count(total, "page")}` : "Looking at what is there"}
        </p>
      </Alone>
    );
  }
  if (data.counts.pages === 0) {
    return (
      <Alone>
        <h1 className="mb-2 text-head font-semibold">There are no pages in this folder</h1>
        <p className="text-second">
          Arvel looks for files that end in <code className="font-mono">.html</code> or{" "}
          <code className="font-mono">.htm</code>, here and in the folders below. As soon as you save one, it is listed
          here.
        </p>
        <HomePage />
        <p className="mt-6">
          <Link to="/" className="font-semibold text-act underline">
            Choose another folder
          </Link>
        </p>
      </Alone>
    );
  }
  return <Outlet />;
}

/** Makes the first page of an empty folder. */
function HomePage() {
  const { folder } = useParams({ from: "/folder/$folder" });
  const navigate = useNavigate();
  const queries = useQueryClient();
  const [title, setTitle] = useState("");
  const make = useMutation({
    mutationFn: () =>
      answer(
        api.POST("/folders/{folder}/new-page", {
          params: { path: { folder: Number(folder) } },
          body: { path: "index.html", title: title.trim() },
        }),
      ),
    onSuccess: async ({ path }) => {
      await navigate({ to: "/folder/$folder/pages", params: { folder }, search: { page: path, see: "write" } });
      await queries.invalidateQueries({ queryKey: ["folder", Number(folder)] });
    },
  });
  return (
    <form
      className="mt-5 flex items-end gap-3"
      onSubmit={(e) => {
        e.preventDefault();
        make.mutate();
      }}
    >
      <label className="min-w-0 flex-1">
        <span className="block text-small text-second">Or begin here: the title of a home page</span>
        <Input value={title} onChange={(e) => setTitle(e.target.value)} className="w-full py-1" />
      </label>
      <Button kind="act" type="submit" disabled={!title.trim() || make.isPending}>
        Make it
      </Button>
      {make.error && <Trouble error={make.error} />}
    </form>
  );
}

/** Opens what is at the folder's path now. */
function OpenAgain({ path }: { path: string }) {
  const queries = useQueryClient();
  const open = useMutation({
    mutationFn: () => answer(api.POST("/folders", { body: { path } })),
    onSettled: () => queries.invalidateQueries({ queryKey: ["folder"] }),
  });
  return (
    <div className="mt-3">
      <Button disabled={open.isPending} onClick={() => open.mutate()}>
        Open it again
      </Button>
      {open.error && <Trouble error={open.error} />}
    </div>
  );
}

/** Something long that is being done: how far it is, and how to stop it. */
function Working() {
  const folder = useFolderId();
  const { work } = useLive();
  const stop = useMutation({
    mutationFn: () => answer(api.DELETE("/folders/{folder}/work", { params: { path: { folder } } })),
  });
  if (!work) return null;
  return (
    <div className="flex h-9 shrink-0 items-center gap-3 border-b border-hairline bg-act-soft px-5 text-small">
      <span role="status" className="min-w-0 truncate">
        <Sentence text={work.title} />
      </span>
      <Bar label="Progress" done={work.done} total={work.total} className="w-40" />
      <span className="text-second tabular-nums">
        {work.done.toLocaleString("en")} of {count(work.total, "step")}
      </span>
      <Button disabled={stop.isPending} onClick={() => stop.mutate()} className="py-0.5">
        Stop
      </Button>
    </div>
  );
}

function Alone({ children }: { children: React.ReactNode }) {
  return <div className="mx-auto mt-24 w-[520px] max-w-full px-4">{children}</div>;
}
