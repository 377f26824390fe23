import type { BenchAnswer, Goal, GoalLevel, Quantity } from "@/api/client";
import { Button } from "@/parts/controls/Button";
import { Select } from "@/parts/controls/Select";
import { Slider } from "@/parts/controls/Slider";
import { arcsec, typedClock } from "@/parts/format";
import { dragged, usual } from "@/parts/range";
import { AllGoals } from "./AllGoals";
import { levelOf, setGoal } from "./goals";
import { Card, type SceneProps } from "./SceneCard";

type Props = SceneProps & { quantity: Quantity };
type Judged = BenchAnswer["judged"][number];

/** How long each path may take, and what is wanted in the light that is judged: which part, how clean, at which detail. */
export function ClockCard({ scenario, library, answer, change, quantity }: Props) {
  const judged = answer?.judged.find((j) => j.quantity === quantity);
  const goals = scenario.goals ?? [];
  return (
    <Card title="Clock and goal" side={answer && <AllGoals {...{ scenario, library, answer, change }} />}>
      <div className="col-span-2">
        <Slider
          label="Time for each path"
          unit="h"
          value={scenario.total_s / 3600}
          {...dragged("Scenario", "total_s", [0.25, 60], 1 / 3600)}
          step={0.25}
          log
          show={typedClock(scenario.total_s)}
          testId="hours"
          onChange={(h, typed) =>
            change((s) => void (s.total_s = typed ? Math.round(h * 36_000) / 10 : Math.round(h * 60) * 60))
          }
        />
      </div>
      {goals.length === 0 ? (
        <OldPair {...{ scenario, answer, change }} />
      ) : (
        judged && <OneGoal judged={judged} levels={library.goal_levels} change={change} />
      )}
    </Card>
  );
}

type OneGoalProps = { judged: Judged; levels: readonly GoalLevel[]; change: Props["change"] };

/** The goal for the light that is judged. */
function OneGoal({ judged, levels, change }: OneGoalProps) {
  const { goal } = judged;
  const edit = (how: (g: Goal) => void) => change((s) => setGoal(s, goal, how));
  const stars = goal.star_v_mag != null;
  return (
    <>
      <Select
        label={`${judged.name} of the`}
        value={stars ? "stars" : (goal.part ?? "body")}
        options={[
          ...judged.parts.map((p) => ({
            value: p.part,
            label: p.name,
            note: p.factor === 1 ? "mean" : `× ${p.factor}`,
          })),
          ...(goal.quantity === "continuum" ? [{ value: "stars", label: "stars", note: "to a magnitude" }] : []),
        ]}
        testId="goal-part"
        onChange={(v) =>
          edit((g) => {
            const part = judged.parts.find((p) => p.part === v);
            if (part) Object.assign(g, { part: part.part, detail_arcsec: part.usual.detail_arcsec, star_v_mag: null });
            else g.star_v_mag = goal.star_v_mag ?? judged.stars_v_mag;
          })
        }
      />
      <Select
        label="shall be"
        value={levelOf(levels, goal)?.purpose ?? ""}
        placeholder={`SNR ${goal.snr}`}
        options={levels.map((l) => ({ value: l.purpose, label: l.word, note: `SNR ${l.snr}` }))}
        testId="goal-clean"
        onChange={(p) => edit((g) => void (g.snr = levels.find((l) => l.purpose === p)?.snr ?? g.snr))}
      />
      <div className="col-span-2">
        {stars ? (
          <Slider
            label="Stars to"
            unit="mag"
            value={goal.star_v_mag ?? judged.stars_v_mag}
            {...dragged("Goal", "star_v_mag", [12, 22])}
            step={0.1}
            show={`V ${Number((goal.star_v_mag ?? 0).toFixed(2))}`}
            testId="goal-stars"
            onChange={(v) => edit((g) => void (g.star_v_mag = v))}
          />
        ) : (
          <Slider
            label="at a detail of"
            unit="″"
            value={goal.detail_arcsec}
            {...dragged("Goal", "detail_arcsec", [2, 60])}
            step={1}
            log
            show={arcsec(goal.detail_arcsec)}
            testId="goal-detail"
            onChange={(v) => edit((g) => void (g.detail_arcsec = v))}
          />
        )}
      </div>
    </>
  );
}

/** The goal of a document of before: one signal to noise on one square, for everything. */
function OldPair({ scenario, answer, change }: Omit<SceneProps, "library">) {
  const goal = scenario.goal_snr ?? usual("Scenario", "goal_snr");
  const detail = scenario.detail_arcsec ?? usual("Scenario", "detail_arcsec");
  return (
    <>
      <Slider
        label="Goal SNR"
        value={goal}
        {...dragged("Scenario", "goal_snr", [2, 100])}
        step={1}
        show={String(goal)}
        onChange={(v) => change((s) => void (s.goal_snr = v))}
      />
      <Slider
        label="On a square of"
        unit="″"
        value={detail}
        {...dragged("Scenario", "detail_arcsec", [1, 60])}
        step={1}
        log
        show={arcsec(detail)}
        onChange={(v) => change((s) => void (s.detail_arcsec = v))}
      />
      <div className="col-span-2">
        <Button
          look="quiet"
          disabled={!answer}
          onClick={() => change((s) => void (s.goals = answer?.usual_goals ?? s.goals))}
        >
          Ask for clean detail instead
        </Button>
      </div>
    </>
  );
}
