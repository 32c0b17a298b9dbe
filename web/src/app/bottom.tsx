import { useMutation, useQueryClient } from "@tanstack/react-query";
import { useNavigate, useParams } from "@tanstack/react-router";
import { Moon, Sun } from "lucide-react";
import { useEffect, useState } from "react";
import { answer, api } from "../api/client";
import { useFolder, useFolderId, useLive } from "../api/folder";
import { DestinationText } from "../parts/destination";
import { KeyList, useChord, useKeys } from "../parts/keys";
import { useTheme } from "../parts/theme";
import { ago, count, Sentence } from "../parts/words";

/** The line along the bottom: where what is pointed at lands, what happens in the folder, and the keys. */
export function BottomLine() {
  const [theme, swap] = useTheme();
  const [help, setHelp] = useState(false);
  const navigate = useNavigate();
  const { folder } = useParams({ from: "/folder/$folder" });
  useChord("g", (key) => {
    const to = goes[key];
    if (to) void navigate({ to, params: { folder } });
    return to !== undefined;
  });
  const back = useBack();
  useKeys((key) => {
    if (key === "?") setHelp(true);
    else if (key === "u") back.go("undo");
    else if (key === "U") back.go("redo");
    else return false;
    return true;
  });
  return (
    <footer className="on-dark flex h-9 shrink-0 items-center gap-4 bg-line px-5 text-on-line">
      <div aria-live="off" className="flex min-w-0 flex-1 items-center gap-3 text-small" data-testid="destination">
        <DestinationText />
      </div>
      <LiveLine said={back.said} />
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

/** Takes back the last change, or does it again, in whatever view; and says what came of it. */
function useBack() {
  const folder = useFolderId();
  const queries = useQueryClient();
  const [said, setSaid] = useState<{ text: string; at: number }>();
  const back = useMutation({
    scope: { id: "back" }, // one after the other, none is lost
    mutationFn: (which: "undo" | "redo") => {
      const params = { path: { folder } };
      return which === "undo"
        ? answer(api.POST("/folders/{folder}/undo", { params }))
        : answer(api.POST("/folders/{folder}/redo", { params }));
    },
    onSuccess: ({ title }, which) =>
      setSaid({
        text: `${which === "undo" ? "Undone" : "Done again"}: ${title.replace(/^Undone: /, "")}`,
        at: Date.now(),
      }),
    onError: (error) => setSaid({ text: error.message, at: Date.now() }),
    onSettled: () => void queries.invalidateQueries({ queryKey: ["folder", folder] }),
  });
  return { said, go: back.mutate };
}

function LiveLine({ said }: { said: { text: string; at: number } | undefined }) {
  const { data } = useFolder();
  const { connected, last } = useLive();
  const [now, setNow] = useState(Date.now());
  useEffect(() => {
    const timer = setInterval(() => setNow(Date.now()), 1000);
    return () => clearInterval(timer);
  }, []);
  let text = data?.readAt ? `Watching · read ${ago(new Date(data.readAt).getTime(), now)}` : "";
  if (last?.event.paths && now - last.at < told) text = describe(last.event);
  const title = said && now - said.at < told && connected && data?.state !== "failed" ? said.text : undefined;
  if (data?.state === "failed") text = data.problem ?? "";
  if (!connected) text = "Arvel does not answer · trying again";
  return (
    <span role="status" className="max-w-[40%] shrink-0 truncate text-small text-on-line-second">
      {title ? <Sentence text={title} /> : text}
    </span>
  );
}

function describe(e: {
  paths?: string[];
  pathsInAll?: number;
  gone?: number;
  broke: number;
  mended: number;
  problem?: string;
}): string {
  if (e.problem) return e.problem;
  const files = e.pathsInAll ?? 0;
  const gone = e.gone ?? 0;
  const did = gone === 0 ? "changed" : gone === files ? (files === 1 ? "is gone" : "are gone") : "changed or are gone";
  const what = files === 1 ? `${e.paths?.[0]} ${did}` : `${files.toLocaleString("en")} files ${did}`;
  const parts = [
    e.broke > 0 ? `${count(e.broke, "reference")} broken` : "",
    e.mended > 0 ? `${count(e.mended, "broken one")} repaired` : "",
    e.broke + e.mended === 0 ? "nothing broke" : "",
  ];
  return `${what}: ${parts.filter(Boolean).join(", ")}`;
}
