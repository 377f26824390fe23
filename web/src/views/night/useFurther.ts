import { type UseQueryResult, useQueries } from "@tanstack/react-query";
import { useMemo } from "react";
import type { StoredCampaign } from "@/api/client";
import { scenarioQuery, targetQuery } from "@/api/queries";
import type { FurtherFound } from "./question";
import { readFurther } from "./targets";

/** The answers as they are and which of them failed; the same object as long as neither changes. */
function combined<T>(all: UseQueryResult<T>[]) {
  return { data: all.map((q) => q.data), failed: all.map((q) => q.isError) };
}

/** The further targets of the address, with what each stands for; those that stand for nothing (any more) are named. */
export function useFurther(params: URLSearchParams, campaigns: readonly StoredCampaign[] | undefined) {
  const written = JSON.stringify(params.getAll("then"));
  const asked = useMemo(() => (JSON.parse(written) as string[]).filter(Boolean).map(readFurther), [written]);
  const targets = useQueries({
    queries: asked.map(({ what }) => ({
      ...targetQuery(what.slice(2)),
      enabled: what.startsWith("t:") && what.length > 4,
      retry: false,
    })),
    combine: combined,
  });
  const scenarios = useQueries({
    queries: asked.map(({ what }) => scenarioQuery(what.startsWith("b:") ? (what.split(":")[1] ?? "") : "")),
    combine: combined,
  });
  const found = useMemo(
    () =>
      asked.map((f, i): FurtherFound | null => {
        const [, id = "", path = ""] = f.what.split(":");
        const own = f.what.startsWith("c:") ? campaigns?.find((c) => c.id === id) : undefined;
        if (own) {
          const name = own.campaign.scenario.target.name;
          return { ...f, name, campaign: own.campaign, campaignId: own.id, ...(path !== "" && { row: Number(path) }) };
        }
        const scenario = scenarios.data[i]?.scenario;
        if (scenario) return { ...f, name: scenario.target.name, scenario, row: Number(path) || 0 };
        const target = targets.data[i];
        return target ? { ...f, name: target.object.name, known: target } : null;
      }),
    [asked, campaigns, targets, scenarios],
  );
  const gone = (what: string) => what.startsWith("c:") && campaigns !== undefined;
  const failed = (i: number) => targets.failed[i] === true || scenarios.failed[i] === true;
  const unknown = asked.filter(({ what }, i) => !found[i] && (failed(i) || gone(what)));
  return { asked, found, unknown };
}
