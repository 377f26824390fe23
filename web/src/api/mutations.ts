import { type QueryKey, useMutation, useQueryClient } from "@tanstack/react-query";
import { usualPurpose } from "@/parts/purpose";
import {
  answerOf,
  api,
  type Campaign,
  type CampaignNight,
  type CompareQuestion,
  type FramePlan,
  type Scenario,
  type ScenarioRow,
  type ShelfEntry,
  type StoredCampaign,
  type Target,
} from "./client";
import { handOver } from "./handed";
import { campaignsQuery, STALE, scenariosQuery } from "./queries";
import { touch } from "./touched";

type Change<V, A> = {
  change: (what: V) => Promise<A>;
  /** The beginnings of the keys of what it makes stale, where it was done and where it was refused. */
  stale: (what: V, refused: boolean) => readonly QueryKey[];
  /** What is shown at once, before the server has answered; what it returns takes that back where the server refuses. */
  before?: (what: V) => () => void;
  /** Changes of one name are made one after the other, in the order in which they were asked for. */
  inTurn?: string;
};

/** A comparison that is shown under its new name is copied under it, though the name may still be on its way. */
const COMPARISONS = "comparisons";

/** A change on the server: what it makes stale is asked anew, what was shown too early is taken back. */
export function useChange<V, A>({ change, stale, before, inTurn }: Change<V, A>) {
  const client = useQueryClient();
  return useMutation<A, Error, V, (() => void) | undefined>({
    mutationFn: change,
    ...(inTurn && { scope: { id: inTurn } }),
    onMutate: (what) => before?.(what),
    onError: (_error, _what, back) => back?.(),
    onSettled: async (_answer, error, what) => {
      await Promise.all(stale(what, error !== null).map((queryKey) => client.invalidateQueries({ queryKey })));
    },
  }).mutateAsync;
}

const at = (revision: number) => ({ "If-Match": `"${revision}"` });

/** Stores a new comparison. */
export const useAddScenario = () =>
  useChange({
    change: (body: Scenario) => answerOf(api.POST("/api/v1/scenarios", { body })),
    stale: () => STALE.scenarios,
  });

export const useDuplicateScenario = () =>
  useChange({
    change: (id: string) => answerOf(api.POST("/api/v1/scenarios/{id}/duplicate", { params: { path: { id } } })),
    stale: () => STALE.scenarios,
    inTurn: COMPARISONS,
  });

/** Saves a comparison over the revision that was started from. */
export const useSaveScenario = () =>
  useChange({
    change: ({ id, over, scenario }: { id: string; over: number; scenario: Scenario }) =>
      answerOf(api.PUT("/api/v1/scenarios/{id}", { params: { path: { id }, header: at(over) }, body: scenario })),
    stale: () => STALE.scenarios,
  });

/** The list of comparisons as it will be, until the server has answered. */
function useListAhead() {
  const client = useQueryClient();
  const { queryKey } = scenariosQuery;
  return (how: (list: ScenarioRow[]) => ScenarioRow[]) => {
    const was = client.getQueryData<ScenarioRow[]>(queryKey);
    void client.cancelQueries({ queryKey });
    client.setQueryData<ScenarioRow[]>(queryKey, (list) => list && how(list));
    return () => client.setQueryData(queryKey, was);
  };
}

/** Gives a stored comparison another title. */
export function useRenameScenario() {
  const ahead = useListAhead();
  return useChange({
    change: async ({ id, title }: { id: string; title: string }) => {
      const path = { id };
      const { scenario, revision } = await answerOf(api.GET("/api/v1/scenarios/{id}", { params: { path } }));
      const body = { ...scenario, title };
      return answerOf(api.PUT("/api/v1/scenarios/{id}", { params: { path, header: at(revision) }, body }));
    },
    stale: () => STALE.scenarios,
    inTurn: COMPARISONS,
    before: ({ id, title }) => ahead((list) => list.map((row) => (row.id === id ? { ...row, title } : row))),
  });
}

export function useRemoveScenario() {
  const ahead = useListAhead();
  return useChange({
    change: (id: string) => answerOf(api.DELETE("/api/v1/scenarios/{id}", { params: { path: { id } } })),
    stale: () => STALE.scenarios,
    inTurn: COMPARISONS,
    before: (id) => ahead((list) => list.filter((row) => row.id !== id)),
  });
}

export const useRestoreScenario = () =>
  useChange({
    change: (id: string) => answerOf(api.POST("/api/v1/scenarios/{id}/restore", { params: { path: { id } } })),
    stale: () => STALE.scenarios,
    inTurn: COMPARISONS,
  });

