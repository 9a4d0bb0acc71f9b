import { createRootRoute, createRoute, createRouter, lazyRouteComponent } from "@tanstack/react-router";

import { DayPage } from "./areas/day/DayPage";
import { StudiesPage } from "./areas/studies/StudiesPage";
import { Empty } from "./ui/Notes";
import { Frame } from "./ui/Frame";

const text = (value: unknown) => (typeof value === "string" && value ? value : undefined);

const root = createRootRoute({
  component: Frame,
  notFoundComponent: () => <Empty title="There is no such page">The areas above lead on.</Empty>,
});
const home = createRoute({ getParentRoute: () => root, path: "/", component: DayPage });
const stock = createRoute({
  getParentRoute: () => root,
  path: "/stock",
  component: lazyRouteComponent(() => import("./areas/stock/StockPage"), "StockPage"),
});
const material = createRoute({
  getParentRoute: () => root,
  path: "/stock/materials/$materialId",
  component: lazyRouteComponent(() => import("./areas/stock/MaterialPage"), "MaterialPage"),
});
const newMaterial = createRoute({
  getParentRoute: () => root,
  path: "/stock/new",
  validateSearch: (s: Record<string, unknown>): { like?: string } => ({ like: text(s["like"]) }),
  component: lazyRouteComponent(() => import("./areas/stock/NewMaterialPage"), "NewMaterialPage"),
});
const spool = createRoute({
  getParentRoute: () => root,
  path: "/stock/spools/$spoolId",
  component: lazyRouteComponent(() => import("./areas/stock/SpoolPage"), "SpoolPage"),
});
const intake = createRoute({
  getParentRoute: () => root,
  path: "/stock/intake",
  validateSearch: (s: Record<string, unknown>): { material?: string; spool?: string } => ({ material: text(s["material"]), spool: text(s["spool"]) }),
  component: lazyRouteComponent(() => import("./areas/stock/IntakePage"), "IntakePage"),
});
const drying = createRoute({
  getParentRoute: () => root,
  path: "/stock/drying",
  validateSearch: (s: Record<string, unknown>): { spool?: string } => ({ spool: text(s["spool"]) }),
  component: lazyRouteComponent(() => import("./areas/sessions/DryingPage"), "DryingPage"),
});
const lists = createRoute({
  getParentRoute: () => root,
  path: "/stock/lists",
  component: lazyRouteComponent(() => import("./areas/stock/ListsPage"), "ListsPage"),
});
const labels = createRoute({
  getParentRoute: () => root,
  path: "/stock/labels",
  validateSearch: (s: Record<string, unknown>): { code?: string } => ({ code: text(s["code"]) }),
  component: lazyRouteComponent(() => import("./areas/stock/LabelsPage"), "LabelsPage"),
});
const byCode = createRoute({
  getParentRoute: () => root,
  path: "/c/$code",
  component: lazyRouteComponent(() => import("./areas/stock/CodePage"), "CodePage"),
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
const racks = createRoute({ getParentRoute: () => root, path: "/bench/racks", component: lazyRouteComponent(() => import("./areas/bench/RacksPage"), "RacksPage") });
const round = createRoute({ getParentRoute: () => root, path: "/bench/racks/$rigId", component: lazyRouteComponent(() => import("./areas/bench/RoundPage"), "RoundPage") });
const print = createRoute({ getParentRoute: () => root, path: "/studies/$studyId/print", component: lazyRouteComponent(() => import("./areas/printing/PrintPage"), "PrintPage") });
const rigs = createRoute({ getParentRoute: () => root, path: "/rigs", component: lazyRouteComponent(() => import("./areas/rigs/RigsPage"), "RigsPage") });
const newRig = createRoute({
  getParentRoute: () => root,
  path: "/rigs/new",
  validateSearch: (s: Record<string, unknown>): { method?: string } => ({ method: text(s["method"]) }),
  component: lazyRouteComponent(() => import("./areas/rigs/NewRigPage"), "NewRigPage"),
});
const rig = createRoute({ getParentRoute: () => root, path: "/rigs/$rigId", component: lazyRouteComponent(() => import("./areas/rigs/RigPage"), "RigPage") });
const method = createRoute({ getParentRoute: () => root, path: "/methods/$method", component: lazyRouteComponent(() => import("./areas/rigs/MethodPage"), "MethodPage") });
const safekeeping = createRoute({ getParentRoute: () => root, path: "/safekeeping", component: lazyRouteComponent(() => import("./areas/safekeeping/SafekeepingPage"), "SafekeepingPage") });
const unsent = createRoute({ getParentRoute: () => root, path: "/unsent", component: lazyRouteComponent(() => import("./areas/safekeeping/UnsentPage"), "UnsentPage") });
const choose = createRoute({
  getParentRoute: () => root,
  path: "/choose",
  validateSearch: (s: Record<string, unknown>): { purpose?: string } => ({ purpose: text(s["purpose"]) }),
  component: lazyRouteComponent(() => import("./areas/choose/ChoosePage"), "ChoosePage"),
});

export const router = createRouter({
  routeTree: root.addChildren([home, stock, material, newMaterial, spool, intake, drying, lists, labels, byCode, studies, newStudy, board, findings, print, bench, racks, round, rigs, newRig, rig, method, choose, safekeeping, unsent]),
  defaultPreload: "intent",
});

declare module "@tanstack/react-router" {
  interface Register {
    router: typeof router;
  }
}
