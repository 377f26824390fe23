import { useQuery } from "@tanstack/react-query";
import { Printer } from "lucide-react";
import { useEffect, useState } from "react";
import { flushSync } from "react-dom";
import { Link, useParams } from "react-router";
import type { BenchAnswer, Quantity, Scenario, Verdict } from "@/api/client";
import { reportQuery } from "@/api/queries";
import { Button } from "@/parts/controls/Button";
import { arcsec, clock, mag } from "@/parts/format";
import { nameIn, QuantityNames } from "@/parts/quantityName";
import { savedDraft } from "@/parts/savedDraft";
import { useParamsEdit } from "@/parts/useParams";
import { useTitle } from "@/parts/useTitle";
import { Words } from "@/parts/Words";
import { contenderMark } from "@/theme/marks";
import { useTheme } from "@/theme/useTheme";
import { TimeChart } from "./panels/TimeChart";

/** White as paper; in Ember only while it is printed, for a white page would undo an hour of adaptation. */
function usePaper() {
  const [theme] = useTheme();
  const [printing, setPrinting] = useState(false);
  useEffect(() => {
    // What is printed is drawn at once, before the sheet is made.
    const [begin, end] = [true, false].map((on) => () => flushSync(() => setPrinting(on)));
    window.addEventListener("beforeprint", begin as () => void);
    window.addEventListener("afterprint", end as () => void);
    return () => {
      window.removeEventListener("beforeprint", begin as () => void);
      window.removeEventListener("afterprint", end as () => void);
    };
  }, []);
  return theme === "ember" && !printing ? "ember" : "daylight";
}

/** The lines that a target gives off, with their brightness. */
const linesOf = (l: Scenario["target"]["lines_rayleigh"]) =>
  [`H-alpha ${l.ha} R`, l.nii > 0 && `[N II] ${l.nii} R`, `[O III] ${l.oiii} R`, `[S II] ${l.sii} R`]
    .filter(Boolean)
    .join(", ");

