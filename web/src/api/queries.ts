import { keepPreviousData, queryOptions } from "@tanstack/react-query";
import { answerOf, api, type FieldQuestion, type NightSite, type Scenario, type StoredEntry } from "./client";
import { bytes, unpack } from "./frames";
import { takeStored } from "./handed";
import type { paths } from "./schema";
import { touchAgain } from "./touched";

/** What does not change while the program runs. */
const FOR_GOOD = Number.POSITIVE_INFINITY;

type Search = NonNullable<paths["/api/v1/targets"]["get"]["parameters"]["query"]>;
type Body<P extends keyof paths> = paths[P] extends {
  post: { requestBody: { content: { "application/json": infer B } } };
}
  ? B
  : never;

/** The beginnings of the keys under which answers are kept: what a change makes stale. */
export const STALE = {
  campaigns: [["campaigns"], ["campaign-state"], ["tonight"], ["log", "session"], ["log", "now"]],
  scenarios: [["scenarios"], ["rigs"], ["scenario-now"], ["cards"]],
  shelf: [["shelf"], ["library"], ["kit"], ["kit-offered"], ["tonight"]],
  target: (name: string) => [["target", name]],
} as const;

/** What ships with the program: gear, presets, examples, lamps. */
export const libraryQuery = queryOptions({
  queryKey: ["library"],
  queryFn: () => answerOf(api.GET("/api/v1/library")),
  staleTime: FOR_GOOD,
});

/** Whether what is changed can be stored: asked twice a minute. */
export const healthQuery = queryOptions({
  queryKey: ["health"],
  queryFn: () => answerOf(api.GET("/api/v1/health")),
  refetchInterval: 30_000,
  retry: false,
});

/** Whether a passphrase is set, and whether this browser is signed in. */
export const accessQuery = queryOptions({
  queryKey: ["access"],
  queryFn: () => answerOf(api.GET("/api/v1/access")),
});

/** The browsers that are signed in. */
export const sessionsQuery = queryOptions({
  queryKey: ["access", "sessions"],
  queryFn: () => answerOf(api.GET("/api/v1/access/sessions")),
});

/** The tokens of scripts. */
export const tokensQuery = queryOptions({
  queryKey: ["access", "tokens"],
  queryFn: () => answerOf(api.GET("/api/v1/access/tokens")),
});

/** Everything that is stored and cannot be read. */
export const damagedQuery = queryOptions({
  queryKey: ["damaged"],
  queryFn: () => answerOf(api.GET("/api/v1/damaged")),
  staleTime: FOR_GOOD,
});

/** The stored comparisons, without their documents. */
export const scenariosQuery = queryOptions({
  queryKey: ["scenarios"],
  queryFn: async () => {
    await touchAgain();
    return answerOf(api.GET("/api/v1/scenarios"));
  },
});

const scenario = (id: string) => answerOf(api.GET("/api/v1/scenarios/{id}", { params: { path: { id } } }));

/** A comparison as it stands now; nothing is asked for the empty id. */
export const scenarioQuery = (id: string) =>
  queryOptions({ queryKey: ["scenario-now", id], queryFn: () => scenario(id), enabled: id !== "" });

/** A comparison that is opened to be edited: read once, and anew whenever it is opened again. */
export const openedScenarioQuery = (id: string) =>
  queryOptions({
    queryKey: ["scenario", id],
    queryFn: () => takeStored(id) ?? scenario(id),
    staleTime: FOR_GOOD,
    gcTime: 0,
  });

/** The light paths of all comparisons. */
export const rigsQuery = queryOptions({ queryKey: ["rigs"], queryFn: () => answerOf(api.GET("/api/v1/rigs")) });

/** The shelf; with what was put away, where that is wanted. */
export const shelfQuery = (archived: boolean) =>
  queryOptions({
    queryKey: ["shelf", archived],
    queryFn: () => answerOf(api.GET("/api/v1/shelf", { params: { query: { archived } } })),
  });

/** What to do on an evening, from the usual site with the usual rig, or from others. */
export const tonightQuery = (query: { date: string; site?: string; rig?: string }) =>
  queryOptions({
    queryKey: ["tonight", query],
    queryFn: ({ signal }) => answerOf(api.GET("/api/v1/tonight", { params: { query }, signal })),
    placeholderData: keepPreviousData,
  });

/** What a stored comparison comes to, as it stands at a revision. */
export const cardQuery = (id: string, revision: number) =>
  queryOptions({
    queryKey: ["cards", id, revision],
    queryFn: () => answerOf(api.GET("/api/v1/scenarios/{id}/card", { params: { path: { id } } })),
    staleTime: FOR_GOOD,
    retry: false,
  });

/** The rigs of the kit, the usual one first. */
export const kitQuery = queryOptions({
  queryKey: ["kit"],
  queryFn: () => answerOf(api.GET("/api/v1/kit/rigs")),
  // Every change here makes it stale; another tab's shows within a minute.
  staleTime: 60_000,
});

