import { useMatch, useNavigate, useRouter } from "@tanstack/react-router";
import { useCallback } from "react";

/** The path of the view that asks, also while another one is already on its way. */
export const useHere = (): string => useMatch({ strict: false, select: (match) => match.pathname });

/** Changes what the address says of a view. What ends after another view was opened does not bring this one back. */
export function useSay<Search extends object>() {
  const here = useHere();
  const navigate = useNavigate();
  const router = useRouter();
  return useCallback(
    async (to: Search, replace = true) => {
      if (router.latestLocation.pathname !== here) return;
      await navigate({ to: ".", search: (s: object) => ({ ...s, ...to }), replace });
    },
    [here, navigate, router],
  );
}
