import type { Quantity } from "@/api/client";
import { Select } from "@/parts/controls/Select";
import { Slider } from "@/parts/controls/Slider";
import { clock, many as countOf } from "@/parts/format";
import { useQuantityName } from "@/parts/quantityName";
import { dragged } from "@/parts/range";
import { contenderMark, QUANTITIES } from "@/theme/marks";
import type { Arrangement, View } from "./view";

type Props = {
  view: View;
  set: (some: Partial<View>) => void;
  arrangement: Arrangement;
  setArrangement: (a: Arrangement) => void;
  /** The two paths that are blinked or taken from each other. */
  pair: readonly [number, number];
  selected: number;
  /** Subs of each exposure of the selected path in the stack. */
  subs: number[];
  /** Clock time of the scenario, s. */
  totalS: number;
  /** Pixels on screen for one of the baseline's. */
  zoom: number;
  setZoom: (zoom: number) => void;
};

/** How the look is wanted: colours, stretch, arrangement, and how much of the time is stacked. */
export function LookControls(props: Props) {
  const nameOf = useQuantityName();
  const { view, set, arrangement, setArrangement, pair, selected, subs, totalS, zoom, setZoom } = props;
  return (
    <div className="mt-1.5 grid grid-cols-4 gap-2 max-md:grid-cols-2">
      <Select
        hideLabel
        label="Palette"
        value={view.palette === "single" ? `single-${view.single}` : view.palette}
        options={[
          { value: "natural", label: "Natural colours" },
          { value: "hoo", label: "H-O-O" },
          { value: "sho", label: "S-H-O" },
          ...[...QUANTITIES, ...(view.single === "ha_alone" ? (["ha_alone"] as const) : [])].map((q) => ({
            value: `single-${q}`,
            label: `${nameOf(q)}, grey`,
          })),
        ]}
        onChange={(v) =>
          v.startsWith("single-")
            ? set({ palette: "single", single: v.slice(7) as Quantity })
            : set({ palette: v as View["palette"] })
        }
        testId="palette"
      />
      <Select
        hideLabel
        label="Stretch"
        value={view.stretch}
        options={[
          { value: "asinh", label: "Asinh stretch" },
          { value: "midtones", label: "Midtones stretch" },
          { value: "linear", label: "Linear" },
        ]}
        onChange={(v) => set({ stretch: v as View["stretch"] })}
      />
      <Select
        hideLabel
        label="Match"
        value={view.match}
        options={[
          { value: "background", label: "Background matched" },
          { value: "exposure", label: "Exposure as counted" },
        ]}
        onChange={(v) => set({ match: v as View["match"] })}
        testId="match"
      />
      <Select
        hideLabel
        label="Arrangement"
        value={arrangement}
        options={[
          { value: "grid", label: "Side by side" },
          { value: "sub", label: `One sub of ${contenderMark(selected).letter} and its stack` },
          { value: "blink", label: `Blink ${contenderMark(pair[0]).letter} and ${contenderMark(pair[1]).letter}` },
          { value: "difference", label: `${contenderMark(pair[1]).letter} less ${contenderMark(pair[0]).letter}` },
        ]}
        onChange={(v) => setArrangement(v as Arrangement)}
        testId="look-mode"
      />
      <Slider
        label="Stacked"
        value={view.time_fraction}
        min={0}
        max={1}
        step={0.01}
        show={view.time_fraction === 0 ? "one sub" : clock(totalS * view.time_fraction)}
        hint={
          subs.length
            ? `${contenderMark(selected).letter}: ${subs.length === 1 ? countOf(subs[0] ?? 0) : `${subs.join(" + ")} subs`}`
            : undefined
        }
        onChange={(v) => set({ time_fraction: v })}
        testId="look-time"
      />
      <Slider
        label="Strength"
        value={view.strength}
        {...dragged("LookView", "strength", [0, 1])}
        step={0.02}
        show={view.strength.toFixed(2)}
        onChange={(v) => set({ strength: v })}
      />
      <Slider
        label="Zoom"
        unit="%"
        value={Math.round(zoom * 100)}
        min={50}
        max={400}
        step={5}
        show={`${Math.round(zoom * 100)} %`}
        hint="wheel and drag move all"
        onChange={(v) => setZoom(v / 100)}
        testId="look-zoom"
      />
      <Slider
        label="Guiding error"
        unit="″"
        value={view.guiding_rms_arcsec}
        {...dragged("LookView", "guiding_rms_arcsec", [0, 3])}
        step={0.1}
        show={`${view.guiding_rms_arcsec.toFixed(1)}″`}
        onChange={(v) => set({ guiding_rms_arcsec: v })}
      />
    </div>
  );
}
