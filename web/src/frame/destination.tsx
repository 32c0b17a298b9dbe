import { useLocation } from "@tanstack/react-router";
import { createContext, type ReactNode, useContext, useEffect, useMemo, useRef, useState } from "react";
import type { Destination as Landing } from "../api/client";
import { LandingMark } from "../parts/mark";
import { Mono } from "../parts/words";

/** A reference, where it stands and where it lands. */
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
  /** What the pointer is on, or else what is selected. */
  shown: Pointed | undefined;
  point: (to: Pointed | undefined) => void;
  select: (to: Pointed | undefined) => void;
}

const DestinationContext = createContext<Destination>({ shown: undefined, point: () => {}, select: () => {} });
export const useDestination = () => useContext(DestinationContext);

export function DestinationProvider({ children }: { children: ReactNode }) {
  const view = useLocation({ select: (at) => at.pathname });
  const [pointed, point] = useState<In>();
  const [selected, select] = useState<In>();
  const set = useMemo(
    () => ({
      point: (to: Pointed | undefined) => point(to && { view, to }),
      select: (to: Pointed | undefined) => select(to && { view, to }),
    }),
    [view],
  );
  const value = useMemo(() => {
    // What another view said of its rows is not of this one.
    const here = (what: In | undefined) => (what?.view === view ? what.to : undefined);
    return { shown: here(pointed) ?? here(selected), ...set };
  }, [view, pointed, selected, set]);
  return <DestinationContext value={value}>{children}</DestinationContext>;
}

/** What lets a row tell where its reference lands while the pointer or the keyboard is on it. */
export function usePoint() {
  const { point } = useDestination();
  const last = useRef(point);
  useEffect(() => {
    last.current = point;
  });
  useEffect(() => () => last.current(undefined), []);
  return (to: Pointed | undefined) => ({
    onMouseEnter: () => point(to),
    onMouseLeave: () => point(undefined),
    onFocus: () => point(to),
    onBlur: () => point(undefined),
  });
}

/** Says in one line where the reference lands that is pointed at or selected. */
export function DestinationText() {
  const { shown } = useDestination();
  if (!shown) {
    return (
      <>
        <LandingMark state="sound" inherit />
        <span>Point at any link to read where it lands</span>
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
