import { useQuery, useQueryClient } from "@tanstack/react-query";
import { Download, Eye, Plus, Printer, Redo2, Save, Undo2 } from "lucide-react";
import { Tabs } from "radix-ui";
import { type ReactNode, useCallback, useEffect, useMemo, useRef, useState } from "react";
import { Link, useNavigate, useParams } from "react-router";
import { toast } from "sonner";
import {
  api,
  type Contender,
  type Library,
  must,
  ProblemError,
  type Quantity,
  type Scenario,
  type StoredScenario,
} from "@/api/client";
import { useDecisions } from "@/api/useDecisions";
import { useLive } from "@/api/useLive";
import { Boundary } from "@/parts/Boundary";
import { ConflictDialog } from "@/parts/ConflictDialog";
import { Choice } from "@/parts/controls/Choice";
import { mag } from "@/parts/format";
import { LiveProblem } from "@/parts/LiveProblem";
import { saveFile } from "@/parts/save";
import { kept } from "@/parts/savedDraft";
import { useCommands } from "@/parts/shortcuts";
import { useFoot } from "@/parts/statusLine";
import { UnfitDraft } from "@/parts/UnfitDraft";
import { Button, IconButton } from "@/parts/ui";
import { useParamsEdit } from "@/parts/useParams";
import { useTitle } from "@/parts/useTitle";
import { where } from "@/parts/where";
import { hue, mark, QUANTITIES, QUANTITY_LABELS } from "@/theme/marks";
import { LookPanel } from "./look/LookPanel";
import { BandwidthChart } from "./panels/BandwidthChart";
import { BudgetPanel } from "./panels/BudgetPanel";
import { CompareTable } from "./panels/CompareTable";
import { FilterRanking } from "./panels/FilterRanking";
import { GainChart } from "./panels/GainChart";
import { SpectrumChart } from "./panels/SpectrumChart";
import { SubChart } from "./panels/SubChart";
import { TimeChart } from "./panels/TimeChart";
import { WorthPanel } from "./panels/WorthPanel";
import { PathRow } from "./paths/PathRow";
import { applyParams, sceneToParams } from "./scene/address";
import { Scene } from "./scene/Scene";
import { useDraft } from "./useDraft";
import { Verdicts } from "./Verdicts";

/** Loads what the bench needs, then shows it. */
export function BenchPage() {
  const { id = "" } = useParams();
  const stored = useQuery({
    queryKey: ["scenario", id],
    queryFn: () => must(api.GET("/api/v1/scenarios/{id}", { params: { path: { id } } })),
    staleTime: Number.POSITIVE_INFINITY,
    gcTime: 0,
  });
  const library = useQuery({
    queryKey: ["library"],
    queryFn: () => must(api.GET("/api/v1/library")),
    staleTime: Number.POSITIVE_INFINITY,
  });
  const error = stored.error ?? library.error;
  if (error)
    return (
      <div className="mx-auto mt-24 max-w-md text-center">
        <h1 className="text-xl">This comparison cannot be shown.</h1>
        <p className="mt-2 whitespace-pre-line text-muted">{error.message}</p>
        <Link to="/bench" className="mt-4 inline-block text-salt underline underline-offset-4">
          All comparisons
        </Link>
      </div>
    );
  if (!stored.data || !library.data) return <div className="p-6 text-muted">Loading…</div>;
  return <Bench key={id} initial={stored.data} library={library.data} />;
}

