import { keepPreviousData, useQuery } from "@tanstack/react-query";
import { useCombobox } from "downshift";
import { useState } from "react";
import { answer, api, type Meant, type Offer } from "../api/client";
import { useFolderId } from "../api/folder";

/** Something that the address can be, to choose from. */
export interface Choosable {
  /** What is written for it. */
  written: string;
  title: string;
  /** Why it is offered, in place of what was typed. */
  why?: string;
  /** The heading that it leads to is given an id. */
  heading?: string;
  /** It is what was typed. */
  typed?: boolean;
}

/** Whether something typed is an address or a path, rather than part of a name. */
const isAddress = (typed: string) => typed === "" || /[./#?:@\\%&=]/.test(typed);

interface Asked {
  page: string;
  text: string;
  /** The element that the address is written in, which tells what fits. */
  element: string;
  value: string;
  meant: Meant[];
  on: boolean;
  onType: (value: string, heading?: string) => void;
}

/**
 * The place of an address: what was typed, and what can be chosen in place of it. What looks like an address stays what was
 * typed unless something else is chosen; part of a name or a title stands for the first that fits it.
 */
export function useAddress({ page, text, element, value, meant, on, onType }: Asked) {
  const folder = useFolderId();
  const [pick, setPick] = useState<number>();
  const { data, isPlaceholderData } = useQuery({
    queryKey: ["folder", folder, "offers", page, element, value, text],
    queryFn: () =>
      answer<Offer[]>(
        api.POST("/folders/{folder}/offers", { params: { path: { folder } }, body: { page, text, value, element } }),
      ),
    placeholderData: keepPreviousData,
    enabled: on,
  });
  const offers: Choosable[] = (data ?? []).map((o) => ({
    written: o.written,
    title: o.title || o.name,
    ...(o.needsId ? { heading: o.title } : {}),
  }));
  // Part of a name is understood as one; an address may be another than was meant.
  const better: Choosable[] = (isAddress(value) || offers.length === 0 ? meant : []).map((m) => ({
    written: m.value,
    title: "",
    why: m.why,
  }));
  const others = [...better, ...offers.filter((o) => !better.some((b) => b.written === o.written))];
  const same = others.find((o) => o.written === value);
  const items: Choosable[] = on
    ? [
        ...others.filter((o) => o.written !== value),
        ...(value === "" ? [] : [{ written: value, title: same?.title ?? "", typed: true, ...headingOf(same) }]),
      ]
    : [];
  const asTyped = items.length - (value === "" ? 0 : 1);
  const begin = isAddress(value) || same || others.length === 0 ? (value === "" ? -1 : asTyped) : 0;
  const at = pick ?? begin;
  const chosen = items[at];
  const take = (item: Choosable) => {
    setPick(undefined);
    onType(item.written, item.heading);
  };
  const combobox = useCombobox<Choosable>({
    items,
    isOpen: items.length > 0,
    inputValue: value,
    highlightedIndex: at,
    selectedItem: null,
    itemToString: (item) => item?.written ?? "",
    onHighlightedIndexChange: ({ type, highlightedIndex }) => {
      const keys: unknown[] = [
        useCombobox.stateChangeTypes.InputKeyDownArrowDown,
        useCombobox.stateChangeTypes.InputKeyDownArrowUp,
      ];
      if (keys.includes(type)) setPick(highlightedIndex);
    },
    onSelectedItemChange: ({ selectedItem }) => selectedItem && take(selectedItem),
  });
  return {
    combobox,
    items,
    at,
    /** What is written as the address, and the heading that is given an id for it. */
    effective: chosen?.written ?? value,
    heading: chosen?.heading,
    /** Whether what fits is known for what was typed last. */
    settled: !on || !isPlaceholderData,
    type: (to: string) => {
      setPick(undefined);
      onType(to);
    },
    /** Takes what is chosen as what was typed. */
    settle: () => chosen && !chosen.typed && take(chosen),
  };
}

const headingOf = (item: Choosable | undefined) => (item?.heading === undefined ? {} : { heading: item.heading });

export type Address = ReturnType<typeof useAddress>;
