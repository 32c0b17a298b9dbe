import type { ComponentProps } from "react";

interface Props extends ComponentProps<"input"> {
  /** The attribute that is filled in, or words. */
  place: string;
  value: string;
  /** The fewest letters that there is room for. */
  least?: number;
}

/** A place in the line that is edited where it is: as wide as what is in it. */
export function Place({ place, value, least = 3, className = "", ...rest }: Props) {
  return (
    <input
      data-place={place}
      value={value}
      autoComplete="off"
      spellCheck={place === "words" || place === "alt" || place === "title"}
      style={{ width: `${Math.max(value.length, least) + 0.6}ch` }}
      className={`max-w-full border-b-2 border-act bg-paper px-[0.15em] font-mono focus:bg-act-soft ${className}`}
      {...rest}
    />
  );
}

/** Something that can be added to the line. */
export function Add({ children, onClick }: { children: string; onClick: () => void }) {
  return (
    <button
      type="button"
      onClick={onClick}
      className="ml-2 border-b border-dashed border-act font-sans text-small text-act hover:border-solid"
    >
      + {children}
    </button>
  );
}