/** What is kept of a framing: the frame, and of a campaign where it is framed. */
type Kept = { frame: FramePlan | null; framing?: Campaign["framing"] };

/** Keeps a framing with a comparison or a campaign. Answers what stood there before, to be kept again where it is taken back. */
export const useKeepFrame = () =>
  useChange({
    change: async ({
      kind,
      id,
      frame,
      framing,
    }: { kind: "scenario" | "campaign"; id: string } & Kept): Promise<Kept> => {
      const path = { id };
      if (kind === "scenario") {
        const { scenario, revision } = await answerOf(api.GET("/api/v1/scenarios/{id}", { params: { path } }));
        const body = { ...scenario, frame };
        await answerOf(api.PUT("/api/v1/scenarios/{id}", { params: { path, header: at(revision) }, body }));
        return { frame: scenario.frame ?? null };
      }
      const { campaign, revision } = await answerOf(api.GET("/api/v1/campaigns/{id}", { params: { path } }));
      const { scenario } = campaign;
      const there = framing ?? frame?.at ?? campaign.framing;
      const body = { ...campaign, framing: there, scenario: { ...scenario, frame } };
      await answerOf(api.PUT("/api/v1/campaigns/{id}", { params: { path, header: at(revision) }, body }));
      return { frame: scenario.frame ?? null, framing: campaign.framing };
    },
    stale: () => [...STALE.scenarios, ...STALE.campaigns],
  });

/** Puts a new thing on the shelf. */
export const useAddEntry = () =>
  useChange({
    change: (body: ShelfEntry) => answerOf(api.POST("/api/v1/shelf", { body })),
    stale: () => STALE.shelf,
  });

/** Deletes a thing of the shelf, or puts it away where a comparison uses it: the answer says which. */
export const useRemoveEntry = () =>
  useChange({
    change: (id: string) => answerOf(api.DELETE("/api/v1/shelf/{id}", { params: { path: { id } } })),
    stale: () => STALE.shelf,
  });

export const useRestoreEntry = () =>
  useChange({
    change: (id: string) => answerOf(api.POST("/api/v1/shelf/{id}/restore", { params: { path: { id } } })),
    stale: () => STALE.shelf,
  });

/** Saves a thing of the shelf over the revision that was started from. */
export const useSaveEntry = () =>
  useChange({
    change: ({ id, over, entry }: { id: string; over: number; entry: ShelfEntry }) =>
      answerOf(api.PUT("/api/v1/shelf/{id}", { params: { path: { id }, header: at(over) }, body: entry })),
    stale: () => STALE.shelf,
  });

/** Says whether a thing of the shelf is owned. */
export const useOwnEntry = () =>
  useChange({
    change: ({ id, mine }: { id: string; mine: boolean }) =>
      answerOf(api.PUT("/api/v1/shelf/{id}/mine", { params: { path: { id } }, body: { mine } })),
    stale: () => STALE.shelf,
  });

/** Makes a rig or a site the usual one. */
export const useMakeUsual = () =>
  useChange({
    change: (id: string) => answerOf(api.POST("/api/v1/shelf/{id}/usual", { params: { path: { id } } })),
    stale: () => STALE.shelf,
  });

/** Puts a rig into the kit from the text of its file. */
export const useReadRig = () =>
  useChange({
    change: (text: string) => answerOf(api.POST("/api/v1/kit/rigs/read", { body: { text } })),
    stale: () => STALE.shelf,
  });

/** Whose light paths, under which sky, and on what: a target as it stands, or a name of the catalogue with what its user says of it. */
type Comparing = Omit<CompareQuestion, "target"> & ({ target: Target } | { on: string });

/** A comparison of one's own light paths: made, and begun on the bench. In no list until it is touched. */
export const useCompare = () =>
  useChange({
    change: async (what: Comparing) => {
      const { on, target, ...rest } = { on: "", target: null, ...what };
      const wanted = target ?? (await targetOf(on));
      const body = await answerOf(
        api.POST("/api/v1/kit/compare", { body: { purpose: usualPurpose(), ...rest, target: wanted } }),
      );
      // Both are asked at once; without an answer the bench asks again, and says what is wrong.
      const [stored, answer] = await Promise.all([
        answerOf(api.POST("/api/v1/scenarios", { params: { query: { untouched: true } }, body })),
        answerOf(api.POST("/api/v1/bench", { body })).catch(() => undefined),
      ]);
      handOver(stored, answer);
      return stored;
    },
    // It is in no list yet.
    stale: () => [],
  });

