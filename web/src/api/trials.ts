import { keepPreviousData, queryOptions } from "@tanstack/react-query";
import { at as under } from "./base";
import { answerOf, api } from "./client";
import { useChange, useSaveListed } from "./mutations";
import type { components } from "./schema";

type Schemas = components["schemas"];
export type Trial = Schemas["Trial"];
export type StoredTrial = Schemas["StoredTrial"];
export type Designed = Schemas["Designed"];
export type TrialSheet = Schemas["TrialSheet"];
export type TrialAnswer = Schemas["TrialAnswer"];
export type TrialBeginning = Schemas["TrialBeginning"];
export type TrialMarks = Schemas["TrialMarks"];
export type FrameInTrial = Schemas["FrameInTrial"];

const TRIALS = ["trials"];
const at = (revision: number) => ({ "If-Match": `"${revision}"` });

/** All trials, last changed first. */
export const trialsQuery = queryOptions({
  queryKey: TRIALS,
  queryFn: () => answerOf(api.GET("/api/v1/trials")),
});

/** What the model expects of a trial, and what it takes. Kept under the revision it is of. */
export const designQuery = (id: string, revision: number) =>
  queryOptions({
    queryKey: ["trial", id, "design", revision],
    queryFn: () => answerOf(api.GET("/api/v1/trials/{id}/design", { params: { path: { id } } })),
  });

/** A trial laid into an evening. */
export const sheetQuery = (id: string, revision: number, date: string) =>
  queryOptions({
    queryKey: ["trial", id, "sheet", revision, date],
    queryFn: () => answerOf(api.GET("/api/v1/trials/{id}/sheet", { params: { path: { id }, query: { date } } })),
    retry: false,
  });

/** What a trial's frames say. */
export const verdictQuery = (id: string, revision: number) =>
  queryOptions({
    queryKey: ["trial", id, "verdict", revision],
    queryFn: () => answerOf(api.GET("/api/v1/trials/{id}/verdict", { params: { path: { id } } })),
  });

export type BesideAsked = {
  first: string;
  frame: string;
  x: number;
  y: number;
  side: number;
  alike: "exposure" | "background";
  stack_of: string;
  /** Whose light paths the model speaks of. */
  trial: string;
};

/** Where a piece of a frame is as a picture, laid upon another; `difference` for what it has more. */
export const besidePicture = (q: BesideAsked, difference = false) => {
  const all = Object.entries({ ...q, difference }).map(([k, v]) => [k, String(v)]);
  return under(`/api/v1/trials/beside/picture?${new URLSearchParams(Object.fromEntries(all))}`);
};

/** What a box in the middle of a piece holds on two frames. */
export const besideQuery = (q: BesideAsked) =>
  queryOptions({
    queryKey: ["trial", "beside", q],
    queryFn: () => answerOf(api.GET("/api/v1/trials/beside", { params: { query: q } })),
    retry: false,
    placeholderData: keepPreviousData,
  });

/** Files of a trial: run sheet and frames. */
export const sheetFile = (id: string, date: string, format: "csv" | "ics") =>
  under(`/api/v1/trials/${id}/sheet/file?date=${date}&format=${format}`);
export const framesFile = (id: string, format: "csv" | "ecsv") =>
  under(`/api/v1/trials/${id}/frames/file?format=${format}`);

export const useBeginTrial = () =>
  useChange({
    change: (body: TrialBeginning) => answerOf(api.POST("/api/v1/trials/begin", { body })),
    stale: () => [TRIALS],
  });

export const useSaveTrial = () =>
  useSaveListed<"trial", Trial, StoredTrial>(
    "trial",
    TRIALS,
    (id, header, body) => answerOf(api.PUT("/api/v1/trials/{id}", { params: { path: { id }, header }, body })),
    [TRIALS],
  );

/** Fills a trial from nights of the log. */
export const useGather = () =>
  useChange({
    change: ({ stored, nights, marks }: { stored: StoredTrial; nights: string[]; marks: TrialMarks | null }) => {
      const params = { path: { id: stored.id }, header: at(stored.revision) };
      return answerOf(api.POST("/api/v1/trials/{id}/frames", { params, body: { nights, marks } }));
    },
    stale: () => [TRIALS],
  });

/** Plays a trial by its run sheet with a stand-in camera; its frames come into the log. */
export const usePlayTrial = () =>
  useChange({
    change: (id: string) => answerOf(api.POST("/api/v1/trials/{id}/play", { params: { path: { id } } })),
    stale: () => [["log"]],
  });

export const useRemoveTrial = () =>
  useChange({
    change: (id: string) => answerOf(api.DELETE("/api/v1/trials/{id}", { params: { path: { id } } })),
    stale: () => [TRIALS],
  });

export const useRestoreTrial = () =>
  useChange({
    change: (id: string) => answerOf(api.POST("/api/v1/trials/{id}/restore", { params: { path: { id } } })),
    stale: () => [TRIALS],
  });
