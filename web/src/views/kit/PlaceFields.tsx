import { useEffect, useState } from "react";
import { PointsChart } from "@/charts/PointsChart";
import { Button } from "@/parts/controls/Button";
import { around, type Horizon, horizonText, moved, readHorizon, withPoint } from "./horizon";

type Props = {
  zone: string;
  horizon: Horizon;
  edit: (path: string, value: unknown) => void;
  wrong: (path: string) => string | undefined;
};

const COMPASS = ["N", "NE", "E", "SE", "S", "SW", "W", "NW", "N"];
/** The zones that the browser knows; any other of the database can be typed. */
const ZONES: string[] = Intl.supportedValuesOf?.("timeZone") ?? [];

/** Time zone, and the horizon: trees and roofs to drag, or to type as pairs of azimuth and altitude. */
export function PlaceFields({ zone, horizon, edit, wrong }: Props) {
  const [text, setText] = useState(horizonText(horizon));
  // What was dragged, undone or discarded shows in the text; what is being typed stays as it is typed.
  useEffect(() => {
    setText((now) => {
      const read = readHorizon(now);
      return read && horizonText(read) === horizonText(horizon) ? now : read === null ? now : horizonText(horizon);
    });
  }, [horizon]);
  const bad = readHorizon(text) === null || wrong("horizon_deg") !== undefined;
  const zoneWrong = wrong("zone");
  const set = (next: Horizon) => {
    setText(horizonText(next));
    edit("horizon_deg", next);
  };
  return (
    <>
      <div className="mt-3 grid grid-cols-[14rem_minmax(0,1fr)] gap-3 max-md:grid-cols-1">
        <label className="block text-[0.85rem] text-muted">
          Time zone, such as America/Toronto
          <input
            value={zone}
            list="time-zones"
            aria-invalid={zoneWrong !== undefined}
            onChange={(e) => edit("zone", e.target.value || null)}
            placeholder="by longitude"
            className={`block h-8 w-full rounded-md border bg-well px-2 text-ink placeholder:text-muted ${zoneWrong ? "border-danger" : "border-edge"}`}
            data-testid="zone"
          />
          <datalist id="time-zones">
            {ZONES.map((z) => (
              <option key={z} value={z} />
            ))}
          </datalist>
          {zoneWrong && <span className="text-danger">{zoneWrong}</span>}
        </label>
        <label className="block text-[0.85rem] text-muted">
          Trees and roofs: azimuth and altitude in degrees, pairs apart by semicolons
          <input
            value={text}
            aria-invalid={bad}
            onChange={(e) => {
              setText(e.target.value);
              const next = readHorizon(e.target.value);
              if (next) edit("horizon_deg", next);
            }}
            placeholder="0 10; 90 35; 200 5; 300 25"
            className={`num block h-8 w-full rounded-md border bg-well px-2 text-ink placeholder:text-muted ${bad ? "border-danger" : "border-edge"}`}
            data-testid="horizon"
          />
          {bad && <span className="text-danger">Give pairs such as "90 35; 200 5", azimuths ascending.</span>}
        </label>
      </div>
      <div className="mt-2">
        <div className="flex items-center gap-2">
          <h3 className="grow font-medium">Horizon</h3>
          <Button look="quiet" disabled={horizon.length === 0} onClick={() => set([])} data-testid="clear-horizon">
            Clear
          </Button>
        </div>
        <PointsChart
          label={
            horizon.length > 0
              ? `Horizon of trees and roofs, ${horizon.length} points: ${horizonText(horizon)}`
              : "A free horizon"
          }
          points={horizon}
          through={around(horizon)}
          filled
          height={150}
          move={(i, azimuth, altitude) => set(moved(horizon, i, azimuth, altitude))}
          add={(azimuth, altitude) => set(withPoint(horizon, azimuth, altitude))}
          x={{ domain: [0, 360], ticks: [0, 45, 90, 135, 180, 225, 270, 315, 360], text: (t) => COMPASS[t / 45] ?? "" }}
          y={{ domain: [0, 90], ticks: [0, 30, 60, 90], text: (t) => `${t}°` }}
        />
        <p className="text-[0.86rem] text-muted">
          Double click where a tree or a roof stands, and drag its point; the night plans nothing behind it.
        </p>
      </div>
    </>
  );
}
