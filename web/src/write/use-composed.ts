import { keepPreviousData, useQuery } from "@tanstack/react-query";
import { answer, api, type Composed, type Composing } from "../api/client";
import { useFolderId } from "../api/folder";

/** What is to be written, but for the page and its text. */
export type Wanted = Omit<Composing, "page" | "text">;

/** Works out what is to be written, as often as what is wanted changes. */
export function useComposed(page: string, text: string, wanted: Wanted) {
  const folder = useFolderId();
  return useQuery({
    queryKey: ["folder", folder, "composed", page, text, wanted],
    queryFn: () =>
      answer<Composed>(
        api.POST("/folders/{folder}/compose", { params: { path: { folder } }, body: { page, text, ...wanted } }),
      ),
    placeholderData: keepPreviousData,
    retry: false,
  });
}
