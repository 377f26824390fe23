import { useEffect } from "react";
import type { NightAnswer } from "@/api/client";
import { Button } from "@/parts/controls/Button";
import { ofNight, shiftDate } from "@/parts/evening";
import { useCommands } from "@/parts/shortcuts";
import { useStatusLine } from "@/parts/statusLine";
import { useTitle } from "@/parts/useTitle";
import { Ahead } from "./Ahead";
import { FurtherTargets } from "./FurtherTargets";
import { HoursPopover } from "./HoursPopover";
import { KeptPlan } from "./KeptPlan";
import { NightChart } from "./NightChart";
import { Evening, ForWhat, WithWhat } from "./NightControls";
import { NoRig, Offered, Summary, Twilight } from "./NightWords";
import { PlanFiles } from "./PlanFiles";
import { Recording } from "./Recording";
import { Gives, RunSheet } from "./RunSheet";
import { Sequence } from "./Sequence";
import { TrialTonight } from "./TrialTonight";
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
  // Whose campaign each target's subs go into; none for a target without one.
  const recorded = [
    campaign && { stored: campaign, path: n.row },
    ...n.further.found.map((f) => {
      const stored = n.campaigns.find((c) => c.id === f?.campaignId);
      return stored && { stored, path: f?.row ?? stored.campaign.contender };
    }),
  ];
  return (
    <div className="flex flex-wrap items-end gap-2.5 px-5 py-3 *:min-w-0 max-sm:px-3">
      <h1 className="mr-2 text-[1.3rem]">Night</h1>
      <Evening {...n} />
      {/* On a phone the answer comes before the form. */}
      <div className="flex w-full flex-wrap items-end gap-2.5 max-sm:order-last sm:contents">
        <WithWhat {...n} />
        <ForWhat night={n} plan={night?.first.plan} filters={night?.first.filters ?? []} />
        <HoursPopover night={n} />
      </div>
      <div className="flex w-full flex-wrap items-end gap-2 max-sm:order-last">
        <FurtherTargets night={n} />
        <TrialTonight night={n} />
        <div className="grow" />
        <div className="flex flex-wrap gap-1 print:hidden">
          <PlanFiles
            question={n.question}
            name={`${night?.first.target ?? "plan"} ${date}`}
            disabled={!night || !ofNight(night).anything}
          />
          {night && (
            <Sequence
              question={n.question}
              clock={night.clock}
              name={`${night.first.target} ${date}`}
              disabled={!ofNight(night).anything}
            />
          )}
          <Recording night={night} campaigns={recorded} date={date} struckOut={n.struckOut} />
        </div>
      </div>
      <div className="flex w-full flex-col gap-2.5">
        {n.further.unknown.map((f) => (
          <p key={f.what} role="alert" className="text-danger">
            Nothing is known of "{f.what.slice(2)}": take it out, or give another name.
          </p>
        ))}
        {problem && (
          <p role="alert" className="whitespace-pre-line text-danger">
            {problem.message}
            {againInS !== null && ` It is asked again in ${againInS} s.`}
          </p>
        )}
        {night && (
          <>
            {night.twilight && <Twilight offer={night.twilight} allow={(deg) => n.set("sun", String(deg))} />}
            {night.first.plan.offered && <Offered list={night.first.plan.offered} take={n.takeList} />}
            <KeptPlan night={night} date={date} campaigns={recorded} />
            <Ahead question={n.question} night={night} weigh={n.weigh} set={n.set} siteId={n.site?.id} />
            <Summary night={night} site={n.site?.entry.name} date={date} />
            <NightChart
              night={night}
              lock={locks.lock}
              toggle={locks.toggle}
              locked={locked}
              struckOut={n.struckOut}
              strikeOut={n.strikeOut}
              trial={n.trial.block}
              side={
                <>
                  <Button look="quiet" className="print:hidden" onClick={locks.undo} disabled={!locks.canUndo}>
                    Undo (u)
                  </Button>
                  <Button
                    look="quiet"
                    className="print:hidden"
                    onClick={locks.unlockAll}
                    disabled={locked.every((l) => l.length === 0)}
                    data-testid="replan"
                  >
                    Plan it all anew
                  </Button>
                </>
              }
            />
            <div className="grid grid-cols-[minmax(0,1.5fr)_minmax(0,1fr)] gap-3 max-lg:grid-cols-1 print:grid-cols-1">
              <RunSheet night={night} trial={n.trial.block} />
              <Gives night={night} date={date} campaigns={recorded.map((r) => r?.stored)} />
            </div>
          </>
        )}
      </div>
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
