import { createContext } from "react";
import type { Offer } from "../api/client";

/** Pointing out the target of a link in the page itself. */
export interface Aim {
  /** What takes the target, while one is to be pointed out. */
  take: ((offer: Offer) => void) | undefined;
  set: (take: ((offer: Offer) => void) | undefined) => void;
}

export const AimContext = createContext<Aim>({ take: undefined, set: () => {} });
