import { useMutation, useQueryClient } from "@tanstack/react-query";
import { Link, Outlet, useNavigate, useParams } from "@tanstack/react-router";
import { Moon, Sun } from "lucide-react";
import { useEffect, useRef, useState } from "react";
import { answer, api } from "../api/client";
import { LiveContext, useEvents, useFolder, useLive } from "../api/folder";
import { Button, Trouble } from "../parts/controls";
import { ago, count } from "../parts/words";
import { AboutFolder } from "./about";
import { Counts } from "./counts";
import { DestinationProvider, DestinationText } from "./destination";
import { KeyList, useKeys } from "./keys";
import { useTheme } from "./theme";

/** The frame around every view of an open folder: the band above, the destination line below. */
export function Frame() {
  const { folder } = useParams({ from: "/folder/$folder" });
  const live = useEvents(Number(folder));
  // Who leaves for the folders from here wants another one than the one to begin with.
  useEffect(() => sessionStorage.setItem("begun", "yes"), []);
  return (
    <LiveContext value={live}>
      <DestinationProvider>
        <div className="flex h-full flex-col">
          <Band />
          <main className="flex min-h-0 flex-1">
            <Body />
          </main>
          <BottomLine />
        </div>
      </DestinationProvider>
    </LiveContext>
  );
}

const tab =
  "flex h-full items-center border-b-2 border-transparent pt-0.5 text-second hover:text-ink aria-[current=page]:border-act aria-[current=page]:font-semibold aria-[current=page]:text-ink";

function Band() {
  const { data } = useFolder();
  const { folder } = useParams({ from: "/folder/$folder" });
  return (
    <header className="flex h-13 shrink-0 items-center gap-6 border-b border-hairline px-5">
      <Link to="/" aria-label="Arvel: the folders" className="text-[20px] font-bold">
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
  if (data.state === "failed" && data.version === 0) {
    return (
      <Alone>
        <h1 className="mb-2 text-[20px] font-semibold">The folder can't be read</h1>
        <p>{data.problem}</p>
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
        <h1 className="mb-3 text-[20px] font-semibold">Reading the folder</h1>
        <progress aria-label="Pages read" value={read} max={Math.max(total, 1)} className="h-1.5 w-full accent-act" />
        <p className="mt-2 text-second" role="status">
          {total > 0 ? `${read.toLocaleString("en")} of ${count(total, "page")}` : "Looking what is there"}
        </p>
      </Alone>
    );
  }
  if (data.counts.pages === 0) {
    return (
      <Alone>
        <h1 className="mb-2 text-[20px] font-semibold">There are no pages in this folder</h1>
        <p className="text-second">
          Arvel looks for files that end in <code className="font-mono">.html</code> or{" "}
          <code className="font-mono">.htm</code>, here and in the folders below. As soon as you save one, it stands
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
        <span className="block text-[13px] text-second">Or begin here: the title of a home page</span>
        <input
          value={title}
          onChange={(e) => setTitle(e.target.value)}
          className="w-full border-b border-second bg-transparent py-1 focus:border-act"
        />
      </label>
      <Button kind="act" type="submit" disabled={!title.trim() || make.isPending}>
        Make it
      </Button>
      {make.error && <Trouble error={make.error} />}
    </form>
  );
}

function Alone({ children }: { children: React.ReactNode }) {
  return <div className="mx-auto mt-24 w-[520px] max-w-full px-4">{children}</div>;
}

function BottomLine() {
  const [theme, swap] = useTheme();
  const [help, setHelp] = useState(false);
  const waiting = useRef(0);
  const navigate = useNavigate();
  const { folder } = useParams({ from: "/folder/$folder" });
  useKeys((key) => {
    const went = performance.now() - waiting.current < 1200 && goes[key];
    if (went) {
      void navigate({ to: went, params: { folder } });
      return true;
    }
    if (key === "g") waiting.current = performance.now();
    if (key === "?") setHelp(true);
    return key === "g" || key === "?";
  });
  return (
    <footer className="on-dark flex h-9 shrink-0 items-center gap-4 bg-line px-5 text-on-line">
      <div aria-live="off" className="flex min-w-0 flex-1 items-center gap-3 text-[13px]" data-testid="destination">
        <DestinationText />
      </div>
      <LiveLine />
      <button
        type="button"
        onClick={swap}
        aria-label={theme === "dark" ? "Use the light theme" : "Use the dark theme"}
        className="text-on-line-second hover:text-on-line"
      >
        {theme === "dark" ? <Sun size={15} /> : <Moon size={15} />}
      </button>
      <KeyList open={help} onOpen={setHelp} />
    </footer>
  );
}

const goes: Record<
  string,
  "/" | `/folder/$folder/${"overview" | "pages" | "repairs" | "moves" | "anchors" | "hosting" | "history"}`
> = {
  f: "/",
  o: "/folder/$folder/overview",
  p: "/folder/$folder/pages",
  r: "/folder/$folder/repairs",
  m: "/folder/$folder/moves",
  a: "/folder/$folder/anchors",
  t: "/folder/$folder/hosting",
  h: "/folder/$folder/history",
};

/** How long what a save broke or mended is said. */
const told = 15_000;

function LiveLine() {
  const { data } = useFolder();
  const { connected, last } = useLive();
  const [now, setNow] = useState(Date.now());
  useEffect(() => {
    const timer = setInterval(() => setNow(Date.now()), 1000);
    return () => clearInterval(timer);
  }, []);
  let text = data?.readAt ? `Watching · read ${ago(new Date(data.readAt).getTime(), now)}` : "";
  if (last?.event.paths && now - last.at < told) text = describe(last.event);
  if (data?.state === "failed") text = data.problem ?? "";
  if (!connected) text = "Arvel does not answer · trying again";
  return (
    <span role="status" className="shrink-0 text-[13px] text-on-line-second">
      {text}
    </span>
  );
}

function describe(e: {
  paths?: string[];
  pathsInAll?: number;
  broke: number;
  mended: number;
  problem?: string;
}): string {
  if (e.problem) return e.problem;
  const files = e.pathsInAll ?? 0;
  const what = files === 1 ? `${e.paths?.[0]} changed` : `${files} files changed`;
  const parts = [
    e.broke > 0 ? `${e.broke} broken` : "",
    e.mended > 0 ? `${e.mended} mended` : "",
    e.broke + e.mended === 0 ? "nothing broken by it" : "",
  ];
  return `${what}: ${parts.filter(Boolean).join(", ")}`;
}
