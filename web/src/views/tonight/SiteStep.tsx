import { useQuery } from "@tanstack/react-query";
import { useState } from "react";
import { useAddEntry } from "@/api/mutations";
import { libraryQuery } from "@/api/queries";
import { Button } from "@/parts/controls/Button";
import { NumberField } from "@/parts/controls/NumberField";
import { Select } from "@/parts/controls/Select";
import { fail } from "@/parts/fail";
import { range } from "@/parts/range";

/** The longitude of this browser's clock: within some ten degrees of the place. */
const clockLongitude = () => -new Date(2026, 0, 15).getTimezoneOffset() / 4;
const USUAL_CLASS = 6;

/** Where one stands: the place, and how bright its sky is. */
export function SiteStep({ pass }: { pass: () => void }) {
  const library = useQuery(libraryQuery);
  const add = useAddEntry();
  const [name, setName] = useState("Home");
  const [latitude_deg, setLatitude] = useState(45);
  const [longitude_deg, setLongitude] = useState(clockLongitude);
  const [bortle, setBortle] = useState(USUAL_CLASS);
  const [mix, setMix] = useState("Mostly LED, some sodium");
  if (!library.data) return null;
  const save = async () => {
    const lamps = library.data.lamp_mixes.find((m) => m.name === mix)?.lamps ?? {};
    const zenith_v_mag = library.data.bortle.find((b) => b.class === bortle)?.centre_v_mag ?? 19.5;
    const zone = Intl.DateTimeFormat().resolvedOptions().timeZone;
    try {
      await add({
        name: name.trim() || "Home",
        sources: { "": "typed", zenith_v_mag: `Bortle class ${bortle}, coarse` },
        thing: {
          kind: "site",
          item: { latitude_deg, longitude_deg, height_m: 0, zenith_v_mag, lamps, zone, horizon_deg: [] },
        },
      });
    } catch (e) {
      fail(e);
    }
  };
  return (
    <form
      className="flex flex-col gap-2"
      onSubmit={(e) => {
        e.preventDefault();
        void save();
      }}
    >
      <label className="text-[0.85rem] text-muted">
        Name
        <input
          value={name}
          maxLength={200}
          onChange={(e) => setName(e.target.value)}
          className="block h-8 w-full rounded-md border border-edge bg-well px-2 text-ink"
        />
      </label>
      <div className="grid grid-cols-2 gap-2">
        <NumberField
          label="Latitude, north +"
          unit="°"
          value={latitude_deg}
          {...range("Site", "latitude_deg")}
          onChange={setLatitude}
        />
        <NumberField
          label="Longitude, east +"
          unit="°"
          value={longitude_deg}
          {...range("Site", "longitude_deg")}
          onChange={setLongitude}
        />
      </div>
      <p className="text-[0.82rem] text-muted">Guessed from this computer's clock: any map says better.</p>
      <Select
        label="How dark, as a Bortle class"
        value={String(bortle)}
        options={library.data.bortle.map((b) => ({
          value: String(b.class),
          label: `Class ${b.class}`,
          note: `${b.brightest_v_mag.toFixed(1)}–${b.darkest_v_mag.toFixed(1)}`,
        }))}
        onChange={(v) => setBortle(Number(v))}
      />
      <Select
        label="Its lamps"
        value={mix}
        options={library.data.lamp_mixes.map((m) => ({ value: m.name, label: m.name }))}
        onChange={setMix}
      />
      <div className="mt-1 flex gap-2">
        <Button look="lit" type="submit">
          Use this site
        </Button>
        <Button look="quiet" onClick={pass}>
          Later
        </Button>
      </div>
    </form>
  );
}
