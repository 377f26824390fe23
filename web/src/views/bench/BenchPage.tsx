import { useQuery } from "@tanstack/react-query";
import { useCallback, useEffect, useMemo, useRef, useState } from "react";
import { Link, useNavigate, useParams } from "react-router";
import {
  answerOf,
  api,
  type BenchAnswer,
  type Library,
  type Quantity,
  type Scenario,
  type StoredScenario,
} from "@/api/client";
import { takeAnswer } from "@/api/handed";
import { useTouchScenario } from "@/api/mutations";
import { libraryQuery, openedScenarioQuery } from "@/api/queries";
import { useLive } from "@/api/useLive";
import { ConflictDialog } from "@/parts/ConflictDialog";
import { LiveProblem } from "@/parts/LiveProblem";
import { QuantityNames } from "@/parts/quantityName";
import { same } from "@/parts/same";
import { saveFile } from "@/parts/save";
import { savedDraft } from "@/parts/savedDraft";
import { useCommands } from "@/parts/shortcuts";
import { useStatusLine } from "@/parts/statusLine";
import { UnfitDraft } from "@/parts/UnfitDraft";
import { useParamsEdit } from "@/parts/useParams";
import { useTitle } from "@/parts/useTitle";
import { where } from "@/parts/where";
import { BenchHead } from "./BenchHead";
import { PanelTabs } from "./panels/PanelTabs";
import { Paths, TOGETHER } from "./paths/Paths";
import { SkyLine } from "./SkyLine";
import { applyParams, sceneToParams } from "./scene/address";
import { followed } from "./scene/goals";
import { Scene } from "./scene/Scene";
import { useDraft } from "./useDraft";
import { useHidden } from "./useHidden";
import { useSaving } from "./useSaving";
import { Verdicts } from "./Verdicts";

/** Until an answer is there nothing is judged. */
const NONE_JUDGED: BenchAnswer["judged"] = [];

/** Loads what the bench needs, then shows it. */
export function BenchPage() {
  const { id = "" } = useParams();
  const stored = useQuery(openedScenarioQuery(id));
  const library = useQuery(libraryQuery);
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
  // The address is read once, then written.
  const [start] = useState(() =>
    applyParams(savedDraft<Scenario>(initial.id, initial.scenario)?.draft ?? initial.scenario, params),
  );
  const draft = useDraft(initial, start);
  const { draft: scenario, change, dirty, stored } = draft;
  useTitle(scenario.title);
  const saving = useSaving(draft);
  const [untouched, keep] = useTouched(initial, dirty);
  // Where the comparison was just begun, its answer is there already.
  const [first] = useState(() => {
    const handed = takeAnswer(initial.id);
    return same(start, initial.scenario) ? handed : undefined;
  });
  const { answer, problem, againInS } = useLive(
    scenario,
    (body, signal) => answerOf(api.POST("/api/v1/bench", { body, signal })),
    first,
  );

  // The answer first, scene and charts right after it.
  const [painted, setPainted] = useState(false);
  useEffect(() => {
    let wait = 0;
    const frame = requestAnimationFrame(() => {
      wait = window.setTimeout(() => setPainted(true));
    });
    return () => {
      cancelAnimationFrame(frame);
      window.clearTimeout(wait);
    };
  }, []);

  const judged = answer?.judged ?? NONE_JUDGED;
  const recorded = useMemo(() => judged.map((j) => j.quantity), [judged]);
  const asked = params.get("q");
  // All that the first path is for: what is drawn of one light is then drawn of the one that is there last.
  const together = asked === TOGETHER && (answer?.rows[0]?.together.label.length ?? 0) > 0;
  const drawn = together ? answer?.rows[0]?.together.slowest : (asked as Quantity | null);
  const quantity: Quantity = drawn && recorded.includes(drawn) ? drawn : (answer?.first_quantity ?? "ha");
  const row = Math.min(Number(params.get("row") ?? 0) || 0, scenario.contenders.length - 1);
  const { hidden, hide } = useHidden(params, param, scenario.contenders.length, row);
  const setQuantity = (q: Quantity | typeof TOGETHER) => param((p) => p.set("q", q));
  const report = () => void go(`/bench/${stored.id}/report`);

  useBenchCommands({
    scenario,
    draft,
    save: untouched && !dirty ? async () => keep() : saving.save,
    report,
    judged,
    param,
  });
  useUsualGoals(scenario, answer, change);
  useSkyLine(answer?.evaluation.sky);
  useEffect(() => {
    const wait = window.setTimeout(() => param((p) => sceneToParams(stored.scenario, scenario, p)), 500);
    return () => window.clearTimeout(wait);
  }, [scenario, stored, param]);
  useEffect(() => {
    const warn = (e: BeforeUnloadEvent) => {
      // The draft is kept in this browser; only warn where it could not be.
      if (dirty && !savedDraft<Scenario>(stored.id, stored.scenario)) e.preventDefault();
    };
    window.addEventListener("beforeunload", warn);
    return () => window.removeEventListener("beforeunload", warn);
  }, [dirty, stored.id, stored.scenario]);

  return (
    <QuantityNames value={judged}>
      <div className="flex flex-col gap-3 px-5 py-3">
        <BenchHead
          title={scenario.title}
          rename={(title) => change((s) => void (s.title = title))}
          {...{ dirty, untouched }}
          saving={saving.saving}
          save={() => (dirty ? void saving.save() : keep())}
          undo={draft.canUndo ? draft.undo : undefined}
          redo={draft.canRedo ? draft.redo : undefined}
          report={report}
          exportJson={() => exportJson(scenario)}
        />
        {painted ? (
          <Scene {...{ scenario, library, answer, change, quantity }} />
        ) : (
          <div className="h-[12.25rem]" aria-hidden />
        )}
        <UnfitDraft id={initial.id} />
        <LiveProblem problem={problem} againInS={againInS} scenario={scenario} />
        <Paths
          {...{
            scenario,
            library,
            answer,
            quantity,
            together,
            recorded,
            setQuantity,
            hidden,
            hide,
            change,
            params,
            param,
          }}
          errors={problem?.problem.errors ?? []}
          selected={row}
          beginCampaign={(i) => void go(`/campaign?from=${stored.id}&row=${i}`)}
        />
        {answer && (
          <>
            <Verdicts
              index={row}
              name={scenario.contenders[row]?.name ?? ""}
              words={answer.rows[row]}
              by={together ? null : quantity}
            />
            {painted && (
              <div className="min-w-0">
                <PanelTabs
                  {...{ scenario, answer, library, quantity, together, hidden, change, params, param }}
                  contender={row}
                  refused={problem !== undefined}
                />
              </div>
            )}
          </>
        )}
        {answer?.evaluation.warnings.map((w) => (
          <p key={w.path + w.message} className="text-[0.92rem] text-amber">
            <b className="font-medium">{where(w.path, scenario)}:</b> {w.message}
          </p>
        ))}
        {saving.conflict && (
          <ConflictDialog
            theirs={saving.conflict}
            onTheirs={saving.takeTheirs}
            onCopy={() => void saving.saveCopy()}
            onOver={() => void saving.save(saving.conflict?.revision)}
            onClose={saving.closeConflict}
          />
        )}
      </div>
    </QuantityNames>
  );
}

