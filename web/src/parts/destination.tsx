import { useLocation } from "@tanstack/react-router";
import { createContext, type ReactNode, useContext, useEffect, useMemo, useState } from "react";
import type { Destination as Landing } from "../api/client";
import { useHere } from "./here";
import { LandingMark } from "./mark";
import { Mono } from "./words";

/** A reference, where it is written and where it lands. */
export interface Pointed {
  page: string;
  line: number;
  written: string;
  destination: Landing;
}

type Row = Omit<Pointed, "destination"> & { destination?: Landing };

/** What the line says of a row; nothing of one that is of no reference. */
export const pointed = (row: Row | undefined): Pointed | undefined =>
  row?.destination && { ...row, destination: row.destination };

/** What is pointed at in which view. */
interface In {
  view: string;
  to: Pointed;
}

interface Destination {
  /** The view that is shown now. */
  view: string;
  pointed: In | undefined;
  selected: In | undefined;
  point: (to: In | undefined) => void;
  select: (to: In | undefined) => void;
}

const nothing = () => {};
const DestinationContext = createContext<Destination>({
  view: "",
  pointed: undefined,
  selected: undefined,
  point: nothing,
  select: nothing,
});

/** How a view says what the pointer is on, and what is selected. What it says is shown while it is the view that is shown. */
export function useDestination() {
  const { point, select } = useContext(DestinationContext);
  const own = useHere(); // a view that is being left still says things
  return useMemo(
    () => ({
      point: (to: Pointed | undefined) => point(to && { view: own, to }),
      select: (to: Pointed | undefined) => select(to && { view: own, to }),
    }),
    [own, point, select],
  );
}

export function DestinationProvider({ children }: { children: ReactNode }) {
  const view = useLocation({ select: (at) => at.pathname });
  const [pointed, point] = useState<In>();
  const [selected, select] = useState<In>();
  const value = useMemo(() => ({ view, pointed, selected, point, select }), [view, pointed, selected]);
  return <DestinationContext value={value}>{children}</DestinationContext>;
}

/** What lets a row tell where its reference lands while the pointer or the keyboard is on it. */
export function usePoint() {
  const { point } = useDestination();
  useEffect(() => () => point(undefined), [point]);
  return (to: Pointed | undefined) => ({
    onMouseEnter: () => point(to),
    onMouseLeave: () => point(undefined),
    onFocus: () => point(to),
    onBlur: () => point(undefined),
  });
}

/** Says in one line where the reference lands that is pointed at or selected. */
export function DestinationText() {
  const { view, pointed, selected } = useContext(DestinationContext);
  const shown = [pointed, selected].find((said) => said?.view === view)?.to;
  if (!shown) {
    return (
      <>
        <LandingMark state="sound" inherit />
        <span>Point at any link to read where it leads</span>
      </>
    );
  }
  const { state, verb, where, note } = shown.destination;
  return (
    <>
      {state && <LandingMark state={state} inherit />}
      <Mono className="truncate">{shown.page}</Mono>
      {shown.line > 0 && <span className="shrink-0 text-on-line-second">line {shown.line}</span>}
      <Mono className="truncate">{shown.written}</Mono>
      <span className="shrink-0 text-on-line-second">{verb}</span>
      <Mono className="truncate">{where}</Mono>
      <span className="shrink-0 text-on-line-second">{note}</span>
    </>
  );
}
