import { useState } from "react";
import { useNavigate } from "react-router";
import { answerOf, api, type Quantity, type Scenario } from "@/api/client";
import type { Picture } from "@/api/frames";
import { askLook } from "@/api/look";
import { SlopeChart } from "@/charts/SlopeChart";
import { Button } from "@/parts/controls/Button";
import { CropCanvas } from "@/parts/crop/CropCanvas";
import type { Box, Region } from "@/parts/crop/region";
import { fail } from "@/parts/fail";
import { LiveProblem } from "@/parts/LiveProblem";
import { contenderMark } from "@/theme/marks";
import { FieldStarsRow } from "./FieldStarsRow";
import { LookControls } from "./LookControls";
import { LookFiles } from "./LookFiles";
import { LookPictures } from "./LookPictures";
import { MeasuredTable } from "./MeasuredTable";
import { useLook } from "./useLook";
import type { Arrangement } from "./view";

type Props = { scenario: Scenario; selected: number; quantity: Quantity; hidden: ReadonlySet<number> };

/** What each path does to the picture: simulated crops at one stretch, one region of all of them. */
export function LookPanel({ scenario, selected, quantity, hidden }: Props) {
  const go = useNavigate();
  const [box, setBox] = useState<Box | null>(null);
  const [arrangement, setArrangement] = useState<Arrangement>("grid");
  const [measuring, setMeasuring] = useState(false);
  const [region, setRegionRaw] = useState<Region>({ x: 0, y: 0, perArcsec: 0.69 });
  const { view, set, pictures, subs, words, measured } = useLook(scenario, quantity, box, arrangement === "sub");
  // 100 %: one pixel of the baseline is one pixel on screen.
  const scale = 1 / (words?.[0]?.scale_arcsec ?? 1.6);
  const setRegion = (r: Region) => {
    const limit = view.field_arcsec / 2;
    const clamp = (v: number) => Math.min(limit, Math.max(-limit, v));
    setRegionRaw({ x: clamp(r.x), y: clamp(r.y), perArcsec: Math.min(scale * 4, Math.max(scale * 0.5, r.perArcsec)) });
  };
  const pair = [0, selected === 0 ? Math.min(1, scenario.contenders.length - 1) : selected] as const;
  const blind = async () => {
    try {
      const begun = await askLook(scenario, (of) =>
        answerOf(api.POST("/api/v1/look/blind", { body: { ...of, view } })),
      );
      void go(`/blind/${begun.id}?rounds=${begun.rounds}&back=${encodeURIComponent(window.location.pathname)}`);
    } catch (e) {
      fail(e);
    }
  };
  const crop = (i: number, picture: Picture, height: number, label: string) => (
    <CropCanvas
      {...{ picture, region, setRegion, label, height, box, measuring }}
      fieldArcsec={view.field_arcsec}
      onBox={setBox}
      testId={`crop-${contenderMark(i).letter}`}
    />
  );
  return (
    <section aria-label="Look" className="rounded-xl bg-surface px-4 pt-2 pb-3">
      <div className="flex flex-wrap items-center gap-2">
        <h2 className="text-[1.02rem] font-medium">Look</h2>
        <p
          className="min-w-0 flex-1 basis-48 truncate text-[0.88rem] text-muted"
          title="Simulated from each path's own numbers, one stretch for all"
        >
          Simulated from each path's own numbers, one stretch for all
        </p>
        <Button look={measuring ? "lit" : "plain"} aria-pressed={measuring} onClick={() => setMeasuring(!measuring)}>
          Measure
        </Button>
        <Button
          look={view.truth ? "lit" : "plain"}
          aria-pressed={view.truth}
          onClick={() => set({ truth: !view.truth })}
        >
          No noise
        </Button>
        <Button look="plain" onClick={() => void blind()} disabled={scenario.contenders.length < 2} data-testid="blind">
          Judge blind
        </Button>
      </div>
      <LookControls
        {...{ view, set, arrangement, setArrangement, pair, selected }}
        subs={words?.[selected]?.subs ?? []}
        totalS={scenario.contenders[selected]?.total_s ?? scenario.total_s}
        zoom={region.perArcsec / scale}
        setZoom={(zoom) => setRegion({ ...region, perArcsec: zoom * scale })}
      />
      <div className="mt-2">
        <LiveProblem problem={pictures.problem} againInS={pictures.againInS} scenario={scenario} />
      </div>
      <FieldStarsRow {...{ words: words?.[selected], selected, view }} go={(at) => set(at)} />
      <LookPictures
        {...{ subs, words, scenario, hidden, arrangement, pair, selected, crop }}
        pictures={pictures.answer}
      />
      {measured && <MeasuredTable measured={measured} />}
      {measuring && !measured && (
        <p className="mt-2 text-[0.9rem] text-amber">
          Drag a box on any crop; or go to a crop with Tab, press Enter, and shape the box with the arrow keys.
        </p>
      )}
      {words && <SlopeChart words={words} scenario={scenario} />}
      <LookFiles {...{ scenario, view, selected }} anotherSky={() => set({ seed: view.seed + 1 })} />
    </section>
  );
}