/** What an object of the catalogue emits: as its user says, else as the catalogue knows. */
async function targetOf(name: string): Promise<Target> {
  const { emission, catalogued } = await answerOf(api.GET("/api/v1/targets/{name}", { params: { path: { name } } }));
  return emission ?? catalogued;
}

/** Says that a comparison which was only begun is worked on. */
export const useTouchScenario = () =>
  useChange({
    change: touch,
    stale: () => STALE.scenarios,
  });

/** Keeps what an object emits; null is back to what the catalogue knows. */
export const useKeepEmission = () =>
  useChange({
    change: async ({ name, emission }: { name: string; emission: Target | null }) => {
      const params = { path: { name } };
      if (emission) await answerOf(api.PUT("/api/v1/targets/{name}", { params, body: emission }));
      else await answerOf(api.DELETE("/api/v1/targets/{name}", { params }));
    },
    stale: ({ name }) => STALE.target(name),
  });

/** Begins a campaign from a comparison, one of its light paths and a site. */
export const useBeginCampaign = () =>
  useChange({
    change: (body: { scenario: Scenario; contender: number; site: string }) =>
      answerOf(api.POST("/api/v1/campaigns/begin", { body })),
    stale: () => STALE.campaigns,
  });

/** A stored document of a list: its id, its revision, and itself under a name. */
type Listed<K extends string, D> = { id: string; revision: number } & { [key in K]: D };

/**
 * Changes a document of a list from how it is by then. What is typed is shown at once, and taken back where the server refuses it; one
 * change is asked for after the other. The list holds the answer already; what hangs on the document is kept under its revision, which
 * is a new one.
 */
export function useSaveListed<K extends string, D, S extends Listed<K, D>>(
  of: K,
  list: readonly string[],
  put: (id: string, over: { "If-Match": string }, body: D) => Promise<S>,
  refusedStale: readonly (readonly string[])[],
) {
  const client = useQueryClient();
  const find = (id: string) => client.getQueryData<S[]>(list)?.find((s) => s.id === id);
  const keep = (stored: S) =>
    client.setQueryData<S[]>(list, (all) => all?.map((s) => (s.id === stored.id ? stored : s)));
  return useChange({
    change: async ({ id }: { id: string; how: (d: D) => D }) => {
      const now = find(id);
      if (now) keep(await put(id, at(now.revision), now[of]));
    },
    before: ({ id, how }) => {
      const was = find(id);
      if (was) keep({ ...was, [of]: how(was[of]) });
      return () => was && keep(was);
    },
    stale: (_, refused) => (refused ? refusedStale : []),
  });
}

export const useSaveCampaign = () =>
  useSaveListed<"campaign", Campaign, StoredCampaign>(
    "campaign",
    campaignsQuery.queryKey,
    (id, header, body) => answerOf(api.PUT("/api/v1/campaigns/{id}", { params: { path: { id }, header }, body })),
    STALE.campaigns,
  );

export const useRemoveCampaign = () =>
  useChange({
    change: (id: string) => answerOf(api.DELETE("/api/v1/campaigns/{id}", { params: { path: { id } } })),
    stale: () => STALE.campaigns,
  });

export const useRestoreCampaign = () =>
  useChange({
    change: (id: string) => answerOf(api.POST("/api/v1/campaigns/{id}/restore", { params: { path: { id } } })),
    stale: () => STALE.campaigns,
  });

type Record = {
  into: StoredCampaign;
  night: CampaignNight;
  /** Subs that were really kept, one number an exposure. */
  subs?: number[];
  /** The light path that took it, where it is another than the campaign's own. */
  path?: number;
  /** The record in whose place it comes. */
  insteadOf?: CampaignNight;
};

/** Enters a night into a campaign. */
export const useRecordNight = () =>
  useChange({
    change: ({ into, night, subs, path, insteadOf }: Record) =>
      answerOf(
        api.POST("/api/v1/campaigns/{id}/nights", {
          params: { path: { id: into.id }, header: at(into.revision) },
          body: { night, subs, path, instead_of: insteadOf },
        }),
      ),
    stale: () => STALE.campaigns,
  });

/** Says the places of a round of a blind look. */
export const useChooseBlind = () =>
  useChange({
    change: ({ id, round, places }: { id: string; round: number; places: number[] }) =>
      answerOf(api.POST("/api/v1/look/blind/{id}/choice", { params: { path: { id } }, body: { round, places } })),
    stale: () => [],
  });

/** Ends a blind look: which picture was whose. */
export const useRevealBlind = () =>
  useChange({
    change: (id: string) => answerOf(api.POST("/api/v1/look/blind/{id}/reveal", { params: { path: { id } } })),
    stale: () => [["blind-list"]],
  });
