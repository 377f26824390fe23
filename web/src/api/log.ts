import { keepPreviousData, queryOptions, useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { useEffect } from "react";
import { at } from "./base";
import { answerOf, api, type Campaign, problemOf, reached } from "./client";
import type { components } from "./schema";

type Schemas = components["schemas"];
export type LogSession = Schemas["LogSession"];
export type NightOfLog = Schemas["NightOfLog"];
export type FrameInLog = Schemas["FrameInLog"];
export type FrameFolders = Schemas["FrameFolders"];
export type FolderUse = Schemas["FolderUse"];
export type Decision = Schemas["Decision"];
export type EventKind = Schemas["EventKind"];
export type Corrections = Schemas["Corrections"];
export type NightOffered = Schemas["NightOffered"];
export type CampaignTaught = Schemas["CampaignTaught"];
export type OfferOfNight = Schemas["OfferOfNight"];
export type NowAnswer = Schemas["NowAnswer"];
export type StoredLesson = Schemas["StoredLesson"];
export type CopyAsked = Schemas["CopyAsked"];
export type CopyAnswer = Schemas["CopyAnswer"];
export type SecondFrame = Schemas["SecondFrame"];

const SESSIONS = ["log", "sessions"];
const SESSION = ["log", "session"];
const FOLDERS = ["log", "folders"];

/** Nights of the log that hold some letters. */
export const logSessionsQuery = (text: string) =>
  queryOptions({
    queryKey: [...SESSIONS, text],
    queryFn: () => answerOf(api.GET("/api/v1/log/sessions", { params: { query: { text, from: "", to: "" } } })),
    placeholderData: keepPreviousData,
  });

/** A night with its frames; nothing is asked for the empty id. */
export const logSessionQuery = (id: string) =>
  queryOptions({
    queryKey: [...SESSION, id],
    queryFn: () => answerOf(api.GET("/api/v1/log/sessions/{id}", { params: { path: { id } } })),
    enabled: id !== "",
  });

/** What a night brings to the campaigns that its frames are of. */
export const nightCampaignsQuery = (id: string) =>
  queryOptions({
    queryKey: [...SESSION, id, "campaigns"],
    queryFn: () => answerOf(api.GET("/api/v1/log/sessions/{id}/campaigns", { params: { path: { id } } })),
  });

/** What a night teaches: its frames beside their predictions, offers, and what was taken over. */
export const nightTaughtQuery = (id: string) =>
  queryOptions({
    queryKey: [...SESSION, id, "taught"],
    queryFn: () => answerOf(api.GET("/api/v1/log/sessions/{id}/taught", { params: { path: { id } } })),
    placeholderData: keepPreviousData,
  });

/** A target's lines from a patch of a night's frames; nothing is kept. */
export const useMeasureLines = (id: string) =>
  useMutation({
    mutationFn: (body: Schemas["LinesAsked"]) =>
      answerOf(api.POST("/api/v1/log/sessions/{id}/lines", { params: { path: { id } }, body })),
  });

/** Frames against which the filter before a frame can be held. */
export const copyFramesQuery = (id: string, frame: string) =>
  queryOptions({
    queryKey: [...SESSION, id, "copy", frame],
    queryFn: () => answerOf(api.GET("/api/v1/log/sessions/{id}/copy", { params: { path: { id }, query: { frame } } })),
    retry: false,
  });

/** Where the bands of a filter's copy lie, by two exposures of one patch; nothing is kept. */
export const useAskCopy = () =>
  useMutation({ mutationFn: (body: CopyAsked) => answerOf(api.POST("/api/v1/log/copy", { body })) });

/** Takes a copy as it was measured over into kit and campaign. */
export function useTakeCopy() {
  const stale = useAllStale();
  return useMutation({
    mutationFn: (body: CopyAsked) => answerOf(api.POST("/api/v1/log/copy/taken", { body })),
    onSettled: stale,
  });
}

/** What a sky meter's file makes of a site; nothing is changed. */
export const useReadMeter = () =>
  useMutation({
    mutationFn: (body: Schemas["MeterFile"]) => answerOf(api.POST("/api/v1/log/meter", { body })),
  }).mutateAsync;

/** The night as it runs. A page that is left open asks again by itself, whatever the live line says. */
export const nowQuery = (campaign: string, at_s: number | null) =>
  queryOptions({
    queryKey: ["log", "now", campaign, at_s],
    queryFn: () => answerOf(api.GET("/api/v1/now", { params: { query: { campaign, ...(at_s != null && { at_s }) } } })),
    refetchInterval: 20_000,
    retry: false,
    placeholderData: keepPreviousData,
  });

/** Plans the rest of the night anew. */
export function useReplan() {
  const stale = useAllStale();
  return useMutation({
    mutationFn: (body: Schemas["ReplanAsked"]) => answerOf(api.POST("/api/v1/now/replan", { body })),
    onSettled: stale,
  }).mutateAsync;
}

/** Puts a campaign's nights back as they were. */
export function usePutNightsBack() {
  const stale = useAllStale();
  return useMutation({
    mutationFn: async ({ id, nights }: { id: string; nights: Campaign["nights"] }) => {
      const path = { id };
      const now = await answerOf(api.GET("/api/v1/campaigns/{id}", { params: { path } }));
      const header = { "If-Match": `"${now.revision}"` };
      return answerOf(
        api.PUT("/api/v1/campaigns/{id}", { params: { path, header }, body: { ...now.campaign, nights } }),
      );
    },
    onSettled: stale,
  }).mutateAsync;
}

/** Everything hangs on a figure of the site or the kit. */
const useAllStale = () => {
  const client = useQueryClient();
  return () => client.invalidateQueries();
};

/** Takes over what a night offers. */
export function useTakeLesson(id: string) {
  const stale = useAllStale();
  return useMutation({
    mutationFn: (body: Schemas["OfferTaken"]) =>
      answerOf(api.POST("/api/v1/log/sessions/{id}/taught", { params: { path: { id } }, body })),
    onSettled: stale,
  }).mutateAsync;
}

/** Takes back what was taken over. */
export function useUndoLesson() {
  const stale = useAllStale();
  return useMutation({
    mutationFn: (id: string) => answerOf(api.DELETE("/api/v1/log/lessons/{id}", { params: { path: { id } } })),
    onSettled: stale,
  }).mutateAsync;
}

/** One frame with all that was measured of it. */
export const frameQuery = (frame: string) =>
  queryOptions({
    queryKey: ["log", "frame", frame],
    queryFn: () => answerOf(api.GET("/api/v1/log/frames/{frame}", { params: { path: { frame } } })),
  });

/** Where a target's record is. */
export const recordOf = (object: string, format: "json" | "csv" | "text") =>
  at(`/api/v1/log/record?object=${encodeURIComponent(object)}&format=${format}`);

/** A target's record as text; nothing is asked for the empty name. */
export const recordTextQuery = (object: string) =>
  queryOptions({
    queryKey: ["log", "record", object],
    queryFn: async () => {
      const answer = await reached(fetch(recordOf(object, "text")));
      if (!answer.ok) throw problemOf(answer, await answer.json().catch(() => null));
      return answer.text();
    },
    enabled: object !== "",
  });

/** The folders of frames, and how far the reading of them is. */
export const foldersQuery = queryOptions({
  queryKey: FOLDERS,
  queryFn: () => answerOf(api.GET("/api/v1/log/folders")),
});

/** Where a frame's small picture is. */
export const previewOf = (frame: string) => at(`/api/v1/log/frames/${frame}/preview`);

/** Where a night's table is. */
export const tableOf = (session: string, format: "csv" | "ecsv") =>
  at(`/api/v1/log/sessions/${session}/table?format=${format}`);

/** Asks anew for what comes in, as it comes in: a night at most once a second. */
export function useLogNews() {
  const client = useQueryClient();
  useEffect(() => {
    const stale = new Set<string>();
    let due: ReturnType<typeof setTimeout> | undefined;
    const refresh = () => {
      due = undefined;
      for (const key of stale) void client.invalidateQueries({ queryKey: ["log", ...JSON.parse(key)] });
      stale.clear();
    };
    const source = new EventSource(at("/api/v1/log/live"));
    source.onmessage = (e) => {
      const news = JSON.parse(e.data) as Schemas["LogNews"];
      if (news.kind === "missed") void client.invalidateQueries({ queryKey: ["log"] });
      stale.add(JSON.stringify(["folders"]));
      if (news.kind === "frame") {
        stale.add(JSON.stringify(["sessions"]));
        stale.add(JSON.stringify(["session", news.session]));
        stale.add(JSON.stringify(["now"]));
      }
      due ??= setTimeout(refresh, 700);
    };
    // What came in while nobody listened is asked for when the line is there again.
    source.onopen = () => void client.invalidateQueries({ queryKey: ["log"] });
    return () => {
      source.close();
      clearTimeout(due);
    };
  }, [client]);
}

/** A change of the log: what it makes stale is asked for anew. */
function useLogChange<V, A>(change: (what: V) => Promise<A>) {
  const client = useQueryClient();
  return useMutation<A, Error, V>({
    mutationFn: change,
    onSettled: () => client.invalidateQueries({ queryKey: ["log"] }),
  }).mutateAsync;
}

/** Reads a folder, watches it, or leaves it alone. */
export const useChooseFolder = () =>
  useLogChange((body: { folder: string; what: FolderUse }) => answerOf(api.POST("/api/v1/log/folders", { body })));

export const useCallOff = () => useLogChange(() => answerOf(api.POST("/api/v1/log/folders/call-off")));

/** Plays a night of the stand-in camera. */
export const usePlay = () => useLogChange(() => answerOf(api.POST("/api/v1/log/play")));

/** Keeps frames, puts them aside, or gives them back to the rules. */
export const useDecide = () =>
  useLogChange((body: { frames: string[]; decision: Decision | null; why: string }) =>
    answerOf(api.POST("/api/v1/log/frames/decide", { body })),
  );

/** Says what a name in headers means, once for all nights. */
export const useExplainName = () =>
  useLogChange((body: Schemas["NameExplained"]) => answerOf(api.PUT("/api/v1/log/names", { body })));

/** Corrects what the headers of a night say. */
export const useCorrect = () =>
  useLogChange(({ id, corrections }: { id: string; corrections: Corrections }) =>
    answerOf(api.PUT("/api/v1/log/sessions/{id}/corrections", { params: { path: { id } }, body: { corrections } })),
  );

/** Takes a guider's table to a night. */
export const useGuiding = () =>
  useLogChange(async ({ id, file }: { id: string; file: File }) => {
    const call = fetch(at(`/api/v1/log/sessions/${id}/guiding`), {
      method: "POST",
      headers: { "content-type": "text/csv" },
      body: file,
    });
    const answer = await reached(call);
    const body = await answer.json().catch(() => null);
    if (!answer.ok) throw problemOf(answer, body);
    return body as Schemas["GuidingRead"];
  });

export const useNoteSession = () =>
  useLogChange(({ id, note }: { id: string; note: string }) =>
    answerOf(api.PUT("/api/v1/log/sessions/{id}", { params: { path: { id } }, body: { note } })),
  );

export const useAddEvent = () =>
  useLogChange(({ id, ...body }: { id: string; at_s: number; kind: EventKind; text: string }) =>
    answerOf(api.POST("/api/v1/log/sessions/{id}/events", { params: { path: { id } }, body })),
  );

export const useRemoveEvent = () =>
  useLogChange((event: string) => answerOf(api.DELETE("/api/v1/log/events/{event}", { params: { path: { event } } })));

/** Takes a file into the log. */
export const useDropFrame = () =>
  useLogChange(async (file: File) => {
    const call = fetch(at(`/api/v1/log/frames?name=${encodeURIComponent(file.name)}`), {
      method: "POST",
      headers: { "content-type": "application/octet-stream" },
      body: file,
    });
    const answer = await reached(call);
    const body = await answer.json().catch(() => null);
    if (!answer.ok) throw problemOf(answer, body);
    return body as Schemas["DroppedIn"];
  });

export const useFolders = () => useQuery(foldersQuery);
