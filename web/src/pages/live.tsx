import { useQuery, useQueryClient } from "@tanstack/react-query";
import { useContext, useEffect, useRef, useState } from "react";
import { answer, api, type Reference } from "../api/client";
import { useFolderId, useLive } from "../api/folder";
import { useDestination } from "../frame/destination";
import type { Follows, FromPage, Picked, ToPage } from "../live/messages";
import { Trouble } from "../parts/controls";
import { AimContext } from "./aim";

interface Props {
  page: string;
  link: string | undefined;
  onPage: (path: string) => void;
  onLink: (page: string, key: string) => void;
  /** Words or a picture were selected in the page. */
  onPick?: (what: Picked) => void;
}

/** What the last click in the page came to, if it did not simply follow the link. */
interface Clicked {
  reference: Reference;
  follows: Follows;
}

/** The page itself, live, as the chosen place serves it. A click follows a link, and the interface follows along. */
export function LivePage({ page, link, onPage, onLink, onPick }: Props) {
  const folder = useFolderId();
  const queries = useQueryClient();
  const { data, error } = useQuery({
    queryKey: ["preview", folder],
    queryFn: () => answer(api.GET("/folders/{folder}/preview", { params: { path: { folder } } })),
  });
  const frame = useRef<HTMLIFrameElement>(null);
  const at = useRef<string>(undefined);
  const [marks, setMarks] = useState(true);
  const [clicked, setClicked] = useState<Clicked>();
  const { point } = useDestination();
  const origin = data ? new URL(data.address).origin : "";

  const aim = useContext(AimContext);
  const aiming = aim.take !== undefined;
  const tell = (message: ToPage) => {
    if (origin) frame.current?.contentWindow?.postMessage(message, origin);
  };

  const tried = async (from: string, key: string) => {
    await answer(api.POST("/folders/{folder}/tried", { params: { path: { folder } }, body: { page: from, key } }));
    await queries.invalidateQueries({ queryKey: ["folder", folder, "references"] });
    await queries.invalidateQueries({ queryKey: ["folder", folder, "pages"] });
  };
  useEffect(() => {
    const receive = (e: MessageEvent<FromPage>) => {
      if (!origin || e.origin !== origin) return;
      switch (e.data.arvel) {
        case "at":
          at.current = e.data.page;
          tell({ arvel: "marks", shown: marks });
          if (link) tell({ arvel: "select", key: link });
          if (aiming) tell({ arvel: "aim", on: true });
          else if (e.data.page && e.data.page !== page) {
            setClicked(undefined);
            onPage(e.data.page);
          }
          break;
        case "point":
          point(e.data.page && e.data.reference ? { page: e.data.page, ...e.data.reference } : undefined);
          break;
        case "aimed": {
          const { page: target, id, text, heading } = e.data;
          const name = `${target}#${id}`;
          aim.take?.({ written: "", target: name, name, title: text, kind: heading ? "heading" : "id" });
          break;
        }
        case "picked":
          if (e.data.page === page) onPick?.(e.data.what);
          break;
        case "click":
          if (e.data.follows === "inside") void tried(e.data.page, e.data.reference.key);
          setClicked(e.data.follows === "inside" ? undefined : e.data);
          if (e.data.follows !== "inside") onLink(e.data.page, e.data.reference.key);
      }
    };
    window.addEventListener("message", receive);
    return () => window.removeEventListener("message", receive);
  });

  // The page that is chosen elsewhere is opened here, unless the click that chose it was made in the frame.
  useEffect(() => {
    if (aiming || !data || !frame.current || at.current === page) return;
    at.current = page;
    frame.current.src = data.address + page.split("/").map(encodeURIComponent).join("/");
  }, [data, page, aiming]);
  // biome-ignore lint/correctness/useExhaustiveDependencies: told when that changes
  useEffect(() => tell({ arvel: "aim", on: aiming }), [aiming]);
  // biome-ignore lint/correctness/useExhaustiveDependencies: told when another link is selected
  useEffect(() => {
    if (link) tell({ arvel: "select", key: link });
  }, [link, origin]);
  const { last } = useLive();
  // biome-ignore lint/correctness/useExhaustiveDependencies: told once for each event
  useEffect(() => {
    if (last?.event.kind === "renewed") tell({ arvel: "renew", paths: last.event.paths ?? [] });
  }, [last]);

  if (error) return <Trouble error={error} />;
  return (
    <div className="flex min-h-0 flex-1 flex-col">
      <div className="flex h-8 shrink-0 items-center gap-4 border-b border-hairline px-[18px] text-[13px]">
        <label className="flex items-center gap-1.5">
          <input
            type="checkbox"
            checked={marks}
            onChange={(e) => {
              setMarks(e.target.checked);
              tell({ arvel: "marks", shown: e.target.checked });
            }}
          />
          marks
        </label>
        <span className="flex-1" />
        {data && (
          <a
            href={data.address + page.split("/").map(encodeURIComponent).join("/")}
            target="_blank"
            rel="noopener"
            className="text-act hover:underline"
          >
            in a tab of its own
          </a>
        )}
      </div>
      {clicked && <Outcome clicked={clicked} onClose={() => setClicked(undefined)} />}
      <iframe
        ref={frame}
        title={`The page ${page}`}
        sandbox="allow-scripts allow-same-origin allow-forms allow-modals allow-popups"
        className="min-h-0 w-full flex-1 bg-white"
      />
    </div>
  );
}

/** What a click came to that leads nowhere, or out of the folder. */
function Outcome({ clicked, onClose }: { clicked: Clicked; onClose: () => void }) {
  const { reference, follows } = clicked;
  const { verb, where, note } = reference.destination;
  const web = /^https?:/.test(where);
  return (
    <div
      role="status"
      className={`flex shrink-0 items-baseline gap-2 border-b border-hairline px-[18px] py-1.5 text-[13px] ${follows === "nowhere" ? "bg-broken-soft" : "bg-act-soft"}`}
    >
      <span className="min-w-0 flex-1">
        <span className="font-semibold">{reference.text || reference.written}</span> {verb}{" "}
        <span className="font-mono wrap-anywhere">{where}</span> {note}
        {follows === "nowhere" && ". It was not followed; beside it stands why."}
      </span>
      {web && (
        <a href={where} target="_blank" rel="noopener noreferrer" className="shrink-0 font-semibold text-act underline">
          go there
        </a>
      )}
      <button type="button" onClick={onClose} className="shrink-0 text-act hover:underline">
        close
      </button>
    </div>
  );
}
