import { useQuery, useQueryClient } from "@tanstack/react-query";
import { useParams } from "@tanstack/react-router";
import { createContext, useContext, useEffect, useState } from "react";
import { answer, api, type Folder, type FolderEvent, forgetToken } from "./client";

/** The id of the folder that the address names. */
export function useFolderId(): number {
  const { folder } = useParams({ strict: false });
  return Number(folder);
}

/** What the interface begins with. */
export function useSession() {
  return useQuery({ queryKey: ["session"], queryFn: () => answer(api.GET("/session")) });
}

/** How the open folder stands. */
export function useFolder() {
  const folder = useFolderId();
  return useQuery({
    queryKey: ["folder", folder, "status"],
    queryFn: () => answer<Folder>(api.GET("/folders/{folder}", { params: { path: { folder } } })),
  });
}

/** What is known of the folder at this moment besides its data. */
export interface Live {
  /** Whether the server answers. */
  connected: boolean;
  /** The last change on disk. */
  last?: { event: FolderEvent; at: number };
  /** Pages read so far, while the folder is read. */
  progress?: { read: number; total: number };
}

export const LiveContext = createContext<Live>({ connected: true });
export const useLive = () => useContext(LiveContext);

/** Listens to the folder's events and renews what is shown when something changed. */
export function useEvents(folder: number): Live {
  const [live, setLive] = useState<Live>({ connected: true });
  const queries = useQueryClient();
  useEffect(() => {
    let source: EventSource | undefined;
    let timer: ReturnType<typeof setTimeout> | undefined;
    let lost = false;
    const renew = () => queries.invalidateQueries({ queryKey: ["folder", folder] });
    const connect = () => {
      source = new EventSource(`/api/v1/folders/${folder}/events`);
      source.onopen = () => {
        if (lost) forgetToken();
        lost = false;
        setLive((l) => ({ ...l, connected: true }));
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
        setLive((l) => ({ connected: l.connected, last: { event, at: Date.now() } }));
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
