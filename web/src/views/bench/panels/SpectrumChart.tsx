import { useMemo, useState } from "react";
import { answerOf, api, type Scenario } from "@/api/client";
import { useLive } from "@/api/useLive";
import { ChartFrame } from "@/charts/ChartFrame";
import { PARTS, SpectrumPicture, shownOf } from "./SpectrumPicture";

const ZOOMS: { name: string; range: [number, number] }[] = [
  { name: "All", range: [380, 780] },
  { name: "H-beta, [O III]", range: [475, 515] },
  { name: "Sodium", range: [555, 625] },
  { name: "H-alpha, [S II]", range: [640, 685] },
];

type Props = { scenario: Scenario; contender: number; letter: string };

/** What shines and what passes: the filter in its cone over the sky and the target's lines. */
export function SpectrumChart({ scenario, contender, letter }: Props) {
  const [zoom, setZoom] = useState(0);
  const question = useMemo(() => ({ scenario, contender }), [scenario, contender]);
  const { answer } = useLive(question, (q, signal) =>
    answerOf(
      api.POST("/api/v1/charts/spectrum", { params: { query: { contender: q.contender } }, body: q.scenario, signal }),
    ),
  );
  const range = ZOOMS[zoom]?.range ?? [380, 780];
  const waves = answer?.wavelength_nm ?? [];
  const shown = shownOf(waves, range);
  const twin = {
    columns: [
      "nm",
      ...(answer?.sky.map((s) => `sky ${PARTS[s.part]?.label}`) ?? []),
      ...(answer?.filters.map((f) => f.name ?? "No filter") ?? []),
      ...(answer?.response.map((r) => `sensor ${r.channel}`) ?? []),
    ],
    rows: shown.map(({ nm, i }) => [
      nm.toFixed(2),
      ...(answer?.sky.map((s) => (s.photons[i] ?? 0).toPrecision(3)) ?? []),
      ...(answer?.filters.map((f) => (f.transmission[i] ?? 0).toFixed(4)) ?? []),
      ...(answer?.response.map((r) => (r.response[i] ?? 0).toFixed(3)) ?? []),
    ]),
  };
  const side = (
    <fieldset className="flex gap-0.5">
      <legend className="sr-only">Zoom</legend>
      {ZOOMS.map((z, i) => (
        <button
          key={z.name}
          type="button"
          aria-pressed={i === zoom}
          onClick={() => setZoom(i)}
          className={`min-h-[24px] rounded-full px-2 py-0.5 text-[0.84rem] ${i === zoom ? "bg-raised text-ink" : "text-muted hover:text-ink"}`}
        >
          {z.name}
        </button>
      ))}
    </fieldset>
  );
  return (
    <ChartFrame
      title={`Spectrum of path ${letter}`}
      question="What passes, and what does it let in?"
      twin={twin}
      height={188}
      side={side}
    >
      {(width, height) => answer && <SpectrumPicture {...{ answer, range, letter, width, height }} named={zoom > 0} />}
    </ChartFrame>
  );
}
