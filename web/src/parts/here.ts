import { useMatch, useNavigate, useRouter } from "@tanstack/react-router";
import { useCallback } from "react";

/** The path of the view that asks, also while another one is already on its way. */
export const useHere = (): string => useMatch({ strict: false, select: (match) => match.pathname });

declare module "@tanstack/history" {
  interface HistoryState {
    /** The pages that were read on the way here, by following links. */
    trail?: string[];
  }
}

/**
 * Changes what the address says of a view. What ends after another view was opened does not bring this one back. A trail is
 * what is kept with the address as the way that was come; without one it stays.
 */
export function useSay<Search extends object>() {
  const here = useHere();
  const navigate = useNavigate();
  const router = useRouter();
  return useCallback(
    async (to: Search, replace = true, trail?: string[]) => {
      if (router.latestLocation.pathname !== here) return;
      await navigate({
        to: ".",
        search: (s: object) => ({ ...s, ...to }),
        replace,
        state: (now) => ({ ...now, ...(trail ? { trail } : {}) }),
      });
    },
    [here, navigate, router],
  );
}
