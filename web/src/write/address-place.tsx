import { Mono, Sentence } from "../parts/words";
import type { Address } from "./address";
import { Place } from "./place";

/** The place of an address in the line. What can be chosen is listed by [Offers]. */
export function AddressPlace({ address, place, label }: { address: Address; place: string; label: string }) {
  const { combobox, type, settle } = address;
  const { value, ...input } = combobox.getInputProps({
    "aria-label": label,
    onChange: (e) => type(e.currentTarget.value),
    onBlur: (e) => withoutItsOwn(e.nativeEvent),
    onKeyDown: (e) => {
      // Enter and Escape are the line's; Home and End are the text's.
      if (["Enter", "Escape", "Home", "End"].includes(e.key)) withoutItsOwn(e.nativeEvent);
      if (e.key === "Tab") settle();
    },
  });
  return <Place {...input} place={place} value={String(value)} least={8} />;
}

/** Keeps the combobox from doing what it does by itself. */
function withoutItsOwn(e: Event) {
  (e as Event & { preventDownshiftDefault?: boolean }).preventDownshiftDefault = true;
}

/** What the address can be. */
export function Offers({ address }: { address: Address }) {
  const { combobox, items, at } = address;
  return (
    <ul
      {...combobox.getMenuProps({ "aria-label": "What it can lead to" })}
      className={items.length > 0 ? "mt-1 ml-8 max-h-40 max-w-[640px] overflow-y-auto border-l-2 border-act" : ""}
    >
      {items.map((item, index) => (
        <li
          key={`${item.written} ${item.title} ${item.typed}`}
          {...combobox.getItemProps({ item, index })}
          className={`flex cursor-default items-baseline gap-3 px-2.5 py-0.5 ${index === at ? "bg-paper" : "text-second hover:text-ink"}`}
        >
          <span className={`min-w-0 flex-1 ${item.why ? "" : "truncate"}`}>
            <Sentence text={wordsOf(item)} />
          </span>
          <Mono className="max-w-[60%] truncate text-small">{item.written}</Mono>
        </li>
      ))}
    </ul>
  );
}

function wordsOf({ typed, why, title }: Address["items"][number]): string {
  if (typed) return title ? `as typed: ${title}` : "as typed";
  if (why) return `Did you mean this? ${why[0]?.toUpperCase()}${why.slice(1)}.`;
  return title;
}
