import { Popover } from "radix-ui";
import type { BenchAnswer, Goal, GoalLevel } from "@/api/client";
import { Button } from "@/parts/controls/Button";
import { Choice } from "@/parts/controls/Choice";
import { NumberField } from "@/parts/controls/NumberField";
import { Select } from "@/parts/controls/Select";
import { rememberPurpose } from "@/parts/purpose";
import { range } from "@/parts/range";
import { levelOf, levelOfAll, setGoal } from "./goals";
import type { SceneProps } from "./SceneCard";

type Props = Omit<SceneProps, "answer"> & { answer: BenchAnswer };

/** Every goal of the comparison in one place: what is wanted of each light, and what is not wanted at all. */
export function AllGoals({ scenario, library, answer, change }: Props) {
  const levels = library.goal_levels;
  const goals = scenario.goals ?? [];
  if (goals.length === 0) return null;
  // H-alpha alone follows H-alpha.
  const list = answer.judged.filter((j) => j.quantity !== "ha_alone");
  return (
    <Popover.Root>
      <Popover.Trigger className="rounded px-1 text-[0.86rem] text-amber underline decoration-dotted underline-offset-3">
        {goals.length === 1 ? "1 goal" : `${goals.length} goals`}
      </Popover.Trigger>
      <Popover.Portal>
        <Popover.Content
          aria-label="Goals"
          sideOffset={6}
          collisionPadding={10}
          className="rise z-30 max-h-(--radix-popover-content-available-height) w-[min(34rem,94vw)] overflow-y-auto rounded-xl border border-edge bg-surface p-4 shadow-2xl shadow-black/50"
        >
          <h3 className="mb-1 font-medium">What is wanted</h3>
          <p className="mb-3 text-[0.88rem] text-muted">
            A part is clean at a detail when it stands ten times above its noise on a square of that side.
          </p>
          <Choice
            label="What the picture is for"
            className="mb-3 flex w-fit flex-wrap rounded-2xl bg-well p-0.5"
            value={levelOfAll(levels, goals)?.purpose ?? ""}
            onChange={(purpose) => {
              const level = levels.find((l) => l.purpose === purpose);
              if (!level) return;
              rememberPurpose(level.purpose);
              change((s) => s.goals?.forEach((g) => void (g.snr = level.snr)));
            }}
            options={levels.map((l): { value: string; label: string } => ({ value: l.purpose, label: l.label }))}
            testId="purpose"
          />
          <ul className="flex flex-col gap-3">
            {list.map((j) => (
              <li
                key={j.quantity}
                className="grid grid-cols-[1fr_7.5rem_6.5rem_5.5rem] items-end gap-2 max-sm:grid-cols-2"
              >
                <label className="flex h-8 items-center gap-2">
                  <input
                    type="checkbox"
                    checked={j.wanted}
                    // The last goal stays: without any, the document would mean the old pair again.
                    disabled={j.wanted && goals.length === 1}
                    onChange={(e) =>
                      change((s) => {
                        if (e.target.checked) setGoal(s, j.usual, () => {});
                        else s.goals = s.goals?.filter((g) => g.quantity !== j.quantity);
                      })
                    }
                  />
                  {j.name}
                </label>
                {j.wanted && <Wanted j={j} levels={levels} edit={(how) => change((s) => setGoal(s, j.goal, how))} />}
              </li>
            ))}
          </ul>
          <div className="mt-3 flex justify-end">
            <Button look="quiet" onClick={() => change((s) => void (s.goals = answer.usual_goals))}>
              As usual for this target
            </Button>
          </div>
        </Popover.Content>
      </Popover.Portal>
    </Popover.Root>
  );
}

type WantedProps = {
  j: BenchAnswer["judged"][number];
  levels: readonly GoalLevel[];
  edit: (how: (g: Goal) => void) => void;
};

function Wanted({ j, levels, edit }: WantedProps) {
  const { goal, name } = j;
  return (
    <>
      <Select
        hideLabel
        label={`${name}, part`}
        value={goal.part ?? "body"}
        options={j.parts.map((p) => ({ value: p.part, label: p.name }))}
        onChange={(v) => edit((g) => void Object.assign(g, { part: v as Goal["part"], star_v_mag: null }))}
      />
      <Select
        hideLabel
        label={`${name}, how clean`}
        value={levelOf(levels, goal)?.purpose ?? ""}
        placeholder={`SNR ${goal.snr}`}
        options={levels.map((l) => ({ value: l.purpose, label: l.word }))}
        onChange={(p) => edit((g) => void (g.snr = levels.find((l) => l.purpose === p)?.snr ?? g.snr))}
      />
      {goal.star_v_mag == null ? (
        <NumberField
          label="Detail"
          unit="″"
          value={goal.detail_arcsec}
          {...range("Goal", "detail_arcsec")}
          onChange={(v) => edit((g) => void (g.detail_arcsec = v))}
        />
      ) : (
        <NumberField
          label="Stars to V"
          unit="mag"
          value={goal.star_v_mag}
          {...range("Goal", "star_v_mag")}
          onChange={(v) => edit((g) => void (g.star_v_mag = v))}
        />
      )}
    </>
  );
}
