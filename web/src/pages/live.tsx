import { useQuery, useQueryClient } from "@tanstack/react-query";
import { useLocation } from "@tanstack/react-router";
import { startTransition, useCallback, useContext, useEffect, useRef, useState } from "react";
import { answer, api, type Reference, type Span } from "../api/client";
import { useFolderId, useLive } from "../api/folder";
import type { Picked } from "../api/messages";
import { AimContext } from "../parts/aim";
import { Button, Trouble } from "../parts/controls";
import { useDestination } from "../parts/destination";
import { Check } from "../parts/fields";
import type { Shown } from "../parts/shown";
import { Mono } from "../parts/words";
import { type Clicked, Outcome } from "./outcome";
import { useTalk } from "./talk";
import { Trail } from "./trail";

interface Props {
  page: string;
  link: string | undefined;
  /** Shows a page; done when it is shown, or another one is. */
  onPage: (path: string) => Promise<void>;
  onLink: (page: string, key: string) => void;
  /** Words or a picture were selected in the page. */
  onPick?: (what: Picked) => void;
  /** The page as it is being written. */
  shown?: Shown | undefined;
}

const none: string[] = [];

/** The page itself, live, as the chosen place serves it. A click follows a link, and the interface follows along. */
export function LivePage({ page, link, onPage, onLink, onPick, shown }: Props) {
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
  /** How many pages that were gone to in the frame the interface has not followed to yet. */
  const following = useRef(0);
  /** Counts the pages that were gone to in the frame. */
  const [gone, setGone] = useState(0);
  const [marks, setMarks] = useState(true);
  const [clicked, setClicked] = useState<Clicked>();
  const { point } = useDestination();
  const origin = data ? new URL(data.address).origin : "";
  /** The address of the page in the preview. */
  const own = data && data.enter + encodeURIComponent(page.split("/").map(encodeURIComponent).join("/"));
  const aim = useContext(AimContext);
  const trail = useLocation({ select: (l) => l.state.trail }) ?? none;
  const aiming = aim.take !== undefined;
  const writing = useRef(shown);
  /** The text of the page's file as it is shown in the frame, and whether another one was put there since. */
  const file = useRef<{ page: string; text: string; changed: boolean }>(undefined);
  /** The page that is put away since it no longer answered. */
  const [away, setAway] = useState<string>();

  /** What is known of the references of a page, by key: pages only name them. */
  const referenceOf = useCallback(
    async (of: string, key: string): Promise<Reference | undefined> => {
      const written = writing.current?.page === of ? writing.current.spans : undefined;
      if (written) return written.find((span) => span.reference.key === key)?.reference;
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
    if (id) {
      aim.take?.(`${target}#${id}`);
      return;
    }
    const query = { page: target };
    const { landmarks } = await answer(api.GET("/folders/{folder}/outline", { params: { path: { folder }, query } }));
    const mark = landmarks.find((l) => l.line > 0 && l.level > 0 && l.text === text);
    if (mark) aim.take?.(`${target}#${mark.name}`, mark.name ? undefined : mark.text);
  };

  const { tell, silent } = useTalk(frame, origin, away === undefined, sent, (message) => {
    switch (message.arvel) {
      case "at": {
        const was = at.current;
        at.current = message.page;
        tell({ arvel: "marks", shown: marks });
        if (file.current) file.current.changed = false;
        void write();
        if (link) tell({ arvel: "select", key: link });
        if (aiming) tell({ arvel: "aim", on: true });
        else if (message.page && message.page !== page && message.page !== was) {
          const to = message.page;
          setClicked(undefined);
          following.current++;
          void has(to)
            .then((there) => (there && at.current === to ? onPage(to) : undefined))
            .catch(() => {}) // it is gone by now
            .then(() => {
              following.current--;
              startTransition(() => setGone((n) => n + 1));
            });
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
      case "aimed-picture":
        void referenceOf(message.page, message.key)
          .then((found) => found && aim.take?.(found.destination.where))
          .catch(() => {}); // the page was changed in the meantime
        break;
      case "back":
        if (trail.length > 0) history.back();
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

  /** Shows the page as it is being written, or as it is in its file again. */
  const write = async () => {
    const now = writing.current;
    if (at.current !== page || (now && now.page !== page)) return;
    if (!now?.unsaved && !file.current?.changed && !now?.key) return;
    if (file.current?.page !== page || !file.current.changed) {
      const query = { page };
      const { text } = await answer(api.GET("/folders/{folder}/source", { params: { path: { folder }, query } }));
      if (at.current !== page || writing.current !== now) return;
      file.current = { page, text, changed: false };
    }
    if (now) {
      tell({ arvel: "text", was: file.current.text, text: now.text, marks: now.marks });
      tell({ arvel: "select", key: now.key ?? "" });
      file.current.changed = true;
    } else {
      file.current = undefined;
      tell({ arvel: "renew", paths: [page] });
    }
  };
  // biome-ignore lint/correctness/useExhaustiveDependencies: told when what is written changes
  useEffect(() => {
    writing.current = shown;
    void write().catch(() => {}); // the next letter sends it again
  }, [shown]);

  // The page that is chosen elsewhere is opened here, unless the click that chose it was made in the frame. It takes the
  // place of the one before, so that Back is the interface's. Who went back at once, before the interface had followed,
  // is back here too.
  // biome-ignore lint/correctness/useExhaustiveDependencies: told when another page was gone to
  useEffect(() => {
    const shown = frame.current;
    if (aiming || !own || !shown || away !== undefined || at.current === page || following.current > 0) return;
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
        <Check
          label="mark links"
          on={marks}
          onTick={(on) => {
            setMarks(on);
            tell({ arvel: "marks", shown: on });
          }}
        />
        <Trail trail={trail} page={page} />
        <span className="flex-1" />
        {own && (
          <a href={own} target="_blank" rel="noopener" className="text-act hover:underline">
            in a tab of its own
          </a>
        )}
      </div>
      {shown?.unsaved && (
        <p role="status" className="shrink-0 bg-act-soft px-edge py-1 text-small">
          The page as it would be with what you are writing
        </p>
      )}
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
