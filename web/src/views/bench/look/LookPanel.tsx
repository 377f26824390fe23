import { useEffect, useMemo, useRef, useState } from "react";
import { useNavigate } from "react-router";
import { toast } from "sonner";
import { api, must, type Quantity, type Scenario } from "@/api/client";
import { bytes, type Picture, unpack } from "@/api/frames";
import { useLive } from "@/api/useLive";
import { SlopeChart } from "@/charts/SlopeChart";
import { CropCanvas } from "@/parts/crop/CropCanvas";
import type { Box, Eye } from "@/parts/crop/region";
import { clock, many as countOf, snr } from "@/parts/format";
import { LiveProblem } from "@/parts/LiveProblem";
import { saveFile } from "@/parts/save";
import { Button, Select, Slider } from "@/parts/ui";
import { useRested } from "@/parts/useRested";
import { Words } from "@/parts/Words";
import { mark, QUANTITIES, QUANTITY_LABELS } from "@/theme/marks";
import { readView, writeView } from "./address";

const START = {
  field_arcsec: 600,
  seed: 1,
  time_fraction: 1,
  palette: "natural" as "natural" | "hoo" | "sho" | "single",
  single: "ha" as Quantity,
  stretch: "asinh" as "linear" | "asinh" | "midtones",
  strength: 0.6,
  match: "background" as "background" | "exposure",
  truth: false,
  guiding_rms_arcsec: 0,
  gap_mm: 15,
  moon_direction_deg: 0,
};

type View = typeof START;
const lookBody = (scenario: Scenario, view: View) => ({ scenario, view });

type Mode = "grid" | "blink" | "difference";
type Props = { scenario: Scenario; selected: number; quantity: Quantity; hidden: ReadonlySet<number> };

const difference = (a: Picture, b: Picture): Picture => {
  const image = new ImageData(a.width, a.height);
  for (let y = 0; y < a.height; y++)
    for (let x = 0; x < a.width; x++) {
      const k = (y * a.width + x) * 4;
      const j = (Math.floor((y * b.height) / a.height) * b.width + Math.floor((x * b.width) / a.width)) * 4;
      for (let c = 0; c < 3; c++)
        image.data[k + c] = Math.min(255, Math.max(0, 128 + (b.image.data[j + c] ?? 0) - (a.image.data[k + c] ?? 0)));
      image.data[k + 3] = 255;
    }
  return { width: a.width, height: a.height, image };
};