function Bench({ initial, library }: { initial: StoredScenario; library: Library }) {
  const [params, param] = useParamsEdit();
  const go = useNavigate();
  const client = useQueryClient();
  const foot = useFoot();
  // The address is read once, then written.
  const [start] = useState(() =>
    applyParams(kept<Scenario>(initial.id, initial.scenario)?.draft ?? initial.scenario, params),
  );
  const draft = useDraft(initial, start);
  const { draft: scenario, change, dirty, stored, setStored, base } = draft;
  useTitle(scenario.title);
  const [conflict, setConflict] = useState<StoredScenario | null>(null);
  const [saving, setSaving] = useState(false);

  const { answer, problem, againInS } = useLive(scenario, (body, signal) =>
    must(api.POST("/api/v1/bench", { body, signal })),
  );

  useEffect(() => {
    const wait = window.setTimeout(() => param((p) => sceneToParams(stored.scenario, scenario, p)), 500);
    return () => window.clearTimeout(wait);
  }, [scenario, stored, param]);

  const emitted = useMemo(
    () => QUANTITIES.filter((q) => answer?.evaluation.contenders.some((c) => c.quantities[q])),
    [answer],
  );
  const asked = params.get("q") as Quantity | null;
  const quantity: Quantity = asked && emitted.includes(asked) ? asked : (answer?.first_quantity ?? "ha");
  const row = Math.min(Number(params.get("row") ?? 0) || 0, scenario.contenders.length - 1);

  const saveCopy = useCallback(async () => {
    try {
      const copy = await must(
        api.POST("/api/v1/scenarios", { body: { ...scenario, title: `${scenario.title} (mine)`.slice(0, 200) } }),
      );
      setStored(conflict ?? stored, true);
      setConflict(null);
      void client.invalidateQueries({ queryKey: ["scenarios"] });
      void go(`/bench/${copy.id}`);
      toast.success("Saved as a comparison of its own");
    } catch (e) {
      toast.error((e as Error).message);
    }
  }, [scenario, conflict, stored, setStored, client, go]);
  const save = useCallback(
    async (over?: number) => {
      setSaving(true);
      try {
        const saved = await must(
          api.PUT("/api/v1/scenarios/{id}", {
            params: { path: { id: stored.id }, header: { "If-Match": `"${over ?? base}"` } },
            body: scenario,
          }),
        );
        setStored(saved, false);
        setConflict(null);
        void client.invalidateQueries({ queryKey: ["scenarios"] });
        toast.success("Saved");
      } catch (e) {
        if (e instanceof ProblemError && e.problem.status === 412 && e.problem.current)
          setConflict(e.problem.current as StoredScenario);
        else if (e instanceof ProblemError && e.problem.status === 404) {
          toast.error("This comparison was deleted meanwhile. Save it as a copy to keep your draft.", {
            action: { label: "Save a copy", onClick: () => void saveCopy() },
          });
        } else toast.error((e as Error).message, { duration: 10_000 });
      } finally {
        setSaving(false);
      }
    },
    [scenario, stored.id, base, setStored, saveCopy, client],
  );
  const takeTheirs = () => {
    if (!conflict) return;
    setStored(conflict, true);
    setConflict(null);
  };

  useCommands(
    useMemo(
      () => [
        { id: "save", label: "Save this comparison", keys: "Mod+S", run: () => void save() },
        { id: "undo", label: "Undo", keys: "u", run: draft.undo },
        { id: "undo-z", label: "Undo (also)", keys: "Mod+Z", run: draft.undo },
        { id: "redo", label: "Redo", keys: "Mod+Shift+Z", run: draft.redo },
        { id: "report", label: "Report to print", run: () => void go(`/bench/${stored.id}/report`) },
        { id: "export", label: "Save the scenario as a JSON file", run: () => exportJson(scenario) },
        ...emitted.map((q, i) => ({
          id: `q-${q}`,
          label: `Judge by ${QUANTITY_LABELS[q]}`,
          keys: String(i + 1),
          run: () => param((p) => p.set("q", q)),
        })),
      ],
      [save, draft.undo, draft.redo, scenario, emitted, param, go, stored.id],
    ),
  );
  useEffect(() => {
    const warn = (e: BeforeUnloadEvent) => {
      // The draft is kept in this browser; only warn where it could not be.
      if (dirty && !kept<Scenario>(stored.id, stored.scenario)) e.preventDefault();
    };
    window.addEventListener("beforeunload", warn);
    return () => window.removeEventListener("beforeunload", warn);
  }, [dirty, stored.id, stored.scenario]);

  const sky = answer?.evaluation.sky;
  useEffect(() => {
    foot(
      sky ? (
        <>
          <span>
            Sky towards the target <b className="num font-medium text-ink">{mag(sky.total_v_mag)}</b> mag/arcsec²
          </span>
          <span>
            natural {mag(sky.natural_v_mag)}, lamps {mag(sky.artificial_v_mag)}, moon {mag(sky.moon_v_mag)}, twilight{" "}
            {mag(sky.twilight_v_mag)}
          </span>
          <span>airmass {sky.airmass.toFixed(2)}</span>
          <span>extinction {sky.k_v.toFixed(2)} mag</span>
        </>
      ) : null,
    );
    return () => foot(null);
  }, [foot, sky]);

  const chart = CHARTS.find(([id]) => id === params.get("chart"))?.[0] ?? "time";
  /** Puts a filter of the ranking into the exposure that records the quantity best. */
  const takeFilter = (id: string | null) => {
    const filter = library.filters.find((f) => f.id === id)?.filter ?? null;
    const passes = answer?.evaluation.contenders[row]?.exposures.map((e) => e.stages[quantity]?.filter ?? 0) ?? [];
    const at = passes.indexOf(Math.max(...passes));
    change((s) => {
      const exposure = s.contenders[row]?.exposures[Math.max(0, at)];
      if (exposure) exposure.filter = structuredClone(filter);
    });
  };
  // Rows out of sight stand in the address by their place; the baseline stays.
  const many = scenario.contenders.length;
  const hidden = useMemo(() => hiddenRows(params, many), [params, many]);
  const hide = (i: number, away: boolean) =>
    param((p) => {
      const next = [...hiddenRows(p, many)].filter((h) => h !== i);
      if (away) next.push(i);
      if (next.length) p.set("hidden", next.sort((a, b) => a - b).join(","));
      else p.delete("hidden");
      if (away && row === i) p.set("row", "0");
    });
  const wantsDecisions = ["sub", "gain", "budget", "worth"].includes(chart);
  const { answer: decisions, ...decisionsLive } = useDecisions(wantsDecisions ? scenario : null);
  const decided = { scenario, decisions, contender: row, letter: mark(row).letter, change };
  const heading = useRef<HTMLInputElement>(null);
  const addRow = (from: Contender) =>
    change((s) => {
      s.contenders.push({ ...structuredClone(from), name: `${from.name} (copy)` });
    });

  return (
    <div className="flex flex-col gap-3 px-5 py-3">
      <div className="flex flex-wrap items-center gap-2">
        <Link to="/bench" className="text-muted hover:text-ink">
          Comparisons
        </Link>
        <span className="text-muted">/</span>
        <h1 className="sr-only">{scenario.title}</h1>
        <input
          ref={heading}
          aria-label="Title"
          value={scenario.title}
          maxLength={200}
          onChange={(e) => change((s) => void (s.title = e.target.value))}
          className="min-w-32 grow rounded bg-transparent px-1 text-[1.15rem] font-medium hover:bg-surface focus:bg-well"
        />
        <span className="text-[0.88rem] whitespace-nowrap text-muted" aria-live="polite" data-testid="save-state">
          {saving ? "Saving…" : dirty ? "Unsaved changes, kept in this browser" : "Saved"}
        </span>
        <IconButton label="Undo (u)" onClick={draft.undo} disabled={!draft.canUndo}>
          <Undo2 size={16} aria-hidden />
        </IconButton>
        <IconButton label="Redo" onClick={draft.redo} disabled={!draft.canRedo}>
          <Redo2 size={16} aria-hidden />
        </IconButton>
        <IconButton label="Report to print" onClick={() => void go(`/bench/${stored.id}/report`)}>
          <Printer size={16} aria-hidden />
        </IconButton>
        <IconButton label="Save as a JSON file" onClick={() => exportJson(scenario)}>
          <Download size={16} aria-hidden />
        </IconButton>
        <Button look={dirty ? "lit" : "plain"} onClick={() => void save()} disabled={saving || !dirty}>
          <Save size={15} aria-hidden /> Save
        </Button>
      </div>

      <Scene scenario={scenario} library={library} answer={answer} change={change} />

      <UnfitDraft id={initial.id} />
      <LiveProblem problem={problem} againInS={againInS} scenario={scenario} />

      <section aria-label="Light paths" className="flex flex-col gap-1.5">
        <div className="flex flex-wrap items-center gap-x-3 gap-y-1">
          <h2 className="text-[1.02rem] font-medium">Light paths</h2>
          <QuantityChoice list={emitted} value={quantity} set={(q) => param((p) => p.set("q", q))} />
          <div className="grow" />
          <Button
            look="quiet"
            onClick={() => scenario.contenders[row] && addRow(scenario.contenders[row])}
            disabled={scenario.contenders.length >= 12}
          >
            <Plus size={15} aria-hidden /> Add a path
          </Button>
        </div>
        {scenario.contenders.map((c, i) =>
          hidden.has(i) ? null : (
            <PathRow
              key={i}
              hide={() => hide(i, true)}
              beginCampaign={() => void go(`/campaign?from=${stored.id}&row=${i}`)}
              index={i}
              scenario={scenario}
              contender={c}
              answer={answer?.evaluation.contenders[i]}
              words={answer?.rows[i]}
              quantity={quantity}
              selected={i === row}
              select={() => param((p) => p.set("row", String(i)))}
              library={library}
              change={change}
              errors={problem?.problem.errors ?? []}
              open={params.get("edit")?.startsWith(`${i}.`) ? (params.get("edit")?.split(".")[1] ?? null) : null}
              setOpen={(stage) => param((p) => (stage ? p.set("edit", `${i}.${stage}`) : p.delete("edit")))}
            />
          ),
        )}
        {hidden.size > 0 && (
          <div className="flex flex-wrap items-center gap-2 pl-1 text-[0.9rem] text-muted" data-testid="hidden-rows">
            Hidden:
            {[...hidden].map((i) => (
              <Button key={i} look="quiet" onClick={() => hide(i, false)} aria-label={`Show path ${mark(i).letter}`}>
                <b style={{ color: mark(i).colour }}>{mark(i).letter}</b> {scenario.contenders[i]?.name}
                <Eye size={14} aria-hidden />
              </Button>
            ))}
          </div>
        )}
      </section>

      {answer && (
        <div className="grid grid-cols-[22rem_minmax(0,1fr)] gap-2.5 max-lg:grid-cols-1">
          <Verdicts index={row} name={scenario.contenders[row]?.name ?? ""} words={answer.rows[row]} />
          <div className="min-w-0">
            <ChartTabs value={chart} set={(c) => param((p) => p.set("chart", c))}>
              {wantsDecisions && !problem && (
                <LiveProblem problem={decisionsLive.problem} againInS={decisionsLive.againInS} scenario={scenario} />
              )}
              <Boundary what="This chart" keys={[chart, row, answer]} height={200}>
                {chart === "time" && (
                  <TimeChart
                    answer={answer}
                    quantity={quantity}
                    totalS={scenario.total_s}
                    goal={scenario.goal_snr ?? 20}
                    selected={row}
                    hidden={hidden}
                  />
                )}
                {chart === "sub" && (
                  <SubChart
                    {...decided}
                    exposure={Number(params.get("exposure") ?? 0) || 0}
                    setExposure={(i) => param((p) => p.set("exposure", String(i)))}
                  />
                )}
                {chart === "gain" && <GainChart {...decided} />}
                {chart === "budget" && <BudgetPanel {...decided} />}
                {chart === "worth" && <WorthPanel {...decided} quantity={quantity} />}
                {chart === "look" && (
                  <LookPanel scenario={scenario} selected={row} quantity={quantity} hidden={hidden} />
                )}
                {chart === "table" && <CompareTable scenario={scenario} />}
                {chart === "filters" && (
                  <FilterRanking
                    scenario={scenario}
                    contender={row}
                    quantity={quantity}
                    letter={mark(row).letter}
                    use={takeFilter}
                  />
                )}
                {chart === "spectrum" && (
                  <SpectrumChart scenario={scenario} contender={row} letter={mark(row).letter} />
                )}
                {chart === "bandwidth" && (
                  <BandwidthChart scenario={scenario} contender={row} quantity={quantity} letter={mark(row).letter} />
                )}
              </Boundary>
            </ChartTabs>
          </div>
        </div>
      )}
      {answer?.evaluation.warnings.map((w) => (
        <p key={w.path + w.message} className="text-[0.92rem] text-amber">
          <b className="font-medium">{where(w.path, scenario)}:</b> {w.message}
        </p>
      ))}
      {conflict && (
        <ConflictDialog
          theirs={conflict}
          onTheirs={takeTheirs}
          onCopy={() => void saveCopy()}
          onOver={() => void save(conflict.revision)}
          onClose={() => setConflict(null)}
        />
      )}
    </div>
  );
}

