import { type FunctionComponent } from "react";
import { createRootRoute, createRoute, createRouter, lazyRouteComponent } from "@tanstack/react-router";

import { DayPage } from "./areas/day/DayPage";
import { StudiesPage } from "./areas/studies/StudiesPage";
import { Empty } from "./ui/Notes";
import { Frame } from "./ui/Frame";
import { fetched, PageFault } from "./ui/PageFault";
import { withUnits } from "./ui/withUnits";

/** A page that is fetched when it is first opened or hovered, and follows the units chosen. */
const page = (load: () => Promise<FunctionComponent>) => lazyRouteComponent(async () => ({ default: withUnits(await fetched(load)) }));

const text = (value: unknown) => (typeof value === "string" && value ? value : undefined);

const root = createRootRoute({
  component: Frame,
  notFoundComponent: () => <Empty title="There is no such page">The areas above lead on.</Empty>,
});
const home = createRoute({ getParentRoute: () => root, path: "/", component: withUnits(DayPage) });
const stock = createRoute({
  getParentRoute: () => root,
  path: "/stock",
  component: page(async () => (await import("./areas/stock/StockPage")).StockPage),
});
const material = createRoute({
  getParentRoute: () => root,
  path: "/stock/materials/$materialId",
  component: page(async () => (await import("./areas/stock/MaterialPage")).MaterialPage),
});
const newMaterial = createRoute({
  getParentRoute: () => root,
  path: "/stock/new",
  validateSearch: (s: Record<string, unknown>): { like?: string } => ({ like: text(s["like"]) }),
  component: page(async () => (await import("./areas/stock/NewMaterialPage")).NewMaterialPage),
});
const spool = createRoute({
  getParentRoute: () => root,
  path: "/stock/spools/$spoolId",
  component: page(async () => (await import("./areas/stock/SpoolPage")).SpoolPage),
});
const intake = createRoute({
  getParentRoute: () => root,
  path: "/stock/intake",
  validateSearch: (s: Record<string, unknown>): { material?: string; spool?: string } => ({ material: text(s["material"]), spool: text(s["spool"]) }),
  component: page(async () => (await import("./areas/stock/IntakePage")).IntakePage),
});
const drying = createRoute({
  getParentRoute: () => root,
  path: "/stock/drying",
  validateSearch: (s: Record<string, unknown>): { spool?: string } => ({ spool: text(s["spool"]) }),
  component: page(async () => (await import("./areas/sessions/DryingPage")).DryingPage),
});
const lists = createRoute({
  getParentRoute: () => root,
  path: "/stock/lists",
  component: page(async () => (await import("./areas/stock/ListsPage")).ListsPage),
});
const labels = createRoute({
  getParentRoute: () => root,
  path: "/stock/labels",
  validateSearch: (s: Record<string, unknown>): { code?: string } => ({ code: text(s["code"]) }),
  component: page(async () => (await import("./areas/stock/LabelsPage")).LabelsPage),
});
const byCode = createRoute({
  getParentRoute: () => root,
  path: "/c/$code",
  component: page(async () => (await import("./areas/stock/CodePage")).CodePage),
});
const whole = (value: unknown) => (Number.isInteger(Number(value)) && Number(value) > 0 ? Number(value) : undefined);
const dialIn = createRoute({ getParentRoute: () => root, path: "/dial-in", component: page(async () => (await import("./areas/dial_in/DialInPage")).DialInPage) });
const trail = createRoute({
  getParentRoute: () => root,
  path: "/dial-in/$trailId",
  validateSearch: (s: Record<string, unknown>): { trial?: number | undefined; record?: boolean; next?: boolean } => ({ trial: whole(s["trial"]), ...(s["record"] === true ? { record: true } : {}), ...(s["next"] === true ? { next: true } : {}) }),
  component: page(async () => (await import("./areas/dial_in/TrailPage")).TrailPage),
});
const tower = createRoute({
  getParentRoute: () => root,
  path: "/dial-in/$trailId/towers/$trialId",
  component: page(async () => (await import("./areas/dial_in/TowerPage")).TowerPage),
});
const sheet = createRoute({
  getParentRoute: () => root,
  path: "/dial-in/sheets/$sheetId",
  validateSearch: (s: Record<string, unknown>): { with?: string | undefined } => ({ with: text(s["with"]) }),
  component: page(async () => (await import("./areas/dial_in/SheetPage")).SheetPage),
});
const gcode = createRoute({
  getParentRoute: () => root,
  path: "/dial-in/gcode",
  validateSearch: (s: Record<string, unknown>): { trial?: string | undefined } => ({ trial: text(s["trial"]) }),
  component: page(async () => (await import("./areas/dial_in/GcodePage")).GcodePage),
});
const gcodeFile = createRoute({ getParentRoute: () => root, path: "/dial-in/gcode/$fileId", component: page(async () => (await import("./areas/dial_in/GcodeFilePage")).GcodeFilePage) });
const hardware = createRoute({ getParentRoute: () => root, path: "/dial-in/hardware", component: page(async () => (await import("./areas/dial_in/HardwarePage")).HardwarePage) });
const lightTable = createRoute({
  getParentRoute: () => root,
  path: "/dial-in/light-table",
  validateSearch: (s: Record<string, unknown>): { photos?: string | undefined } => ({ photos: text(s["photos"]) }),
  component: page(async () => (await import("./areas/photos/LightTable")).LightTable),
});
const studies = createRoute({ getParentRoute: () => root, path: "/studies", component: withUnits(StudiesPage) });
const newStudy = createRoute({
  getParentRoute: () => root,
  path: "/studies/new",
  component: page(async () => (await import("./areas/studies/NewStudyPage")).NewStudyPage),
});
const board = createRoute({
  getParentRoute: () => root,
  path: "/studies/$studyId/board",
  component: page(async () => (await import("./areas/studies/BoardPage")).BoardPage),
});
const findings = createRoute({
  getParentRoute: () => root,
  path: "/studies/$studyId/findings",
  validateSearch: (s: Record<string, unknown>): { test?: string; quantity?: string; end?: string; reference?: string; order?: string; add?: string; specimen?: string; run?: string } => ({
    test: text(s["test"]),
    quantity: text(s["quantity"]), end: text(s["end"]), add: text(s["add"]),
    reference: text(s["reference"]), order: text(s["order"]),
    specimen: text(s["specimen"]),
    run: text(s["run"]),
  }),
  component: page(async () => (await import("./areas/findings/FindingsPage")).FindingsPage),
});
const doubts = createRoute({ getParentRoute: () => root, path: "/doubts", component: page(async () => (await import("./areas/findings/DoubtsPage")).DoubtsPage) });
const bench = createRoute({
  getParentRoute: () => root,
  path: "/bench",
  validateSearch: (s: Record<string, unknown>): { test?: string; specimen?: string } => ({ test: text(s["test"]), specimen: text(s["specimen"]) }),
  component: page(async () => (await import("./areas/bench/BenchPage")).BenchPage),
});
const racks = createRoute({ getParentRoute: () => root, path: "/bench/racks", component: page(async () => (await import("./areas/bench/RacksPage")).RacksPage) });
const files = createRoute({ getParentRoute: () => root, path: "/bench/files/$testId", component: page(async () => (await import("./areas/bench/FilesPage")).FilesPage) });
const oven = createRoute({ getParentRoute: () => root, path: "/bench/oven/$testId", component: page(async () => (await import("./areas/bench/OvenPage")).OvenPage) });
const grading = createRoute({ getParentRoute: () => root, path: "/bench/grading/$testId", component: page(async () => (await import("./areas/bench/GradingPage")).GradingPage) });
const round = createRoute({ getParentRoute: () => root, path: "/bench/racks/$rigId", component: page(async () => (await import("./areas/bench/RoundPage")).RoundPage) });
const print = createRoute({ getParentRoute: () => root, path: "/studies/$studyId/print", component: page(async () => (await import("./areas/printing/PrintPage")).PrintPage) });
const plan = createRoute({ getParentRoute: () => root, path: "/studies/$studyId/plan", validateSearch: (s: Record<string, unknown>): { copy?: boolean; add?: "material" | "test"; margin?: string } => ({ ...(typeof s["margin"] === "string" ? { margin: s["margin"] } : {}), ...(s["copy"] ? { copy: true } : {}), ...(s["add"] === "material" || s["add"] === "test" ? { add: s["add"] } : {}) }), component: page(async () => (await import("./areas/studies/PlanPage")).PlanPage) });
const rigs = createRoute({ getParentRoute: () => root, path: "/rigs", component: page(async () => (await import("./areas/rigs/RigsPage")).RigsPage) });
const newRig = createRoute({
  getParentRoute: () => root,
  path: "/rigs/new",
  validateSearch: (s: Record<string, unknown>): { method?: string } => ({ method: text(s["method"]) }),
  component: page(async () => (await import("./areas/rigs/NewRigPage")).NewRigPage),
});
const shapes = createRoute({ getParentRoute: () => root, path: "/rigs/shapes", component: page(async () => (await import("./areas/printing/ShapesPage")).ShapesPage) });
const parts = createRoute({ getParentRoute: () => root, path: "/rigs/parts", component: page(async () => (await import("./areas/parts/PartsPage")).PartsPage) });
const ownMethod = createRoute({
  getParentRoute: () => root,
  path: "/rigs/own",
  validateSearch: (search: Record<string, unknown>): { of?: string } => (typeof search["of"] === "string" ? { of: search["of"] } : {}),
  component: page(async () => (await import("./areas/own_methods/OwnMethodPage")).OwnMethodPage),
});
const part = createRoute({ getParentRoute: () => root, path: "/rigs/parts/$partId", component: page(async () => (await import("./areas/parts/PartPage")).PartPage) });
const rig = createRoute({ getParentRoute: () => root, path: "/rigs/$rigId", component: page(async () => (await import("./areas/rigs/RigPage")).RigPage) });
const against = createRoute({ getParentRoute: () => root, path: "/rigs/$rigId/against/$otherId", component: page(async () => (await import("./areas/rigs/AgainstPage")).AgainstPage) });
const method = createRoute({ getParentRoute: () => root, path: "/methods/$method", component: page(async () => (await import("./areas/rigs/MethodPage")).MethodPage) });
const units = createRoute({ getParentRoute: () => root, path: "/units", component: page(async () => (await import("./areas/rigs/UnitsPage")).UnitsPage) });
const safekeeping = createRoute({ getParentRoute: () => root, path: "/safekeeping", component: page(async () => (await import("./areas/safekeeping/SafekeepingPage")).SafekeepingPage) });
const unsent = createRoute({ getParentRoute: () => root, path: "/unsent", component: page(async () => (await import("./areas/safekeeping/UnsentPage")).UnsentPage) });
const choose = createRoute({
  getParentRoute: () => root,
  path: "/choose",
  validateSearch: (s: Record<string, unknown>): { purpose?: string } => ({ purpose: text(s["purpose"]) }),
  component: page(async () => (await import("./areas/choose/ChoosePage")).ChoosePage),
});

export const router = createRouter({
  routeTree: root.addChildren([home, stock, material, newMaterial, spool, intake, drying, lists, labels, byCode, dialIn, trail, tower, sheet, gcode, gcodeFile, hardware, lightTable, studies, newStudy, board, findings, doubts, print, plan, bench, racks, round, grading, oven, files, rigs, newRig, rig, against, method, choose, units, shapes, parts, part, ownMethod, safekeeping, unsent]),
  defaultPreload: "intent",
  defaultErrorComponent: PageFault,
});

declare module "@tanstack/react-router" {
  interface Register {
    router: typeof router;
  }
}
