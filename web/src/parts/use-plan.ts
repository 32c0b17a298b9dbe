import { keepPreviousData, useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import type { Plan } from "../api/client";
import { useFolderId } from "../api/folder";
import { useKeys } from "./keys";

interface Wanted {
  /** What tells the plan from others. */
  key: unknown[];
  /** Asks what follows, or carries it out and says what was done. */
  ask: (carry: boolean) => Promise<Plan>;
  /** Whether there is anything to plan. */
  wanted: boolean;
  onDone: (done: Plan["done"]) => void;
}

/** What follows from something before it happens, and how it is carried out: by its button, or by R. */
export function usePlan({ key, ask, wanted, onDone }: Wanted) {
  const folder = useFolderId();
  const queries = useQueryClient();
  const { data, error, isPlaceholderData } = useQuery({
    queryKey: ["folder", folder, "plan", ...key],
    queryFn: () => ask(false),
    enabled: wanted,
    ...(wanted ? { placeholderData: keepPreviousData } : {}),
    retry: false,
  });
  const carry = useMutation({
    mutationFn: () => ask(true),
    onSuccess: ({ done }) => onDone(done),
    onSettled: () => queries.invalidateQueries({ queryKey: ["folder", folder] }),
  });
  const plan = wanted ? data : undefined;
  const ready = plan !== undefined && !isPlaceholderData && plan.clashes.length === 0 && !carry.isPending;
  useKeys((pressed) => {
    if (pressed !== "r" || !ready) return false;
    carry.mutate();
    return true;
  });
  return { plan, error: carry.error ?? error, carry: () => carry.mutate(), ready };
}
