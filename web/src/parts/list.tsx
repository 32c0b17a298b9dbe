import { useVirtualizer } from "@tanstack/react-virtual";
import { type ReactNode, useEffect, useId, useRef } from "react";

interface ListProps {
  label: string;
  total: number;
  /** The height of a row in pixels, before it is measured. */
  height: number;
  selected: number;
  onSelect: (index: number) => void;
  onSee: (first: number, last: number) => void;
  onPoint?: (index: number | undefined) => void;
  /** Keys that the list does not use itself, and the row that they are about. */
  onKey?: (key: string, index: number) => boolean;
  render: (index: number, selected: boolean) => ReactNode;
  /** What is shown above a row, if anything is. */
  above?: (index: number) => ReactNode;
  rowKey: (index: number) => string | number;
  /** Of a tree: how deep a row is, from 1, and whether it is open, if it can be. */
  branch?: (index: number) => { level: number; open?: boolean | undefined };
  /** Whether a row is ticked, where rows can be. */
  ticked?: (index: number) => boolean | undefined;
}

/** A list of any length, moved through by arrow keys, of which only what is in view is drawn. */
export function List(props: ListProps) {
  const { label, total, height, selected, onSelect, onSee, onPoint, onKey, render, above, rowKey, branch, ticked } =
    props;
  const scroller = useRef<HTMLDivElement>(null);
  const id = useId();
  const virtual = useVirtualizer({
    count: total,
    getScrollElement: () => scroller.current,
    estimateSize: () => height,
    getItemKey: rowKey,
    overscan: 6,
  });
  const items = virtual.getVirtualItems();
  const first = items[0]?.index ?? 0;
  const last = items.at(-1)?.index ?? 0;
  useEffect(() => onSee(first, last), [first, last, onSee]);
  // The selected row is brought into view when another one is selected, not whenever the list is renewed.
  const shown = useRef(-1);
  useEffect(() => {
    if (selected !== shown.current && selected >= 0 && selected < total) virtual.scrollToIndex(selected);
    shown.current = selected;
  }, [selected, total, virtual]);

  // Keys come faster than what they choose is known: each goes on from where the last one went.
  const asked = useRef<number[]>([]);
  useEffect(() => {
    asked.current = asked.current.slice(asked.current.indexOf(selected) + 1 || asked.current.length);
  }, [selected]);
  const move = (step: (from: number) => number) => {
    if (total === 0) return;
    const to = Math.min(total - 1, Math.max(0, step(asked.current.at(-1) ?? selected)));
    asked.current.push(to);
    onSelect(to);
  };
  return (
    // biome-ignore lint/a11y/noStaticElementInteractions: it is a list or a tree
    // biome-ignore lint/a11y/useAriaPropsSupportedByRole: it is a list or a tree
    <div
      ref={scroller}
      role={branch ? "tree" : "listbox"}
      aria-label={label}
      tabIndex={0}
      {...(selected >= first && selected <= last && total > 0 ? { "aria-activedescendant": `${id}-${selected}` } : {})}
      onKeyDown={(e) => {
        if (e.ctrlKey || e.metaKey || e.altKey) return;
        const step = steps(total)[e.key];
        if (step) move(step);
        if (step || onKey?.(e.key, asked.current.at(-1) ?? selected)) {
          e.preventDefault();
          e.stopPropagation();
        }
      }}
      onMouseLeave={() => onPoint?.(undefined)}
      className="min-h-0 flex-1 overflow-y-auto"
    >
      <div role="presentation" className="relative w-full" style={{ height: virtual.getTotalSize() }}>
        {items.map((item) => (
          <div
            key={item.key}
            role="presentation"
            data-index={item.index}
            ref={virtual.measureElement}
            className="absolute top-0 left-0 w-full"
            style={{ transform: `translateY(${item.start}px)` }}
          >
            {above?.(item.index)}
            {/* biome-ignore lint/a11y/useKeyWithClickEvents: the list takes the keys */}
            {/* biome-ignore lint/a11y/noStaticElementInteractions: it is an option, or an item of a tree */}
            {/* biome-ignore lint/a11y/useAriaPropsSupportedByRole: it is an option, or an item of a tree */}
            <div
              role={branch ? "treeitem" : "option"}
              {...branched(branch?.(item.index))}
              id={`${id}-${item.index}`}
              tabIndex={-1}
              aria-selected={item.index === selected}
              aria-checked={ticked?.(item.index)}
              aria-setsize={total}
              aria-posinset={item.index + 1}
              onClick={() => {
                asked.current.push(item.index);
                onSelect(item.index);
              }}
              onMouseEnter={() => onPoint?.(item.index)}
              className="cursor-default"
            >
              {render(item.index, item.index === selected)}
            </div>
          </div>
        ))}
      </div>
    </div>
  );
}

/** Where the keys go from a row of a list. */
const steps = (total: number): Record<string, (from: number) => number> => ({
  ArrowDown: (from) => from + 1,
  ArrowUp: (from) => from - 1,
  PageDown: (from) => from + 10,
  PageUp: (from) => from - 10,
  Home: () => 0,
  End: () => total - 1,
});

/** What is said of a row of a tree. */
const branched = (at: { level: number; open?: boolean | undefined } | undefined) =>
  at ? { "aria-level": at.level, "aria-expanded": at.open } : {};
