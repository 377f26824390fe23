import { useQuery } from "@tanstack/react-query";
import { useState } from "react";
import { toast } from "sonner";
import { answerOf, api } from "@/api/client";
import { Button } from "@/parts/controls/Button";
import { Select } from "@/parts/controls/Select";
import { useSites } from "@/parts/evening";
import { useParamsEdit } from "@/parts/useParams";
import { contenderMark } from "@/theme/marks";

/** Begins a campaign from a comparison, one of its paths and a site. */
export function Begin({ done }: { done: (id: string) => Promise<void> }) {
  const [params] = useParamsEdit();
  const scenarios = useQuery({ queryKey: ["scenarios"], queryFn: () => answerOf(api.GET("/api/v1/scenarios")) });
  const sites = useSites();
  const [from, setFrom] = useState(params.get("from") ?? "");
  const [row, setRow] = useState(Number(params.get("row") ?? 0) || 0);
  const chosen = useQuery({
    queryKey: ["scenario-to-begin", from],
    queryFn: () => answerOf(api.GET("/api/v1/scenarios/{id}", { params: { path: { id: from } } })),
    enabled: from !== "",
  });
  const paths = chosen.data?.scenario.contenders ?? [];
  const path = Math.min(row, Math.max(0, paths.length - 1));
  const [site, setSite] = useState("");
  const begin = async () => {
    const scenario = chosen.data?.scenario;
    if (!scenario) return;
    try {
      const object = await answerOf(
        api.GET("/api/v1/targets/{name}", { params: { path: { name: scenario.target.name } } }),
      )
        .then((t) => t.object)
        .catch(() => null);
      if (!object) {
        toast.error(
          `The catalogue holds no "${scenario.target.name}": give the comparison's target a catalogue name first.`,
        );
        return;
      }
      // Every line that somebody wants of a filter is a goal of its own: a dual band has two.
      const decided = await answerOf(api.POST("/api/v1/decisions", { body: scenario }));
      const goals = (decided.paths[path]?.time.parts ?? []).flatMap((p, exposure) => {
        const lines = p.served.filter((v) => v.wanted).map((v) => v.quantity);
        return (lines.length ? lines : [null]).map((quantity) => ({
          exposure,
          quantity,
          snr: scenario.goal_snr ?? 20,
        }));
      });
      const made = await answerOf(
        api.POST("/api/v1/campaigns", {
          body: {
            title: `${scenario.target.name} campaign`,
            scenario,
            contender: path,
            site: site || (sites[0]?.id ?? ""),
            framing: { ra_deg: object.ra_deg, dec_deg: object.dec_deg, position_angle_deg: 0 },
            goals,
            clear_share: 0.25,
            nights: [],
          },
        }),
      );
      await done(made.id);
      toast.success("Begun. Plan its first night from here.");
    } catch (e) {
      toast.error((e as Error).message, { duration: 10_000 });
    }
  };
  return (
    <div className="mt-3 flex flex-col gap-2 rounded-xl bg-surface p-3">
      <Select
        label="Begin one from"
        value={from}
        placeholder="a comparison…"
        options={(scenarios.data ?? []).map((s) => ({ value: s.id, label: s.title }))}
        onChange={(v) => {
          setFrom(v);
          setRow(0);
        }}
        testId="begin-from"
      />
      {paths.length > 0 && (
        <>
          <Select
            label="With the light path"
            value={String(path)}
            options={paths.map((c, i) => ({ value: String(i), label: `${contenderMark(i).letter} ${c.name}` }))}
            onChange={(v) => setRow(Number(v))}
            testId="begin-path"
          />
          <Select
            label="From the site"
            value={site || (sites[0]?.id ?? "")}
            options={sites.map((x) => ({ value: x.id, label: x.entry.name }))}
            onChange={setSite}
            testId="begin-site"
          />
        </>
      )}
      <Button look="lit" disabled={!chosen.data} onClick={() => void begin()}>
        Begin
      </Button>
    </div>
  );
}
