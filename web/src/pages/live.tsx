import { useQuery, useQueryClient } from "@tanstack/react-query";
import { startTransition, useCallback, useContext, useEffect, useRef, useState } from "react";
import { answer, api, type Reference, type Span } from "../api/client";
import { useFolderId, useLive } from "../api/folder";
import { type Follows, type FromPage, fromPage, type Picked, type ToPage } from "../api/messages";
import { Button, TextButton, Trouble } from "../parts/controls";
import { useDestination } from "../parts/destination";
import { Mono } from "../parts/words";
import { AimContext } from "./aim";

interface Props {
  page: string;
  link: string | undefined;
  /** Shows a page; done when it is shown, or another one is. */
  onPage: (path: string) => Promise<void>;
  onLink: (page: string, key: string) => void;
  /** Words or a picture were selected in the page. */
  onPick?: (what: Picked) => void;
}

/** What the last click in the page came to, if it did not simply follow the link. */
interface Clicked {
  reference: Reference;
  follows: Follows;
}

/** How often a page is asked whether it is alive, and how long it may take to answer, in milliseconds. */
const askEvery = 1500;
const patience = 5000;

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
  /** When the frame was last sent to a page, in milliseconds of the clock. */
  const sent = useRef(0);
  /** Counts the pages that were gone to in the frame. */
  const [gone, setGone] = useState(0);
  const [marks, setMarks] = useState(true);
  const [clicked, setClicked] = useState<Clicked>();
  const { point } = useDestination();
  const origin = data ? new URL(data.address).origin : "";
  /** The address of the page in the preview. */
  const own = data && data.enter + encodeURIComponent(page.split("/").map(encodeURIComponent).join("/"));
  const aim = useContext(AimContext);
  const aiming = aim.take !== undefined;
  /** The page that is put away since it no longer answered. */
  const [away, setAway] = useState<string>();

  /** What is known of the references of a page, by key: pages only name them. */
  const referenceOf = useCallback(
    async (of: string, key: string): Promise<Reference | undefined> => {
      const spans = await queries.fetchQuery({
        queryKey: ["folder", folder, "spans", of],
        queryFn: async (): Promise<Span[]> =>
          (await answer(api.GET("/folders/{folder}/source", { params: { path: { folder }, query: { page: of } } })))
            .spans,
        staleTime: 60_000,
      });
      return spans.find((span) => span.reference.key === key)?.reference;
    },
    [folder, queries],
  );
  /** Whether the folder has the page: what a page says of itself is not taken for true. */
  const has = useCallback(
    async (path: string) => {
      const query = { find: path, limit: 1 };
      const { found } = await answer(api.GET("/folders/{folder}/pages", { params: { path: { folder }, query } }));
      return found !== undefined;
    },
    [folder],
  );

  const tried = async (from: string, key: string) => {
    const request = { params: { path: { folder } }, body: { page: from, key }, keepalive: true };
    await answer(api.POST("/folders/{folder}/tried", request));
    await queries.invalidateQueries({ queryKey: ["folder", folder, "references"] });
    await queries.invalidateQueries({ queryKey: ["folder", folder, "pages"] });
  };
  const aimed = async (target: string, id: string, text: string) => {
    const query = { page: target };
    const { landmarks } = await answer(api.GET("/folders/{folder}/outline", { params: { path: { folder }, query } }));
    const mark = landmarks.find((l) => l.line > 0 && (id ? l.name === id : l.text === text));
    if (!mark) return;
    const name = `${target}#${mark.name}`;
    const shown = mark.name ? name : target;
    const kind = mark.level > 0 ? "heading" : "id";
    aim.take?.({ written: "", target: name, shown, needsId: mark.name === "", name, title: mark.text, kind });
  };

  const { tell, silent } = useTalk(frame, origin, away === undefined, sent, (message) => {
    switch (message.arvel) {
      case "at": {
        const was = at.current;
        at.current = message.page;
        tell({ arvel: "marks", shown: marks });
        if (link) tell({ arvel: "select", key: link });
        if (aiming) tell({ arvel: "aim", on: true });
        else if (message.page && message.page !== page && message.page !== was) {
          const to = message.page;
          setClicked(undefined);
          void has(to)
            .then((there) => (there && at.current === to ? onPage(to) : undefined))
            .then(() => startTransition(() => setGone((n) => n + 1)));
        }
        break;
      }
      case "point":
        if (!message.key) point(undefined);
        else
          void referenceOf(message.page, message.key)
            .then((found) => point(found && { page: message.page, ...found }))
            .catch(() => point(undefined));
        break;
      case "aimed":
        void aimed(message.page, message.id, message.text);
        break;
      case "picked":
        if (message.page === page) onPick?.(message.what);
        break;
      case "click": {
        const { page: from, key, follows } = message;
        if (follows === "inside") void tried(from, key).catch(() => {}); // the page was changed in the meantime
        void referenceOf(from, key)
          .then((reference) => {
            if (!reference) return;
            if (follows !== "inside") onLink(from, key);
            setClicked(follows === "inside" ? undefined : { reference, follows });
          })
          .catch(() => setClicked(undefined)); // the page was changed or moved in the meantime
      }
    }
  });

  // The page that is chosen elsewhere is opened here, unless the click that chose it was made in the frame. It takes the
  // place of the one before, so that Back is the interface's. Who went back at once, before the interface had followed,
  // is back here too.
  // biome-ignore lint/correctness/useExhaustiveDependencies: told when another page was gone to
  useEffect(() => {
    const shown = frame.current;
    if (aiming || !own || !shown || away !== undefined || at.current === page) return;
    sent.current = Date.now();
    if (at.current === undefined || !shown.contentWindow) shown.src = own;
    else shown.contentWindow.location.replace(own);
    at.current = page;
  }, [own, page, aiming, away, gone]);
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
  // Another page is wanted than the one that is put away.
  useEffect(() => {
    if (away !== undefined && away !== page) setAway(undefined);
  }, [away, page]);

  if (error) return <Trouble error={error} />;
  return (
    <div className="flex min-h-0 flex-1 flex-col">
      <div className="flex h-8 shrink-0 items-center gap-4 border-b border-hairline px-edge text-small">
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
        {own && (
          <a href={own} target="_blank" rel="noopener" className="text-act hover:underline">
            in a tab of its own
          </a>
        )}
      </div>
      {clicked && <Outcome clicked={clicked} onClose={() => setClicked(undefined)} />}
      {silent && away === undefined && (
        <div role="alert" className="flex shrink-0 items-baseline gap-3 bg-broken-soft px-edge py-1.5 text-small">
          <span className="min-w-0 flex-1">
            <Mono>{page}</Mono> does not respond: a script in it may never end.
          </span>
          <Button
            onClick={() => {
              at.current = undefined;
              setAway(page);
            }}
          >
            Stop the page
          </Button>
        </div>
      )}
      {away === undefined ? (
        <iframe
          ref={frame}
          title={`The page ${page}`}
          sandbox="allow-scripts allow-same-origin allow-forms allow-modals allow-popups"
          className="min-h-0 w-full flex-1 bg-white"
        />
      ) : (
        <div className="px-edge py-4">
          <p className="mb-3">
            <Mono>{away}</Mono> was stopped. Its source and its links are still here.
          </p>
          <Button onClick={() => setAway(undefined)}>Show it again</Button>
        </div>
      )}
    </div>
  );
}

