import { useNavigate } from "@tanstack/react-router";
import type { KeyboardEvent } from "react";
import { useFolderId } from "../api/folder";

/** What lets a link to a reference be changed where it is written, with the key E. */
export function useEditKey() {
  const folder = useFolderId();
  const navigate = useNavigate();
  return (page: string, link: string) => ({
    onKeyDown: (e: KeyboardEvent) => {
      if (e.key !== "e" || e.ctrlKey || e.metaKey) return;
      e.preventDefault();
      e.stopPropagation();
      void navigate({
        to: "/folder/$folder/pages",
        params: { folder: String(folder) },
        search: { page, link, see: "write", edit: true },
      });
    },
  });
}