/** A light path of a rig of the kit, as a scenario with a typical target; nothing is asked for null. */
export const rigScenarioQuery = (path: { rig: string; set: string } | null) =>
  queryOptions({
    queryKey: ["kit", "scenario", path],
    queryFn: () =>
      answerOf(
        api.POST("/api/v1/kit/compare", {
          body: { rigs: [path?.rig ?? ""], sets: [path?.set ?? ""] },
        }),
      ),
    enabled: path !== null,
    staleTime: FOR_GOOD,
  });

/** Sets of filters to begin a rig with. */
export const startersQuery = queryOptions({
  queryKey: ["kit-starters"],
  queryFn: () => answerOf(api.GET("/api/v1/kit/starters")),
  staleTime: FOR_GOOD,
});

/** Rigs of old comparisons that the kit does not hold. */
export const offeredRigsQuery = queryOptions({
  queryKey: ["kit-offered"],
  queryFn: () => answerOf(api.GET("/api/v1/kit/offered")),
});

/** The sky over a target at its best moment of a night; nothing is asked for null. */
export const momentQuery = (body: Body<"/api/v1/night/moment"> | null) =>
  queryOptions({
    queryKey: ["moment", body],
    queryFn: () => answerOf(api.POST("/api/v1/night/moment", { body: body as NonNullable<typeof body> })),
    enabled: body !== null,
    staleTime: FOR_GOOD,
  });

/** The response of a filter of the shelf, to be drawn. */
export const drawQuery = ({ id, revision, entry }: StoredEntry) =>
  queryOptions({
    queryKey: ["draw", id, revision],
    queryFn: () => answerOf(api.POST("/api/v1/curves/draw", { body: entry })),
    staleTime: FOR_GOOD,
  });

/** An object of the catalogue, what it emits and what its kind does. */
export const targetQuery = (name: string) =>
  queryOptions({
    queryKey: ["target", name],
    queryFn: () => answerOf(api.GET("/api/v1/targets/{name}", { params: { path: { name } } })),
  });

/** Objects by name, kind, constellation and size. */
export const targetsQuery = (query: Search) =>
  queryOptions({
    queryKey: ["targets", query],
    queryFn: ({ signal }) => answerOf(api.GET("/api/v1/targets", { params: { query }, signal })),
    placeholderData: keepPreviousData,
  });

/** The brightest stars around a place. */
export const starsQuery = (ra_deg: number, dec_deg: number, radius_deg: number) =>
  queryOptions({
    queryKey: ["stars", ra_deg, dec_deg, radius_deg],
    queryFn: ({ signal }) =>
      answerOf(api.GET("/api/v1/stars", { params: { query: { ra_deg, dec_deg, radius_deg } }, signal })),
    placeholderData: keepPreviousData,
    staleTime: FOR_GOOD,
  });

/** The stars on a rig's sensor, and what each exposure makes of them; nothing without a question. */
export const fieldStarsQuery = (body: FieldQuestion | null) =>
  queryOptions({
    queryKey: ["field", body],
    queryFn: ({ signal }) => answerOf(api.POST("/api/v1/field", { body: body as FieldQuestion, signal })),
    enabled: body !== null,
    placeholderData: keepPreviousData,
  });

export const constellationsQuery = queryOptions({
  queryKey: ["constellations"],
  queryFn: () => answerOf(api.GET("/api/v1/constellations")),
  staleTime: FOR_GOOD,
});

/** How objects sit on the sensors of some rigs, and in how many panels; nothing is asked for null. */
export const framingQuery = (body: Body<"/api/v1/framing"> | null) =>
  queryOptions({
    queryKey: ["framing", body],
    queryFn: ({ signal }) => answerOf(api.POST("/api/v1/framing", { body: body as NonNullable<typeof body>, signal })),
    enabled: body !== null,
    placeholderData: keepPreviousData,
  });

/** How a rig is best laid over one or several objects. */
export const togetherQuery = (body: Body<"/api/v1/framing/together">) =>
  queryOptions({
    queryKey: ["together", body],
    queryFn: () => answerOf(api.POST("/api/v1/framing/together", { body })),
    placeholderData: keepPreviousData,
    staleTime: FOR_GOOD,
    retry: false,
  });

/** What the header of a frame says of its framing. */
export const readHeader = (text: string) => answerOf(api.POST("/api/v1/framing/header", { body: { text } }));

/** Constellations' figures and the Milky Way around a place. */
export const figuresQuery = (ra_deg: number, dec_deg: number, radius_deg: number) =>
  queryOptions({
    queryKey: ["figures", ra_deg, dec_deg, radius_deg],
    queryFn: ({ signal }) =>
      answerOf(api.GET("/api/v1/figures", { params: { query: { ra_deg, dec_deg, radius_deg } }, signal })),
    placeholderData: keepPreviousData,
    staleTime: FOR_GOOD,
  });

