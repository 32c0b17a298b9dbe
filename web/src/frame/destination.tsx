import { createContext, type ReactNode, useContext, useMemo, useState } from "react";
import type { Reference } from "../api/client";
import { LandingMark } from "../parts/mark";
import { Mono } from "../parts/words";

/** A reference and the page it stands on. */
export interface Pointed {
  page: string;
  reference: Reference;
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
  const [pointed, point] = useState<Pointed>();
  const [selected, select] = useState<Pointed>();
  const value = useMemo(() => ({ shown: pointed ?? selected, point, select }), [pointed, selected]);
  return <DestinationContext value={value}>{children}</DestinationContext>;
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
  const { verb, where, note } = shown.reference.destination;
  return (
    <>
      <LandingMark state={shown.reference.state} inherit />
      <Mono className="truncate">{shown.page}</Mono>
      <span className="shrink-0 text-on-line-second">line {shown.reference.line}</span>
      <Mono className="truncate">{shown.reference.written}</Mono>
      <span className="shrink-0 text-on-line-second">{verb}</span>
      <Mono className="truncate">{where}</Mono>
      <span className="shrink-0 text-on-line-second">{note}</span>
    </>
  );
}
