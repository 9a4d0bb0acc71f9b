import { queryOptions } from "@tanstack/react-query";

import { api, as, keep } from "../api";
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

export const studiesOptions = (put_away = false) => api.queryOptions("get", "/api/studies", put_away ? { params: { query: { put_away } } } : {}, as<Schemas["StudyPage"]>());

export const studyOptions = (study_id: string) => api.queryOptions("get", "/api/studies/{study_id}", { params: { path: { study_id } } }, as<Schemas["StudyView"]>());

/** `revision` is that of the study: after a change it is asked anew. */
export const fairnessOptions = (study_id: string, revision: number) =>
  api.queryOptions("get", "/api/studies/{study_id}/fairness", { params: { path: { study_id } }, revision }, { ...as<Schemas["FairnessView"]>(), ...keep });

export const powerOptions = (study_id: string, revision: number) =>
  api.queryOptions("get", "/api/studies/{study_id}/power", { params: { path: { study_id } }, revision }, { ...as<Schemas["PowerView"]>(), ...keep });

export const designOptions = (body: Schemas["DesignQuestion"]) => api.queryOptions("post", "/api/designs", { body }, { ...as<Schemas["DesignView"]>(), ...keep, retry: false });

export const boardOptions = (id: string) =>
  queryOptions({
    queryKey: ["get", "/api/studies/{study_id}/board", id],
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

/** The findings of a test, for one of its quantities, one way of ending and against one arm, the server's choice where one is not named; `add` names further materials. */
export const findingsOptions = (test_id: string, asked: { quantity?: string | undefined; end?: string | undefined; reference?: string | undefined; add?: readonly string[] } = {}) => {
  const { quantity, end, reference, add } = asked;
  const query = { ...(quantity ? { quantity } : {}), ...(end ? { end } : {}), ...(reference ? { reference } : {}), ...(add?.length ? { add: [...add] } : {}) };
  return api.queryOptions("get", "/api/tests/{test_id}/findings", { params: { path: { test_id }, query } }, { ...as<Schemas["Findings"]>(), ...keep });
};

/** All tests of a study side by side, against one arm. */
export const acrossOptions = (study_id: string, reference?: string) =>
  api.queryOptions("get", "/api/studies/{study_id}/across", { params: { path: { study_id }, query: reference ? { reference } : {} } }, { ...as<Schemas["AcrossView"]>(), ...keep });

/** What is in doubt about a study, or about one test and one of its quantities; `revision` is that of the study. */
export const doubtsOptions = (study_id: string, revision: number, asked: { test?: string | undefined; quantity?: string | undefined } = {}) => {
  const query = { ...(asked.test ? { test: asked.test } : {}), ...(asked.quantity ? { quantity: asked.quantity } : {}) };
  return api.queryOptions("get", "/api/studies/{study_id}/doubts", { params: { path: { study_id }, query }, revision }, { ...as<Schemas["DoubtsView"]>(), ...keep });
};

/** What each factor of a study does to a quantity, and the sweep of a setting. */
export const factorsOptions = (test_id: string, quantity?: string) => api.queryOptions("get", "/api/tests/{test_id}/factors", { params: { path: { test_id }, query: quantity ? { quantity } : {} } }, { ...as<Schemas["FactorsView"]>(), ...keep });

/** The statements of a text, held against the results. */
export const statementsOptions = (text: string, study_id?: string) =>
  api.queryOptions("post", "/api/statements", { body: { text, study_id: study_id ?? null } }, { ...as<Schemas["StatementsView"]>(), ...keep, gcTime: 60_000, retry: false });

export const curvesOptions = (testId: string) =>
  queryOptions({ queryKey: ["get", "/api/tests/{test_id}/curves", testId], queryFn: async ({ signal }) => decodeCurves(await fetchBytes(`/api/tests/${testId}/curves`, signal)) });

/** Photographs of the specimens of a test, before and after it. */
export const specimenPhotosOptions = (test_id: string) => api.queryOptions("get", "/api/tests/{test_id}/photos", { params: { path: { test_id } } }, as<Schemas["SpecimenPhotos"]>());

/** Breaks on Weibull paper; asked for when somebody wants to see it. */
export const spreadOptions = (test_id: string, query: { quantity: string; end?: string | undefined }, enabled: boolean) => ({ ...api.queryOptions("get", "/api/tests/{test_id}/spread", { params: { path: { test_id }, query: { quantity: query.quantity, ...(query.end && { end: query.end }) } } }, as<Schemas["StrengthSpread"]>()), enabled });
