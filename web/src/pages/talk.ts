import { useCallback, useEffect, useRef, useState } from "react";
import { type FromPage, fromPage, type ToPage } from "../api/messages";

/** How often a page is asked whether it is alive, and how long it may take to answer, in milliseconds. */
const askEvery = 1500;
const patience = 5000;

/** By how much the clocks of two pages may differ, in milliseconds. */
const clocks = 5;

/** Talks with the script in the pages of a frame, each on a port of its own, and finds out whether the page still answers. */
export function useTalk(
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
