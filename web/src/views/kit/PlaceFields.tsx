import { AzimuthChart } from "./AzimuthChart";
import { ALTITUDES, type ByAzimuth, GLOWS } from "./horizon";
import { PairsField } from "./PairsField";

type Props = {
  zone: string;
  horizon: ByAzimuth;
  glow: ByAzimuth;
  edit: (path: string, value: unknown) => void;
  wrong: (path: string) => string | undefined;
};

/** The zones that the browser knows; any other of the database can be typed. */
const ZONES: string[] = Intl.supportedValuesOf?.("timeZone") ?? [];

/** Time zone, the horizon of trees and roofs, and the glow of towns: to drag, or to type as pairs by azimuth. */
export function PlaceFields({ zone, horizon, glow, edit, wrong }: Props) {
  const zoneWrong = wrong("zone");
  const set = (next: ByAzimuth) => edit("horizon_deg", next);
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
        <PairsField
          label="Trees and roofs: azimuth and altitude in degrees, pairs apart by semicolons"
          value={horizon}
          placeholder="0 10; 90 35; 200 5; 300 25"
          error={wrong("horizon_deg")}
          testId="horizon"
          onChange={set}
        />
        <div className="col-span-full">
          <PairsField
            label="Glow of towns: azimuth, and how many times faster than usual lamp light grows there; pairs likewise"
            value={glow}
            placeholder="0 0.5; 120 1; 190 3; 260 1"
            error={wrong("glow")}
            testId="glow"
            onChange={(next) => edit("glow", next)}
          />
        </div>
      </div>
      <div className="grid grid-cols-2 gap-4 max-lg:grid-cols-1">
        <AzimuthChart
          title="Horizon of trees and roofs"
          none="A free horizon"
          hint="Double click where a tree or a roof stands, and drag its point; the night plans nothing behind it."
          points={horizon}
          values={ALTITUDES}
          ticks={[0, 30, 60, 90]}
          text={(t) => `${t}°`}
          set={set}
          testId="clear-horizon"
        />
        <AzimuthChart
          title="Glow of towns"
          none="Lamp light alike all round"
          hint="Double click where a town glows, and drag its point: 1 is as usual, 3 a town, 0.3 away from it."
          points={glow}
          values={GLOWS}
          ticks={[0, 2, 4, 6, 8]}
          text={(t) => `× ${t}`}
          set={(next) => edit("glow", next)}
          testId="clear-glow"
        />
      </div>
    </>
  );
}
