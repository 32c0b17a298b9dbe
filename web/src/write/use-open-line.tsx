import type { EditorView } from "@codemirror/view";
import { useCallback, useEffect, useRef, useState } from "react";
import type { Writable } from "../api/client";
import { keepInGap, setGap } from "./gap";

/** Where a line is open: the selection that it is written in, in the text as it was. */
export interface Opened {
  text: string;
  from: number;
  to: number;
  what?: Writable;
  file?: File;
  /** Tells one opening from the next. */
  id: number;
  /** Counts how often its choices were asked for. */
  turn: number;
}

/** Opens and closes a line in the source, and keeps its room as high as it is. */
export function useOpenLine(view: React.RefObject<EditorView | undefined>) {
  const [opened, setOpened] = useState<Opened>();
  const panel = useRef<HTMLDivElement>(null);
  const count = useRef(0);

  const open = useCallback(
    (at?: { from: number; to: number; what?: Writable; file?: File }) => {
      const v = view.current;
      if (!v) return;
      const { from, to } = at ?? v.state.selection.main;
      const text = v.state.doc.toString();
      setOpened((now) => {
        if (now && !at && now.from === from && now.to === to && now.text === text)
          return { ...now, turn: now.turn + 1 };
        count.current++;
        return { ...at, text, from, to, id: count.current, turn: 0 };
      });
    },
    [view],
  );
  const isOpen = useRef(false);
  isOpen.current = opened !== undefined;
  /** Closes it, and gives the focus back to the source; where none is open, the focus stays where it is. */
  const close = useCallback(() => {
    if (!isOpen.current) return;
    isOpen.current = false;
    setOpened(undefined);
    view.current?.focus();
  }, [view]);

  useEffect(() => {
    const v = view.current;
    const at = panel.current;
    if (!v || !at || !opened) return;
    const { from, to } = opened;
    let height = 0;
    const fit = () => {
      if (at.offsetHeight === height) return;
      height = at.offsetHeight;
      v.dispatch({ effects: setGap.of({ from, to: Math.min(to, v.state.doc.length), height }) });
      // All of it is kept in view while it is filled in.
      requestAnimationFrame(() => at.scrollIntoView({ block: "nearest" }));
    };
    fit();
    const watch = new ResizeObserver(fit);
    watch.observe(at);
    const done = keepInGap(v, at);
    return () => {
      watch.disconnect();
      done();
      if (view.current === v) v.dispatch({ effects: setGap.of(undefined) });
    };
  }, [opened, view]);

  return { opened, open, close, panel };
}