/** By how much the clocks of two pages may differ, in milliseconds. */
const clocks = 5;

/** Talks with the script in the pages of a frame, each on a port of its own, and finds out whether the page still answers. */
function useTalk(
  frame: React.RefObject<HTMLIFrameElement | null>,
  origin: string,
  on: boolean,
  sent: React.RefObject<number>,
  hear: (message: FromPage) => void,
) {
  const [silent, setSilent] = useState(false);
  const port = useRef<MessagePort>(undefined);
  const heard = useRef(0);
  const current = useRef(hear);
  useEffect(() => {
    current.current = hear;
  });
  useEffect(() => {
    if (!on) {
      port.current = undefined;
      setSilent(false);
    }
  }, [on]);
  useEffect(() => {
    const meet = (e: MessageEvent<{ arvel?: unknown; since?: unknown } | undefined>) => {
      const shown = frame.current?.contentWindow;
      if (!origin || e.origin !== origin || e.data?.arvel !== "ready" || !shown || !within(e.source, shown)) return;
      const since = Number(e.data.since);
      const { port1, port2 } = new MessageChannel();
      port1.onmessage = ({ data }) => {
        if (e.source === frame.current?.contentWindow) heard.current = performance.now();
        if (since < sent.current - clocks) return; // the page is being left
        const message = fromPage(data);
        if (message && message.arvel !== "alive") current.current(message);
      };
      if (e.source === shown) {
        port.current = port1;
        heard.current = performance.now();
        setSilent(false);
      }
      (e.source as Window).postMessage({ arvel: "hello" }, origin, [port2]);
    };
    window.addEventListener("message", meet);
    const timer = setInterval(() => {
      if (!port.current || document.hidden) {
        heard.current = performance.now();
        return;
      }
      port.current.postMessage({ arvel: "alive" } satisfies ToPage);
      setSilent(performance.now() - heard.current > patience);
    }, askEvery);
    return () => {
      window.removeEventListener("message", meet);
      clearInterval(timer);
    };
  }, [frame, origin, sent]);
  const tell = useCallback((message: ToPage) => port.current?.postMessage(message), []);
  return { tell, silent };
}

/** Whether a window is the frame's, or in it. */
function within(source: MessageEventSource | null, frame: Window): boolean {
  for (let at = source as Window | null; at && "parent" in at; at = at.parent) {
    if (at === frame) return true;
    if (at.parent === at) return false;
  }
  return false;
}

/** What a click came to that leads nowhere, or out of the folder. */
function Outcome({ clicked, onClose }: { clicked: Clicked; onClose: () => void }) {
  const { reference, follows } = clicked;
  const { verb, where, note } = reference.destination;
  const web = /^https?:/.test(where);
  return (
    <div
      role="status"
      className={`flex shrink-0 items-baseline gap-2 border-b border-hairline px-edge py-1.5 text-small ${follows === "nowhere" ? "bg-broken-soft" : "bg-act-soft"}`}
    >
      <span className="min-w-0 flex-1">
        <span className="font-semibold">{reference.text || reference.written}</span> {verb}{" "}
        <span className="font-mono wrap-anywhere">{where}</span> {note}
        {follows === "nowhere" && ". It was not followed; why is said beside it."}
      </span>
      {web && (
        <a href={where} target="_blank" rel="noopener noreferrer" className="shrink-0 font-semibold text-act underline">
          go there
        </a>
      )}
      <TextButton onClick={onClose} className="shrink-0">
        close
      </TextButton>
    </div>
  );
}
