import { queryOptions } from "@tanstack/react-query";

import { client, fetchBytes, type Schemas, unwrap } from "../client";
import { decodeCurves } from "../curves";

/** The board, once more only if it changed: the server answers 304 for the revision we hold. */
const boards = new Map<string, { tag: string; board: BoardData }>();

type BoardData = Schemas["BoardView"];

function loadBoard(id: string, tag: string | undefined, signal: AbortSignal) {
  return client.GET("/api/studies/{study_id}/board", {
    params: { path: { study_id: id }, header: tag ? { "if-none-match": tag } : {} },
    signal,
  });
}

export const studiesOptions = () =>
  queryOptions({ queryKey: ["studies"], queryFn: async ({ signal }) => unwrap<Schemas["StudyPage"]>(await client.GET("/api/studies", { signal })) });

export const studyOptions = (id: string) =>
  queryOptions({
    queryKey: ["study", id],
    queryFn: async ({ signal }) => unwrap<Schemas["StudyView"]>(await client.GET("/api/studies/{study_id}", { params: { path: { study_id: id } }, signal })),
  });

export const boardOptions = (id: string) =>
  queryOptions({
    queryKey: ["board", id],
    queryFn: async ({ signal }) => {
      const held = boards.get(id);
      const answer = await loadBoard(id, held?.tag, signal);
      if (answer.response.status === 304 && held) return held.board;
      const board = unwrap<BoardData>(answer);
      boards.set(id, { tag: answer.response.headers.get("etag") ?? "", board });
      return board;
    },
    refetchInterval: 5000,
  });

export const findingsOptions = (testId: string, quantity: string | undefined) =>
  queryOptions({
    queryKey: ["findings", testId, quantity ?? ""],
    queryFn: async ({ signal }) =>
      unwrap<Schemas["Findings"]>(await client.GET("/api/tests/{test_id}/findings", { params: { path: { test_id: testId }, query: quantity ? { quantity } : {} }, signal })),
    placeholderData: (previous) => previous,
  });

export const curvesOptions = (testId: string) =>
  queryOptions({ queryKey: ["curves", testId], queryFn: async ({ signal }) => decodeCurves(await fetchBytes(`/api/tests/${testId}/curves`, signal)) });