/** One printed page: the scene, every path, the verdicts, and the time chart, on paper white. */
export function ReportPage() {
  const { id = "" } = useParams();
  const [params] = useParamsEdit();
  const report = useQuery(reportQuery(id, (stored) => savedDraft<Scenario>(id, stored)?.draft ?? stored));
  useTitle(report.data ? `Report, ${report.data.scenario.title}` : "Report");
  const paper = usePaper();
  if (report.error)
    return <p className="mx-auto mt-24 max-w-md text-center whitespace-pre-line text-danger">{report.error.message}</p>;
  if (!report.data) return <p className="p-6 text-muted">Loading…</p>;
  const { scenario, bench, decisions, draft } = report.data;
  const { sky, contenders } = bench.evaluation;
  const asked = params.get("q") as Quantity | null;
  const quantity = bench.judged.find((j) => j.quantity === asked)?.quantity ?? bench.first_quantity ?? "ha";
  // H-alpha alone is a part of H-alpha: it takes room on the page where it was asked for.
  const printed = (q: Quantity | null | undefined) => q !== "ha_alone" || quantity === "ha_alone";
  const emitted = bench.judged.map((j) => j.quantity).filter(printed);
  // Many paths stay on one page with what tells them apart; the rest is on the bench.
  const many = contenders.length > 4;
  // How clean each light is stands in the table; many paths say only when they are there.
  const told = (v: Verdict) => (many ? v.about === "time" : v.about !== "clean");
  return (
    <QuantityNames value={bench.judged}>
      <div data-theme={paper} className="min-h-dvh bg-surface text-ink print:min-h-0">
        <div className="mx-auto flex max-w-[52rem] flex-col gap-3 px-6 py-5 print:max-w-none print:p-0 print:text-[11px]">
          <div className="flex items-center gap-3 print:hidden">
            <Link to={`/bench/${id}`} className="text-salt underline underline-offset-4">
              Back to the bench
            </Link>
            <div className="grow" />
            <Button look="lit" onClick={() => window.print()}>
              <Printer size={15} aria-hidden /> Print
            </Button>
          </div>
          <header>
            <h1 className="text-[1.5rem] font-medium print:text-[20px]">{scenario.title}</h1>
            <p className="text-muted">
              {scenario.target.name}: {linesOf(scenario.target.lines_rayleigh)}
              {scenario.target.continuum
                ? `, continuum ${mag(scenario.target.continuum.v_mag_arcsec2)} mag/arcsec²`
                : ""}
              . Sky {mag(sky.total_v_mag)} mag/arcsec² towards the target (natural {mag(sky.natural_v_mag)}, lamps{" "}
              {mag(sky.artificial_v_mag)}, moon {mag(sky.moon_v_mag)}), airmass {sky.airmass.toFixed(2)}.{" "}
              {clock(scenario.total_s)} for each path{ownClocks(scenario)}; wanted: {wantedWords(bench)}.
              {draft ? " Unsaved draft." : ""}
            </p>
          </header>
          <table className="w-full text-[0.92rem] print:text-[10.5px]" aria-label="Paths">
            <thead className="text-left text-muted">
              <tr>
                <th className="font-normal">Path</th>
                {emitted.map((q) => (
                  <th key={q} className="text-right font-normal">
                    {nameIn(bench.judged, q)}: clean, time to the goal
                  </th>
                ))}
              </tr>
            </thead>
            <tbody>
              {contenders.map((c, i) => (
                <tr key={contenderMark(i).letter} className="border-t border-edge align-top">
                  <td className={many ? "py-0.5" : "py-1"}>
                    <b style={{ color: contenderMark(i).colour }}>{contenderMark(i).letter}</b> {c.name}
                    <span className={many ? "ml-2 text-muted" : "block text-muted"}>{bench.rows[i]?.rig}</span>
                  </td>
                  {emitted.map((q) => {
                    const a = c.quantities[q];
                    const mixed = a?.mixed_with;
                    return (
                      <td
                        key={q}
                        className={`num pl-2 text-right ${mixed ? "min-w-20" : "sm:whitespace-nowrap"} ${many ? "py-0.5" : "py-1"}`}
                      >
                        {mixed ? "mixed" : a ? reached(a) : "–"}
                        <span className={many ? "ml-2 text-muted" : "block text-muted"}>
                          {mixed ? `with ${a.mixed_with_name}` : a ? clock(a.time_to_goal_s) : ""}
                        </span>
                      </td>
                    );
                  })}
                </tr>
              ))}
            </tbody>
          </table>
          <div
            className={`grid gap-x-5 gap-y-2 ${many ? "grid-cols-3 print:gap-y-0.5 print:text-[9px] print:leading-tight" : "grid-cols-2 print:gap-y-1"}`}
          >
            {bench.rows.map((r, i) => (
              <section
                key={contenderMark(i).letter}
                aria-label={`Path ${contenderMark(i).letter}`}
                className="break-inside-avoid"
              >
                <h2 className="font-medium">
                  <b style={{ color: contenderMark(i).colour }}>{contenderMark(i).letter}</b> {contenders[i]?.name}
                </h2>
                <ul className={many ? "leading-snug print:leading-tight" : "leading-snug"}>
                  {r.verdicts
                    .filter((v) => v.quantity == null && told(v))
                    .map((v) => (
                      <li key={v.question}>
                        <span className="text-muted">{v.question}</span> <Words text={`${many ? v.short : v.text}.`} />
                      </li>
                    ))}
                  {r.differences.length > 0 && (
                    <li>
                      <span className="text-muted">Against A</span>{" "}
                      <Words
                        text={`${r.differences
                          .filter((d) => printed(d.quantity))
                          .map((d) => d.text)
                          .join("; ")}.`}
                      />
                    </li>
                  )}
                </ul>
              </section>
            ))}
          </div>
          <div className={many ? "" : "grid grid-cols-2 gap-2"}>
            {[quantity, ...emitted.filter((q) => q !== quantity)].slice(0, many ? 1 : 2).map((q) => (
              <TimeChart
                key={q}
                answer={bench}
                quantity={q}
                totalS={scenario.total_s}
                by="clean"
                selected={0}
                plain
                height={many ? 140 : 156}
              />
            ))}
          </div>
          <section aria-label="What would turn it" className="leading-snug">
            <h2 className="font-medium">What would turn the verdict</h2>
            <ul>
              {decisions.flips.slice(0, many ? 3 : 4).map((f) => (
                <li key={f.text}>
                  <Words text={f.text} />
                </li>
              ))}
              {decisions.flips.length === 0 && <li>Nothing within reach.</li>}
            </ul>
            <p className="mt-1 text-muted">Ranges: {decisions.uncertainty}</p>
          </section>
        </div>
      </div>
    </QuantityNames>
  );
}

/** How clean a path's light is at the end of its clock; how faint its stars, where those are the goal. */
const reached = (a: { clean_arcsec?: number | null; stars_to_v_mag?: number | null }) =>
  a.stars_to_v_mag == null ? arcsec(a.clean_arcsec) : `V ${a.stars_to_v_mag.toFixed(1)}`;

/** The goals in words. */
const wantedWords = (bench: BenchAnswer) =>
  bench.judged
    .filter((j) => j.wanted && j.quantity !== "ha_alone")
    .map((j) => `${j.name} ${j.goal_words}`)
    .join(", ");

/** The paths that have a clock of their own, after a comma. */
const ownClocks = (scenario: Scenario) =>
  scenario.contenders
    .flatMap((c, i) => (c.total_s == null ? [] : [`, ${clock(c.total_s)} for ${contenderMark(i).letter}`]))
    .join("");
