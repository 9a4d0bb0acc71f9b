import { useQuery } from "@tanstack/react-query";
import { Navigate, useParams } from "@tanstack/react-router";

import { api, as } from "../../api/api";
import type { Schemas } from "../../api/client";
import { Empty, ErrorNote, Waiting } from "../../ui/Notes";

/** Where a code leads, scanned or typed: to a spool, a rig, a specimen's evidence, its rack, or to the bench. */
export function CodePage() {
  const { code } = useParams({ from: "/c/$code" });
  const found = useQuery(api.queryOptions("get", "/api/codes", { params: { query: { text: code } } }, { ...as<Schemas["CodeView"]>(), gcTime: 0, retry: false }));
  if (found.isPending) return <Waiting what="Looking the code up …" />;
  if (found.isError) return <ErrorNote error={found.error} />;
  const { kind, id, test_id, study_id, tested, rig_id } = found.data;
  if (kind === "spool") return <Navigate to="/stock/spools/$spoolId" params={{ spoolId: id }} replace />;
  if (kind === "rig") return <Navigate to="/rigs/$rigId" params={{ rigId: id }} replace />;
  if (tested && study_id && test_id) return <Navigate to="/studies/$studyId/findings" params={{ studyId: study_id }} search={{ test: test_id, specimen: id }} replace />;
  if (rig_id) return <Navigate to="/bench/racks/$rigId" params={{ rigId: rig_id }} replace />;
  if (test_id) return <Navigate to="/bench" search={{ test: test_id, specimen: id }} replace />;
  return <Empty title={`${found.data.code} is a specimen`}>It belongs to no test yet.</Empty>;
}
