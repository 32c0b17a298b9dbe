import { useLocation } from "@tanstack/react-router";
import { Popover } from "radix-ui";
import { useLayoutEffect, useRef } from "react";

/** The keys of each view, and those of all of them. */
const keys: { view?: string; keys: [string, string][] }[] = [
  {
    view: "pages",
    keys: [
      ["Enter", "follow the link: to its page, or outside in your browser"],
      ["E", "change the link where it is written"],
      ["R", "repair the selected link as marked"],
      ["B, Shift B", "go to the next broken reference, or the one before, on to other pages"],
      ["L S W", "see the page’s links, its source, the page itself"],
      ["Backspace", "go back the way you came"],
      ["Ctrl E", "while writing: a link here, or something else"],
      ["Ctrl S", "while writing: save"],
    ],
  },
  {
    view: "repairs",
    keys: [
      ["C", "repair all that is certain"],
      ["R", "repair what the cause explains"],
      ["Space", "leave a reference out, or take it in again"],
      ["Enter", "look at a reference on its page"],
      ["E", "change it where it is written"],
      ["D", "show the files’ diff"],
    ],
  },
  {
    view: "moves",
    keys: [
      ["Space", "choose what is selected, or leave it out"],
      ["E", "rename it"],
      ["M", "name the place it moves to"],
      ["Delete", "see what deleting it breaks"],
    ],
  },
  { view: "anchors", keys: [["E", "on a link that leads there: change it where it is written"]] },
  {
    keys: [
      ["↑ ↓", "go through a list; Home, End and Page keys too"],
      ["← →", "go to the column beside"],
      ["/", "filter the list"],
      ["U, Shift U", "undo the last change, redo it"],
      ["G, then F O P R M A T H", "go to the folders, Overview, Pages, Repairs, Moves, Anchors, Hosting, History"],
      ["?", "this list"],
    ],
  },
];

/** What a key does in the view at hand; true if it was used. */
export type KeyHandler = (key: string) => boolean;

/** Hands keys that are typed outside of a field to the handler, once each. A key counts as soon as what it does can be read. */
export function useKeys(handler: KeyHandler): void {
  const current = useRef(handler);
  useLayoutEffect(() => {
    current.current = handler;
  });
  useLayoutEffect(() => {
    const press = (e: KeyboardEvent) => {
      if (e.defaultPrevented || e.repeat || isTyped(e)) return;
      if (current.current(e.key)) e.preventDefault();
    };
    window.addEventListener("keydown", press);
    return () => window.removeEventListener("keydown", press);
  }, []);
}

/** How long a chord waits for its second key, in milliseconds. */
const chordWaits = 1200;

/** Whether a key is typed into a field, or means something to the browser. */
const isTyped = (e: KeyboardEvent) =>
  e.ctrlKey ||
  e.metaKey ||
  e.altKey ||
  (e.target instanceof HTMLElement && e.target.closest("input, textarea, select, [contenteditable]") !== null);

/**
 * A chord: `first`, then a key that `second` uses. The chord ends with the next key, whatever it is, or when its time is
 * over. Its second key is taken before any view sees it.
 */
export function useChord(first: string, second: KeyHandler): void {
  const current = useRef(second);
  useLayoutEffect(() => {
    current.current = second;
  });
  useLayoutEffect(() => {
    let open = false;
    let timer: ReturnType<typeof setTimeout> | undefined;
    const press = (e: KeyboardEvent) => {
      const wasOpen = open;
      open = false;
      clearTimeout(timer);
      if (isTyped(e)) return;
      if (wasOpen && current.current(e.key)) {
        e.preventDefault();
        e.stopPropagation();
      } else if (e.key === first) {
        open = true;
        timer = setTimeout(() => {
          open = false;
        }, chordWaits);
      }
    };
    window.addEventListener("keydown", press, true);
    return () => {
      clearTimeout(timer);
      window.removeEventListener("keydown", press, true);
    };
  }, [first]);
}

/** The keys, those of the view at hand first. */
export function KeyList({ open, onOpen }: { open: boolean; onOpen: (open: boolean) => void }) {
  const view = useLocation({ select: (at) => at.pathname.split("/")[3] ?? "" });
  const shown = keys.filter((group) => group.view === undefined || group.view === view);
  return (
    <Popover.Root open={open} onOpenChange={onOpen}>
      <Popover.Trigger
        aria-label="Keys"
        className="rounded-[4px] border border-on-line-second px-1.5 font-mono text-tiny hover:border-on-line"
      >
        ?
      </Popover.Trigger>
      <Popover.Portal>
        <Popover.Content
          side="top"
          align="end"
          sideOffset={10}
          aria-label="Keys"
          className="z-10 w-[440px] border border-hairline bg-paper p-4 text-ink shadow-lg"
        >
          {shown.map((group) => (
            <section key={group.view ?? "all"} className="mb-3 last:mb-0">
              <h2 className="mb-1 text-small font-semibold">{group.view ? "In this view" : "Everywhere"}</h2>
              <dl className="grid grid-cols-[120px_1fr] gap-y-1">
                {group.keys.map(([key, what]) => (
                  <div key={key} className="contents">
                    <dt className="font-mono text-small">{key}</dt>
                    <dd className="text-second">{what}</dd>
                  </div>
                ))}
              </dl>
            </section>
          ))}
        </Popover.Content>
      </Popover.Portal>
    </Popover.Root>
  );
}
