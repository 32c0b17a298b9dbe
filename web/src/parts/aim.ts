import { createContext } from "react";

/** Takes a target that was pointed out in the page itself: a path with its fragment, and the words of a heading without an id. */
export type Take = (target: string, heading?: string) => void;

/** Pointing out the target of a link in the page itself. */
export interface Aim {
  /** What takes the target, while one can be pointed out. */
  take: Take | undefined;
  set: (take: Take | undefined) => void;
}

export const AimContext = createContext<Aim>({ take: undefined, set: () => {} });
