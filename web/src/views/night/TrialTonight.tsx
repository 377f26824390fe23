import { Link } from "react-router";
import { Select } from "@/parts/controls/Select";
import { localTime } from "@/parts/evening";
import type { Night } from "./useNight";

/** Which trial is taken tonight, and when: the plan leaves its hours free. */
export function TrialTonight({ night: n }: { night: Night }) {
  const { trials, stored, block, elsewhere, told } = n.trial;
  if (trials.length === 0) return null;
  const clock = n.live.answer?.clock;
  const words = elsewhere
    ? "is at another site"
    : block && clock
      ? `${localTime(block.from_s, clock)} to ${localTime(block.to_s, clock)}`
      : told.join(" ");
  return (
    <div className="flex items-end gap-2 print:hidden">
      <div className="w-56">
        <Select
          label="Trial tonight"
          value={stored?.id ?? "none"}
          options={[
            { value: "none", label: "No trial" },
            ...trials.map((t) => ({ value: t.id, label: t.trial.title })),
          ]}
          onChange={(id) => n.set("trial", id === "none" ? null : id)}
          testId="night-trial"
        />
      </div>
      {stored && (
        <p className="pb-1.5 text-[0.93rem]" data-testid="trial-hours">
          <Link to={`/trials?id=${stored.id}`} className="text-salt underline underline-offset-4">
            Its sheet
          </Link>{" "}
          <span className="num text-muted">{words}</span>
        </p>
      )}
    </div>
  );
}