/** Whether a comparison was only begun; it is kept from its first change on, or when that is asked for. */
function useTouched({ id, untouched: begun }: StoredScenario, dirty: boolean) {
  const touch = useTouchScenario();
  const [untouched, setUntouched] = useState(begun);
  const keep = useCallback(() => {
    setUntouched(false);
    // One that is deleted meanwhile needs no keeping: saving says so.
    void touch(id).catch(() => {});
  }, [id, touch]);
  useEffect(() => {
    if (dirty && untouched) keep();
  }, [dirty, untouched, keep]);
  return [untouched, keep] as const;
}

type CommandProps = {
  scenario: Scenario;
  draft: ReturnType<typeof useDraft>;
  save: () => Promise<void>;
  report: () => void;
  judged: BenchAnswer["judged"];
  param: (edit: (p: URLSearchParams) => void) => void;
};

/** What the keyboard and the palette can do on the bench. */
function useBenchCommands({ scenario, draft, save, report, judged, param }: CommandProps) {
  useCommands([
    { id: "save", label: "Save this comparison", keys: "Mod+S", run: () => void save() },
    { id: "undo", label: "Undo", keys: "u", run: draft.undo },
    { id: "undo-z", label: "Undo (also)", keys: "Mod+Z", run: draft.undo },
    { id: "redo", label: "Redo", keys: "Mod+Shift+Z", run: draft.redo },
    { id: "report", label: "Report to print", run: report },
    { id: "export", label: "Save the scenario as a JSON file", run: () => exportJson(scenario) },
    // H-alpha alone comes last, so that the others keep their numbers.
    ...[...judged]
      .sort((a, b) => Number(a.quantity === "ha_alone") - Number(b.quantity === "ha_alone"))
      .map(({ quantity, name }, i) => ({
        id: `q-${quantity}`,
        label: `Judge by ${name}`,
        keys: String(i + 1),
        run: () => param((p) => p.set("q", quantity)),
      })),
  ]);
}

/** Goals that are what is usual for the target stay so when it is changed. */
function useUsualGoals(
  scenario: Scenario,
  answer: BenchAnswer | undefined,
  change: ReturnType<typeof useDraft>["change"],
) {
  const before = useRef(answer?.usual_goals);
  useEffect(() => {
    const now = answer?.usual_goals;
    if (!now) return;
    const goals = followed(scenario, before.current, now);
    before.current = now;
    if (goals) change((s) => void (s.goals = goals));
  }, [answer, scenario, change]);
}

/** Says at the foot what the sky comes to. */
function useSkyLine(sky: Parameters<typeof SkyLine>[0]["sky"] | undefined) {
  const setStatusLine = useStatusLine();
  useEffect(() => {
    setStatusLine(sky ? <SkyLine sky={sky} /> : null);
    return () => setStatusLine(null);
  }, [setStatusLine, sky]);
}

function exportJson(scenario: Scenario) {
  saveFile(`${scenario.title || "scenario"}.json`, "application/json", JSON.stringify(scenario, null, 2));
}
