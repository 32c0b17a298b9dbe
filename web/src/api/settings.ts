import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { answer, api, type Settings } from "./client";
import { useFolderId } from "./folder";

/** What is set for the folder, and how to set it. */
export function useSettings() {
  const folder = useFolderId();
  const queries = useQueryClient();
  const asked = useQuery({
    queryKey: ["folder", folder, "settings"],
    queryFn: () => answer<Settings>(api.GET("/folders/{folder}/settings", { params: { path: { folder } } })),
  });
  const set = useMutation({
    mutationFn: (settings: Settings) =>
      answer(
        api.PUT("/folders/{folder}/settings", {
          params: { path: { folder } },
          body: {
            places: settings.places,
            published: settings.published,
            off: settings.off,
            indexNames: settings.indexNames,
            historyDays: settings.historyDays ?? 0,
            historyMegabytes: settings.historyMegabytes ?? 0,
          },
        }),
      ),
    onSettled: async () => {
      await queries.invalidateQueries({ queryKey: ["folder", folder] });
      await queries.invalidateQueries({ queryKey: ["preview", folder] });
    },
  });
  return { settings: asked.data, error: asked.error ?? set.error, busy: set.isPending, set: set.mutate };
}
