import { createRootRoute, createRoute, createRouter, lazyRouteComponent, redirect } from "@tanstack/react-router";

import { StudiesPage } from "./areas/studies/StudiesPage";
import { Empty } from "./ui/Notes";
import { Frame } from "./ui/Frame";

const text = (value: unknown) => (typeof value === "string" && value ? value : undefined);

const root = createRootRoute({
  component: Frame,
  notFoundComponent: () => <Empty title="There is no such page">The areas above lead on.</Empty>,
});
const home = createRoute({
  getParentRoute: () => root,
  path: "/",
  beforeLoad: () => {
    throw redirect({ to: "/studies" });
  },
});
const studies = createRoute({ getParentRoute: () => root, path: "/studies", component: StudiesPage });
const newStudy = createRoute({
  getParentRoute: () => root,
  path: "/studies/new",
  component: lazyRouteComponent(() => import("./areas/studies/NewStudyPage"), "NewStudyPage"),
});
const board = createRoute({
  getParentRoute: () => root,
  path: "/studies/$studyId/board",
  component: lazyRouteComponent(() => import("./areas/studies/BoardPage"), "BoardPage"),
});
const findings = createRoute({
  getParentRoute: () => root,
  path: "/studies/$studyId/findings",
  validateSearch: (s: Record<string, unknown>): { test?: string; quantity?: string; specimen?: string; run?: string } => ({
    test: text(s["test"]),
    quantity: text(s["quantity"]),
    specimen: text(s["specimen"]),
    run: text(s["run"]),
  }),
  component: lazyRouteComponent(() => import("./areas/studies/FindingsPage"), "FindingsPage"),
});
const bench = createRoute({
  getParentRoute: () => root,
  path: "/bench",
  validateSearch: (s: Record<string, unknown>): { test?: string; specimen?: string } => ({ test: text(s["test"]), specimen: text(s["specimen"]) }),
  component: lazyRouteComponent(() => import("./areas/bench/BenchPage"), "BenchPage"),
});
const choose = createRoute({
  getParentRoute: () => root,
  path: "/choose",
  validateSearch: (s: Record<string, unknown>): { use?: string } => ({ use: text(s["use"]) }),
  component: lazyRouteComponent(() => import("./areas/choose/ChoosePage"), "ChoosePage"),
});

export const router = createRouter({
  routeTree: root.addChildren([home, studies, newStudy, board, findings, bench, choose]),
  defaultPreload: "intent",
});

declare module "@tanstack/react-router" {
  interface Register {
    router: typeof router;
  }
}