/** What each path does to the picture: simulated crops at one stretch, with one eye on all of them. */
export function LookPanel({ scenario, selected, quantity, hidden }: Props) {
  const go = useNavigate();
  const usual = useRef({ ...START, single: quantity });
  const [view, setView] = useState<View>(() =>
    readView(new URLSearchParams(window.location.search).get("look"), usual.current),
  );
  const set = (some: Partial<typeof START>) => setView((v) => ({ ...v, ...some }));
  const [eye, setEyeRaw] = useState<Eye>({ x: 0, y: 0, perArcsec: 0.69 });
  const setEye = (e: Eye) => {
    const limit = view.field_arcsec / 2;
    const clamp = (v: number) => Math.min(limit, Math.max(-limit, v));
    setEyeRaw({ x: clamp(e.x), y: clamp(e.y), perArcsec: Math.min(scale * 4, Math.max(scale * 0.5, e.perArcsec)) });
  };
  const [mode, setMode] = useState<Mode>("grid");
  const [shown, setShown] = useState(0);
  const [measuring, setMeasuring] = useState(false);
  const [box, setBox] = useState<Box | null>(null);
  const question = useMemo(() => lookBody(scenario, view), [scenario, view]);
  const {
    answer: pictures,
    problem,
    againInS,
  } = useLive(question, async (body) => unpack(await bytes("/api/v1/look/frames", body)));
  // The pictures follow a drag; what is said of them, once it rests.
  const rested = useRested(question, 140);
  useEffect(() => {
    // Past the router: nothing else reads it, and drawing the whole page anew would hold up a drag.
    const url = new URL(window.location.href);
    const text = writeView(rested.view, usual.current);
    if (text) url.searchParams.set("look", text);
    else url.searchParams.delete("look");
    window.history.replaceState(window.history.state, "", url);
  }, [rested]);
  const { answer: words } = useLive(rested, (body) => must(api.POST("/api/v1/look", { body })));
  const asked = useMemo(() => ({ ...rested, box }), [rested, box]);
  const { answer: measured } = useLive(asked, async ({ box, ...body }) =>
    box && Math.abs(box[0] - box[2]) > 3 && Math.abs(box[1] - box[3]) > 3
      ? must(api.POST("/api/v1/look/measure", { body: { ...body, box } }))
      : undefined,
  );
  // 100 %: one pixel of the baseline is one pixel on screen.
  const scale = 1 / (words?.[0]?.scale_arcsec ?? 1.6);
  const zoom = eye.perArcsec / scale;
  const pair = [0, selected === 0 ? Math.min(1, scenario.contenders.length - 1) : selected] as const;
  const still = typeof matchMedia !== "undefined" && matchMedia("(prefers-reduced-motion: reduce)").matches;
  useEffect(() => {
    if (mode !== "blink" || still) return;
    const timer = window.setInterval(() => setShown((s) => 1 - s), 900);
    return () => window.clearInterval(timer);
  }, [mode, still]);
  const diff = useMemo(() => {
    const [a, b] = [pictures?.[pair[0]], pictures?.[pair[1]]];
    return mode === "difference" && a && b ? difference(a, b) : null;
  }, [mode, pictures, pair[0], pair[1]]);

  const file = async (kind: "picture" | "crop" | "sub") => {
    const c = scenario.contenders[selected];
    const name = `${scenario.target.name || "look"} ${mark(selected).letter}`;
    try {
      const body = { scenario, view, contender: selected };
      if (kind === "picture") {
        saveFile(`${name}.png`, "image/png", new Blob([await bytes("/api/v1/look/picture", body)]));
      } else {
        const wait =
          kind === "sub"
            ? toast.loading(`Counting ${c ? (c.sensor.columns * c.sensor.rows) / 1e6 : 0} million pixels…`)
            : undefined;
        try {
          saveFile(
            `${name}${kind === "sub" ? " sub" : ""}.fits`,
            "application/fits",
            new Blob([await bytes("/api/v1/look/fits", { ...body, kind })]),
          );
        } finally {
          if (wait) toast.dismiss(wait);
        }
      }
    } catch (e) {
      toast.error((e as Error).message, { duration: 10_000 });
    }
  };
  const blind = async () => {
    try {
      const begun = await must(api.POST("/api/v1/look/blind", { body: question }));
      void go(`/blind/${begun.id}?back=${encodeURIComponent(window.location.pathname)}`);
    } catch (e) {
      toast.error((e as Error).message, { duration: 10_000 });
    }
  };
  const subs = words?.[selected]?.subs ?? [];
  const crop = (i: number, picture: Picture, height: number, label: string) => (
    <CropCanvas
      picture={picture}
      fieldArcsec={view.field_arcsec}
      eye={eye}
      setEye={setEye}
      label={label}
      height={height}
      box={box}
      onBox={setBox}
      measuring={measuring}
      testId={`crop-${mark(i).letter}`}
    />
  );
  const many = scenario.contenders.length - hidden.size;
  const columns = many === 1 ? 1 : many <= 4 ? 2 : 3;
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
      <div className="mt-1.5 grid grid-cols-4 gap-2 max-md:grid-cols-2">
        <Select
          hideLabel
          label="Palette"
          value={view.palette === "single" ? `single-${view.single}` : view.palette}
          options={[
            { value: "natural", label: "Natural colours" },
            { value: "hoo", label: "H-O-O" },
            { value: "sho", label: "S-H-O" },
            ...QUANTITIES.map((q) => ({ value: `single-${q}`, label: `${QUANTITY_LABELS[q]}, grey` })),
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
          value={mode}
          options={[
            { value: "grid", label: "Side by side" },
            { value: "blink", label: `Blink ${mark(pair[0]).letter} and ${mark(pair[1]).letter}` },
            { value: "difference", label: `${mark(pair[1]).letter} less ${mark(pair[0]).letter}` },
          ]}
          onChange={(v) => setMode(v as Mode)}
          testId="look-mode"
        />
        <Slider
          label="Stacked"
          value={view.time_fraction}
          min={0}
          max={1}
          step={0.01}
          show={view.time_fraction === 0 ? "one sub" : clock(scenario.total_s * view.time_fraction)}
          hint={
            subs.length
              ? `${mark(selected).letter}: ${subs.length === 1 ? countOf(subs[0] ?? 0) : `${subs.join(" + ")} subs`}`
              : undefined
          }
          onChange={(v) => set({ time_fraction: v })}
          testId="look-time"
        />
        <Slider
          label="Strength"
          value={view.strength}
          min={0}
          max={1}
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
          onChange={(v) => setEye({ ...eye, perArcsec: (v / 100) * scale })}
          testId="look-zoom"
        />
        <Slider
          label="Guiding error"
          unit="″"
          value={view.guiding_rms_arcsec}
          min={0}
          max={3}
          step={0.1}
          show={`${view.guiding_rms_arcsec.toFixed(1)}″`}
          onChange={(v) => set({ guiding_rms_arcsec: v })}
        />
      </div>
      <div className="mt-2">
        <LiveProblem problem={problem} againInS={againInS} scenario={scenario} />
      </div>
      {pictures && mode === "grid" && (
        <div className="mt-2 grid gap-2" style={{ gridTemplateColumns: `repeat(${columns}, minmax(0, 1fr))` }}>
          {pictures.map((p, i) =>
            hidden.has(i) ? null : (
              <figure key={mark(i).letter} className="min-w-0">
                {crop(i, p, many <= 4 ? 300 : 220, `Simulated crop of path ${mark(i).letter}`)}
                <figcaption className="mt-0.5 text-[0.86rem] leading-snug">
                  <b style={{ color: mark(i).colour }}>{mark(i).letter}</b> {scenario.contenders[i]?.name}
                  <span className="block text-muted">
                    {words?.[i]?.cast.text} {words?.[i]?.ghost_text} {words?.[i]?.gradient_text}
                  </span>
                </figcaption>
              </figure>
            ),
          )}
        </div>
      )}
      {pictures && mode === "blink" && pictures[pair[shown] ?? 0] && (
        <figure className="mt-2">
          {crop(pair[shown] ?? 0, pictures[pair[shown] ?? 0] as Picture, 420, "Two paths in turn")}
          <figcaption className="mt-1 flex items-center gap-3 text-[0.9rem]">
            <b style={{ color: mark(pair[shown] ?? 0).colour }}>{mark(pair[shown] ?? 0).letter}</b>
            {scenario.contenders[pair[shown] ?? 0]?.name}
            <Button onClick={() => setShown(1 - shown)}>The other</Button>
          </figcaption>
        </figure>
      )}
      {diff && (
        <figure className="mt-2">
          {crop(0, diff, 420, "Difference of two paths around mid grey")}
          <figcaption className="mt-1 text-[0.9rem] text-muted">
            {mark(pair[1]).letter} less {mark(pair[0]).letter}, around mid grey; the same is grey.
          </figcaption>
        </figure>
      )}
      {!pictures && <div className="mt-2 grid h-[300px] place-items-center text-muted">Counting photons…</div>}
      {measured && (
        <table className="mt-2 w-full text-[0.9rem]" aria-label="Measured in the box" data-testid="measured">
          <thead className="text-left text-[0.82rem] text-muted">
            <tr>
              <th className="font-normal">Path</th>
              <th className="font-normal">Plane</th>
              <th className="font-normal">Mostly</th>
              <th className="text-right font-normal">Mean, e-</th>
              <th className="text-right font-normal">Sigma, e-</th>
              <th className="text-right font-normal">Target, e-</th>
              <th className="text-right font-normal">SNR of the box</th>
            </tr>
          </thead>
          <tbody className="num">
            {measured.flatMap((list, i) =>
              list.map((m) => (
                <tr key={`${i}${m.plane}`} className="border-t border-edge/60">
                  <td style={{ color: mark(i).colour }}>{mark(i).letter}</td>
                  <td className="font-sans">{m.plane}</td>
                  <td className="font-sans">{m.quantity ? <Words text={QUANTITY_LABELS[m.quantity]} /> : "–"}</td>
                  <td className="text-right">{m.mean_e.toFixed(1)}</td>
                  <td className="text-right">{m.sigma_e.toFixed(1)}</td>
                  <td className="text-right">{m.target_e.toFixed(1)}</td>
                  <td className="text-right text-decide">{snr(m.snr)}</td>
                </tr>
              )),
            )}
          </tbody>
        </table>
      )}
      {measuring && !measured && (
        <p className="mt-2 text-[0.9rem] text-amber">
          Drag a box on any crop; or go to a crop with Tab, press Enter, and shape the box with the arrow keys.
        </p>
      )}
      {words && <SlopeChart words={words} scenario={scenario} />}
      <div className="mt-2 flex flex-wrap items-center gap-2">
        <span className="text-[0.88rem] text-muted">Path {mark(selected).letter} as</span>
        <Button look="quiet" onClick={() => void file("picture")}>
          PNG
        </Button>
        <Button look="quiet" onClick={() => void file("crop")}>
          FITS of the crop
        </Button>
        <Button look="quiet" onClick={() => void file("sub")}>
          FITS of a whole sub
        </Button>
        <Button look="quiet" onClick={() => set({ seed: view.seed + 1 })}>
          Another sky
        </Button>
      </div>
    </section>
  );
}
