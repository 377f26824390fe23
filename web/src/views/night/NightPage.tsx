import { useEffect } from "react";
import { Link } from "react-router";
import type { NightAnswer } from "@/api/client";
import { Button } from "@/parts/controls/Button";
import { localTime, ofNight, shiftDate } from "@/parts/evening";
import { percent } from "@/parts/format";
import { useCommands } from "@/parts/shortcuts";
import { useStatusLine } from "@/parts/statusLine";
import { useTitle } from "@/parts/useTitle";
import { Ahead } from "./Ahead";
import { NightChart } from "./NightChart";
import { Evening, ForWhat, WithWhat } from "./NightControls";
import { PlanFiles } from "./PlanFiles";
import { Recording } from "./Recording";
import { Gives, RunSheet } from "./RunSheet";
import { useNight } from "./useNight";

/** A night: what there is to see, what each filter gathers, and the plan. */
export function NightPage() {
  const n = useNight();
  const { date, scenario, campaign, locks, live } = n;
  const { answer: night, problem, againInS } = live;
  useTitle(scenario ? `Night of ${date}, ${scenario.target.name}` : "Night");
  useNightLine(night);
  useCommands([
    { id: "night-undo", label: "Undo the last change to the plan", keys: "u", run: locks.undo },
    { id: "night-next", label: "Next night", keys: "]", run: () => n.set("date", shiftDate(date, 1)) },
    { id: "night-back", label: "Night before", keys: "[", run: () => n.set("date", shiftDate(date, -1)) },
  ]);
  if (n.list?.length === 0 && !campaign) return <NoRig />;
  const { locked } = locks;
  return (
    <div className="flex flex-col gap-3 px-5 py-3">
      <div className="flex flex-wrap items-end gap-2.5">
        <h1 className="mr-2 text-[1.3rem]">Night</h1>
        <Evening {...n} />
        <WithWhat {...n} />
        <ForWhat night={n} plan={night?.first.plan} filters={night?.filters ?? []} />
        <div className="grow" />
        <div className="flex flex-wrap gap-1 print:hidden">
          <PlanFiles
            question={n.question}
            name={`${night?.first.target ?? "plan"} ${date}`}
            disabled={!night || !ofNight(night).anything}
          />
          {campaign && <Recording night={night} campaign={campaign} second={n.secondCampaign} date={date} />}
        </div>
      </div>
      {problem && (
        <p role="alert" className="whitespace-pre-line text-danger">
          {problem.message}
          {againInS !== null && ` It is asked again in ${againInS} s.`}
        </p>
      )}
      {night && (
        <>
          <Ahead question={n.question} />
          <Summary night={night} site={n.site?.entry.name} date={date} />
          <NightChart
            night={night}
            lock={locks.lock}
            toggle={locks.toggle}
            locked={locked}
            side={
              <>
                <Button look="quiet" className="print:hidden" onClick={locks.undo} disabled={!locks.canUndo}>
                  Undo (u)
                </Button>
                <Button
                  look="quiet"
                  className="print:hidden"
                  onClick={locks.unlockAll}
                  disabled={locked.first.length + locked.second.length === 0}
                  data-testid="replan"
                >
                  Plan it all anew
                </Button>
              </>
            }
          />
          <div className="grid grid-cols-[minmax(0,1.5fr)_minmax(0,1fr)] gap-3 max-lg:grid-cols-1 print:grid-cols-1">
            <RunSheet night={night} />
            <Gives night={night} />
          </div>
        </>
      )}
    </div>
  );
}

/** Says at the foot where the target stands, and how far from the moon. */
function useNightLine(night: NightAnswer | undefined) {
  const setStatusLine = useStatusLine();
  useEffect(() => {
    setStatusLine(
      night ? (
        <>
          <span>
            {night.first.target} <b className="num font-medium text-ink">{night.first.coordinates}</b>
          </span>
          <span className="num">
            {night.first.ra_deg.toFixed(4)}° {night.first.dec_deg.toFixed(4)}°
          </span>
          <span>moon {Math.round(night.first.view.events.moon_distance_deg)}° away</span>
        </>
      ) : null,
    );
    return () => setStatusLine(null);
  }, [setStatusLine, night]);
}

function Summary({ night, site, date }: { night: NightAnswer; site: string | undefined; date: string }) {
  const { events } = night.first.view;
  const at = (t: number | null | undefined) => localTime(t, night.clock);
  return (
    <p className="text-[0.95rem]" data-testid="night-summary">
      <b className="font-medium">{night.first.target}</b> from {site}, evening of {date}:{" "}
      {events.dusk_s == null && events.dark_h === 0
        ? "it does not get dark"
        : `dark ${at(events.dusk_s)} to ${at(events.dawn_s)} (${events.dark_h.toFixed(1)} h)`}
      , target above its limit {events.usable_h.toFixed(1)} h of that, {percent(events.moonless)} of it without the
      moon; moon {percent(events.moon_lit)} lit, rises {at(events.moonrise_s)}, sets {at(events.moonset_s)}.
    </p>
  );
}

function NoRig() {
  return (
    <div className="mx-auto mt-24 max-w-md text-center">
      <h1 className="text-xl">A night needs a rig.</h1>
      <p className="mt-2 text-muted">
        Make a comparison on the bench first; its light paths are what a night is planned for.
      </p>
      <Link to="/bench" className="mt-4 inline-block text-salt underline underline-offset-4">
        Go to the bench
      </Link>
    </div>
  );
}
