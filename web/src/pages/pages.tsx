import { useMutation, useQueryClient } from "@tanstack/react-query";
import { useLocation, useSearch } from "@tanstack/react-router";
import { useCallback, useMemo, useRef, useState } from "react";
import { answer, api } from "../api/client";
import { useFolderId } from "../api/folder";
import type { Picked } from "../api/messages";
import { AimContext, type Take } from "../parts/aim";
import { FromColumn } from "../parts/from";
import { useSay } from "../parts/here";
import { useKeys } from "../parts/keys";
import type { Shown } from "../parts/shown";
import type { PagesSearch, See } from "../routes";
import { LandingColumn } from "./landing";
import { LinkColumn } from "./links";
import { LivePage } from "./live";

/** Pages: from, link, landing. Three columns that read as a sentence. */
export default function PagesView() {
  const folder = useFolderId();
  const search: PagesSearch = useSearch({ strict: false });
  const { state, way, rule, see } = search;
  const only = useMemo(() => ({ state, way, rule }), [state, way, rule]);
  const columns = useRef<HTMLDivElement>(null);
  const [picked, setPicked] = useState<Picked>();
  const [take, setTake] = useState<Take>();
  const set = useCallback((to: Take | undefined) => setTake(() => to), []);
  const aim = useMemo(() => ({ take, set }), [take, set]);
  const [shown, setShown] = useState<Shown>();
  const trail = useLocation({ select: (l) => l.state.trail });
  const queries = useQueryClient();
  const [problem, setProblem] = useState<unknown>();

  const go = useSay<PagesSearch>();
  const onPage = useCallback((page: string) => void go({ page, link: undefined }, true, []), [go]);
  /** Goes where a link leads, and keeps the way. */
  const follow = useCallback(
    (page: string, link?: string) => {
      setProblem(undefined);
      const same = page === search.page;
      const way = same || !search.page ? undefined : [...(trail ?? []), search.page];
      return go({ page, link }, same, way);
    },
    [go, search.page, trail],
  );
  const onEdited = useCallback(() => void go({ edit: undefined }), [go]);
  const onLink = useCallback(
    (link: string) => {
      setProblem(undefined);
      void go({ link });
    },
    [go],
  );

  const nextBroken = async (page: string, key: string | undefined, back: boolean) => {
    const query = { page, back, ...(key ? { key } : {}) };
    const next = await answer(api.GET("/folders/{folder}/next", { params: { path: { folder }, query } }));
    if (next.page && next.key) await go({ page: next.page, link: next.key });
  };

  const renew = () => queries.invalidateQueries({ queryKey: ["folder", folder] });
  const repair = useMutation({
    mutationFn: (body: { page: string; key: string; written: string }) =>
      answer(api.POST("/folders/{folder}/repairs", { params: { path: { folder } }, body })),
    onMutate: () => setProblem(undefined),
    onSuccess: async ({ key }, { page }) => {
      await go({ page, link: key });
      await renew();
    },
    onError: (error) => {
      setProblem(error);
      void renew();
    },
  });

  const chosen = useRef<(() => void) | undefined>(undefined);
  useKeys((key) => {
    if (key === "r" && chosen.current) {
      chosen.current();
      return true;
    }
    if (key === "ArrowLeft" || key === "ArrowRight") return focusBeside(columns.current, key === "ArrowRight" ? 1 : -1);
    if (key === "/") return focusFilter(columns.current);
    if (key === "Backspace" && trail?.length) {
      history.back();
      return true;
    }
    if ((key === "b" || key === "B") && search.page) {
      void nextBroken(search.page, search.link, key === "B");
      return true;
    }
    if (key === "e" && search.link) {
      void go({ see: "write", edit: true });
      return true;
    }
    if (key in sees) {
      void go({ see: sees[key] });
      return true;
    }
    return false;
  });

  return (
    <AimContext value={aim}>
      <div ref={columns} className={`grid min-h-0 flex-1 ${layouts[see ?? "links"]}`}>
        {see !== "write" && (
          <FromColumn
            page={search.page}
            only={only}
            onAll={() => go({ state: undefined, way: undefined, rule: undefined })}
            onPage={onPage}
          />
        )}
        <LinkColumn
          page={search.page}
          link={search.link}
          only={only}
          see={see}
          picked={picked}
          onSee={(to) => go({ see: to })}
          onFollow={follow}
          edit={search.edit === true}
          onEdited={onEdited}
          onShow={setShown}
          onLink={onLink}
        />
        {see === "write" && search.page && (
          <section aria-label="The page itself" className="flex min-h-0 flex-col">
            <LivePage
              page={search.page}
              link={undefined}
              onPage={(page) => follow(page)}
              onLink={(_, link) => void go({ link })}
              onPick={setPicked}
              shown={shown}
            />
          </section>
        )}
        {see !== "write" && (
          <LandingColumn
            page={search.page}
            link={search.link}
            problem={problem}
            busy={repair.isPending}
            chosen={chosen}
            onRepair={(page, key, written) => repair.mutate({ page, key, written })}
          />
        )}
      </div>
    </AimContext>
  );
}

const sees: Record<string, See | undefined> = { l: undefined, s: "source", w: "page", e: "write" };

// The page itself and its source want the room that a list leaves to the landing.
const layouts = {
  links: "grid-cols-[262px_minmax(340px,448px)_minmax(0,1fr)]",
  source: "grid-cols-[232px_minmax(0,1fr)_minmax(0,410px)]",
  page: "grid-cols-[232px_minmax(0,1fr)_minmax(0,410px)]",
  write: "grid-cols-2",
};

const stops = '[role="listbox"], [role="tree"], [data-stop]';

/** Moves the focus to the column beside the one it is in. */
function focusBeside(columns: HTMLElement | null, step: number): boolean {
  const all = [...(columns?.querySelectorAll<HTMLElement>(stops) ?? [])];
  const at = all.findIndex((stop) => stop.contains(document.activeElement));
  const to = all[at < 0 ? 0 : Math.min(all.length - 1, Math.max(0, at + step))];
  to?.focus();
  return to !== undefined;
}

/** Moves the focus to the filter of the column it is in. */
function focusFilter(columns: HTMLElement | null): boolean {
  const column = document.activeElement?.closest("section") ?? columns;
  const field = column?.querySelector<HTMLElement>('input[type="search"]');
  field?.focus();
  return field !== undefined;
}
