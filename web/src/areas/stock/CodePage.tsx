import { useQuery } from "@tanstack/react-query";
import { Navigate, useParams } from "@tanstack/react-router";

import { client, type Schemas, unwrap } from "../../api/client";
import { Empty, ErrorNote, Waiting } from "../../ui/Notes";

/** Where the QR code of a label leads: to the spool's page, or to the bench for a specimen. */
export function CodePage() {
  const { code } = useParams({ from: "/c/$code" });
  const found = useQuery({
    queryKey: ["code", code],
    queryFn: async ({ signal }) => unwrap<Schemas["CodeView"]>(await client.GET("/api/codes", { params: { query: { text: code } }, signal })),
  });
  if (found.isPending) return <Waiting what="Looking the code up …" />;
  if (found.isError) return <ErrorNote error={found.error} />;
  const { kind, id, test_id } = found.data;
  if (kind === "spool") return <Navigate to="/stock/spools/$spoolId" params={{ spoolId: id }} replace />;
  if (kind === "specimen" && test_id) return <Navigate to="/bench" search={{ test: test_id, specimen: id }} replace />;
  return <Empty title={`${found.data.code} is a ${kind}`}>{kind === "rig" ? "Choose it on the bench." : "It belongs to no test yet."}</Empty>;
}
