import { Popover } from "radix-ui";
import { useLayoutEffect, useRef } from "react";

/** The keys, and what they do. Views that have more say so where they work. */
const keys: [string, string][] = [
  ["↑ ↓", "go through a list; Home, End and Page keys too"],
  ["← →", "go to the column beside it"],
  ["/", "filter the list"],
  ["R", "repair the selected reference as marked"],
  ["U, Shift U", "undo the last change, do it again"],
  ["B", "go to the next broken reference on the page"],
  ["L S W E", "see a page's links, its source, the page itself; write in it"],
  ["Ctrl S, Ctrl K", "while writing: save; make or change a link"],
  ["C", "in Repairs: repair all that is certain"],
  ["Space", "choose what is selected, or leave it out"],
  ["D", "in Repairs: the files’ diff"],
  ["E, M, Delete", "in Moves: rename what is selected, name the place it moves to, see what deleting it breaks"],
  ["G, then F O P R M A T H", "go to the folders, Overview, Pages, Repairs, Moves, Anchors, Hosting, History"],
  ["?", "this list"],
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

export function KeyList({ open, onOpen }: { open: boolean; onOpen: (open: boolean) => void }) {
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
          className="z-10 w-[400px] border border-hairline bg-paper p-4 text-ink shadow-lg"
        >
          <dl className="grid grid-cols-[110px_1fr] gap-y-1.5">
            {keys.map(([key, what]) => (
              <div key={key} className="contents">
                <dt className="font-mono text-small">{key}</dt>
                <dd className="text-second">{what}</dd>
              </div>
            ))}
          </dl>
        </Popover.Content>
      </Popover.Portal>
    </Popover.Root>
  );
}