const CHARTS = [
  ["time", "Time"],
  ["sub", "Sub"],
  ["gain", "Gain"],
  ["budget", "Budget"],
  ["filters", "Which filter"],
  ["spectrum", "Spectrum"],
  ["bandwidth", "Bandwidth"],
  ["look", "Look"],
  ["worth", "Worth"],
  ["table", "Table"],
] as const;

/** The tabs of the charts, the chosen one's chart in its panel. */
function ChartTabs({ value, set, children }: { value: string; set: (chart: string) => void; children: ReactNode }) {
  return (
    <Tabs.Root value={value} onValueChange={set}>
      <Tabs.List aria-label="Charts" className="mb-1 flex flex-wrap gap-x-1">
        {CHARTS.map(([id, label]) => (
          <Tabs.Trigger
            key={id}
            value={id}
            className="rounded-t-lg border-b-2 border-transparent px-3 py-0.5 text-[0.93rem] text-muted hover:text-ink data-[state=active]:border-salt data-[state=active]:text-ink"
          >
            {label}
          </Tabs.Trigger>
        ))}
      </Tabs.List>
      {CHARTS.map(([id]) => (
        <Tabs.Content key={id} value={id}>
          {children}
        </Tabs.Content>
      ))}
    </Tabs.Root>
  );
}

function QuantityChoice({ list, value, set }: { list: Quantity[]; value: Quantity; set: (q: Quantity) => void }) {
  return (
    <Choice
      label="Judge by"
      value={value}
      onChange={set}
      options={list.map((q) => ({
        value: q,
        label: (
          <>
            <span aria-hidden className="size-2 rounded-full" style={{ background: hue(q) }} />
            {QUANTITY_LABELS[q]}
          </>
        ),
      }))}
    />
  );
}

function hiddenRows(params: URLSearchParams, many: number): ReadonlySet<number> {
  const places = (params.get("hidden") ?? "").split(",").map(Number);
  return new Set(places.filter((i) => i > 0 && i < many));
}

function exportJson(scenario: Scenario) {
  saveFile(`${scenario.title || "scenario"}.json`, "application/json", JSON.stringify(scenario, null, 2));
}
