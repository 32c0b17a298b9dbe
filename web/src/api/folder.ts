import { useQuery, useQueryClient } from "@tanstack/react-query";
import { useParams } from "@tanstack/react-router";
import { setNonce } from "get-nonce";
import { createContext, useContext, useEffect, useState } from "react";
import { answer, api, type Folder, type FolderEvent, forgetToken, type Work } from "./client";

/** The id of the folder that the address names. */
export function useFolderId(): number {
  const { folder } = useParams({ strict: false });
  return Number(folder);
}

/** What the interface begins with. */
export function useSession() {
  return useQuery({
    queryKey: ["session"],
    queryFn: async () => {
      const session = await answer(api.GET("/session"));
      setNonce(session.nonce); // for the styles of what opens over the view
      return session;
    },
  });
}

/** The state of the open folder. */
export function useFolder() {
  const folder = useFolderId();
  return useQuery({
    queryKey: ["folder", folder, "status"],
    queryFn: () => answer<Folder>(api.GET("/folders/{folder}", { params: { path: { folder } } })),
    // The answer itself says how far it is. Events only bring the next one sooner.
    refetchInterval: ({ state }) => (state.data?.state === "ready" ? false : pollEvery),
  });
}

/** How often a folder that is being read, or can't be, is asked for, in milliseconds. */
const pollEvery = 1000;

/** What is known of the folder at this moment besides its data. */
export interface Live {
  /** Whether the server answers. */
  connected: boolean;
  /** The last change on disk. */
  last?: { event: FolderEvent; at: number };
  /** Pages read so far, while the folder is read. */
  progress?: { read: number; total: number };
  /** Something long that is being done. */
  work?: Work | undefined;
  /** Since when the server answers, in milliseconds; 0 from the start. */
  since: number;
}

export const LiveContext = createContext<Live>({ connected: true, since: 0 });
export const useLive = () => useContext(LiveContext);

/** Listens to the folder's events and renews what is shown when something changed. */
export function useEvents(folder: number): Live {
  const [live, setLive] = useState<Live>({ connected: true, since: 0 });
  const queries = useQueryClient();
  useEffect(() => {
    let source: EventSource | undefined;
    let timer: ReturnType<typeof setTimeout> | undefined;
    let lost = false;
    const queryKey = ["folder", folder];
    const renew = () => {
      // What is asked for the first time may be answered from before the event, and is not asked for again by renewing.
      for (const query of queries.getQueryCache().findAll({ queryKey, fetchStatus: "fetching" })) {
        if (query.state.data !== undefined) continue;
        const again = () => void queries.invalidateQueries({ queryKey: query.queryKey, exact: true });
        query.promise?.then(again, again);
      }
      return queries.invalidateQueries({ queryKey });
    };
    const connect = () => {
      source = new EventSource(`/api/v1/folders/${folder}/events`);
      source.onopen = () => {
        if (lost) forgetToken();
        setLive((l) => ({ ...l, connected: true, since: lost ? Date.now() : l.since }));
        lost = false;
        void renew(); // what happened before the stream stood
      };
      source.onerror = () => {
        lost = true;
        setLive((l) => ({ ...l, connected: false }));
        source?.close();
        timer = setTimeout(connect, 1000);
      };
      source.onmessage = (message) => {
        const event = JSON.parse(message.data) as FolderEvent;
        if (event.kind === "progress") {
          setLive((l) => ({ ...l, progress: { read: event.read ?? 0, total: event.total ?? 0 } }));
          return;
        }
        if (event.kind === "working") {
          const { work } = event;
          setLive((l) => ({ ...l, work: work && work.done < work.total ? work : undefined }));
          return;
        }
        setLive(({ connected, since, work }) => ({ connected, since, work, last: { event, at: Date.now() } }));
        void renew();
      };
    };
    connect();
    return () => {
      clearTimeout(timer);
      source?.close();
    };
  }, [folder, queries]);
  return live;
}
