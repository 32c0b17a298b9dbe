import { createRootRoute, createRoute, createRouter, lazyRouteComponent, redirect } from "@tanstack/react-router";
import { pagesSearch } from "../routes";
import { Frame } from "./frame";

const root = createRootRoute();

const start = createRoute({
  getParentRoute: () => root,
  path: "/",
  component: lazyRouteComponent(() => import("../start/start")),
});

const folder = createRoute({ getParentRoute: () => root, path: "/folder/$folder", component: Frame });

const index = createRoute({
  getParentRoute: () => folder,
  path: "/",
  beforeLoad: ({ params }) => {
    throw redirect({ to: "/folder/$folder/overview", params });
  },
});

const overview = createRoute({
  getParentRoute: () => folder,
  path: "overview",
  component: lazyRouteComponent(() => import("../overview/overview")),
});

const pages = createRoute({
  getParentRoute: () => folder,
  path: "pages",
  validateSearch: pagesSearch,
  component: lazyRouteComponent(() => import("../pages/pages")),
});

const anchors = createRoute({
  getParentRoute: () => folder,
  path: "anchors",
  validateSearch: (s: Record<string, unknown>): { page?: string } =>
    typeof s.page === "string" ? { page: s.page } : {},
  component: lazyRouteComponent(() => import("../anchors/anchors")),
});

const repairs = createRoute({
  getParentRoute: () => folder,
  path: "repairs",
  validateSearch: (s: Record<string, unknown>): { cause?: string } =>
    typeof s.cause === "string" ? { cause: s.cause } : {},
  component: lazyRouteComponent(() => import("../repairs/repairs")),
});

const moves = createRoute({
  getParentRoute: () => folder,
  path: "moves",
  validateSearch: (s: Record<string, unknown>): { lead?: string } =>
    typeof s.lead === "string" ? { lead: s.lead } : {},
  component: lazyRouteComponent(() => import("../moves/moves")),
});

const hosting = createRoute({
  getParentRoute: () => folder,
  path: "hosting",
  component: lazyRouteComponent(() => import("../hosting/hosting")),
});

const history = createRoute({
  getParentRoute: () => folder,
  path: "history",
  component: lazyRouteComponent(() => import("../history/history")),
});

/** What is shown instead of a view that failed. */
function Failed({ error }: { error: unknown }) {
  return (
    <div role="alert" className="m-8 max-w-[60ch]">
      <h1 className="text-head font-semibold">This view failed</h1>
      <p className="mt-2">
        Nothing on disk was touched by it. Reload the window; what you typed and did not save is still there.
      </p>
      <p className="mt-2 font-mono text-small text-second">{String(error)}</p>
    </div>
  );
}

export const router = createRouter({
  defaultErrorComponent: Failed,
  routeTree: root.addChildren([
    start,
    folder.addChildren([index, overview, pages, repairs, moves, anchors, hosting, history]),
  ]),
});

declare module "@tanstack/react-router" {
  interface Register {
    router: typeof router;
  }
}