/** Coordinates in any usual form, said both ways. */
export const readCoordinates = (text: string) =>
  answerOf(api.GET("/api/v1/coordinates", { params: { query: { text } } }));

export const coordinatesQuery = (ra_deg: number, dec_deg: number) =>
  queryOptions({
    queryKey: ["coordinates", ra_deg, dec_deg],
    queryFn: () => readCoordinates(`${ra_deg} ${dec_deg}`),
  });

export const campaignsQuery = queryOptions({
  queryKey: ["campaigns"],
  queryFn: () => answerOf(api.GET("/api/v1/campaigns")),
});

/** Where a campaign stands on an evening. */
export const campaignStateQuery = (id: string, revision: number, date: string) =>
  queryOptions({
    queryKey: ["campaign-state", id, revision, date],
    queryFn: () => answerOf(api.GET("/api/v1/campaigns/{id}/state", { params: { path: { id }, query: { date } } })),
    placeholderData: keepPreviousData,
  });

/** Darkness and moon of an evening at a site; nothing is asked without one. */
export const nightSummaryQuery = (site: NightSite | undefined, date: string) =>
  queryOptions({
    queryKey: ["night-summary", site, date],
    queryFn: () => answerOf(api.POST("/api/v1/night/summary", { body: { site: site as NightSite, date } })),
    enabled: site !== undefined,
    staleTime: 600_000,
  });

/** A night against those of the month ahead; nothing is asked for null. */
export const nightAheadQuery = (body: Body<"/api/v1/night/ahead"> | null) =>
  queryOptions({
    queryKey: ["night-ahead", body],
    queryFn: () => answerOf(api.POST("/api/v1/night/ahead", { body: body as NonNullable<typeof body> })),
    enabled: body !== null,
  });

/** A night's plan as what the camera is told; nothing is asked for null. */
export const sequenceQuery = (body: Body<"/api/v1/night/sequence"> | null) =>
  queryOptions({
    queryKey: ["night-sequence", body],
    queryFn: () => answerOf(api.POST("/api/v1/night/sequence", { body: body as NonNullable<typeof body> })),
    enabled: body !== null,
  });

/** A month or a year of nights; nothing is asked for null. */
export const calendarQuery = (body: Body<"/api/v1/night/calendar"> | null) =>
  queryOptions({
    queryKey: ["calendar", body],
    queryFn: () => answerOf(api.POST("/api/v1/night/calendar", { body: body as NonNullable<typeof body> })),
    enabled: body !== null,
    placeholderData: keepPreviousData,
  });

/** The catalogue ranked for an evening; nothing is asked for null. */
export const worthTonightQuery = (body: Body<"/api/v1/night/tonight"> | null) =>
  queryOptions({
    queryKey: ["tonight-list", body],
    queryFn: () => answerOf(api.POST("/api/v1/night/tonight", { body: body as NonNullable<typeof body> })),
    enabled: body !== null,
    placeholderData: keepPreviousData,
  });

/** What a report prints: the comparison (its draft, where `draftOf` finds one), the bench and what is decided. */
export const reportQuery = (id: string, draftOf: (stored: Scenario) => Scenario) =>
  queryOptions({
    queryKey: ["report", id],
    queryFn: async () => {
      const stored = (await scenario(id)).scenario;
      const body = draftOf(stored);
      const [bench, decisions] = await Promise.all([
        answerOf(api.POST("/api/v1/bench", { body })),
        answerOf(api.POST("/api/v1/decisions", { body })),
      ]);
      return { scenario: body, bench, decisions, draft: body !== stored };
    },
    gcTime: 0,
  });

/** Blind looks that were revealed before. */
export const blindListQuery = (after: string | undefined) =>
  queryOptions({
    queryKey: ["blind-list", after],
    queryFn: () => answerOf(api.GET("/api/v1/look/blind")),
    enabled: after !== undefined,
  });

/** What a blind look asks the eye. */
export const blindAskedQuery = (id: string) =>
  queryOptions({
    queryKey: ["blind", id, "asked"],
    queryFn: () => answerOf(api.GET("/api/v1/look/blind/{id}", { params: { path: { id } } })),
    staleTime: FOR_GOOD,
  });

/** The pictures of a round of a blind look, without names. */
export const blindFramesQuery = (id: string, round: number) =>
  queryOptions({
    queryKey: ["blind", id, round],
    queryFn: async () => unpack(await bytes(`/api/v1/look/blind/${id}/frames/${round}`)),
    staleTime: FOR_GOOD,
    gcTime: 0,
  });

/** Reads a curve out of a text; nothing is stored. */
export const readCurve = (text: string, columns?: { wavelength_column: number; value_column: number }) =>
  answerOf(api.POST("/api/v1/curves/read", { body: { text, ...columns } }));
