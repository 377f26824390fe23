import { useQuery } from "@tanstack/react-query";
import { useState } from "react";
import { useAddEntry } from "@/api/mutations";
import { shelfQuery, startersQuery } from "@/api/queries";
import { bareRig } from "@/parts/bareRig";
import { Button } from "@/parts/controls/Button";
import { Select } from "@/parts/controls/Select";
import { fail } from "@/parts/fail";
import { shelfOptions } from "@/parts/shelfOptions";

/** With what: telescope, camera, and a set of filters that many begin with. */
export function RigStep({ pass }: { pass: () => void }) {
  const shelf = useQuery(shelfQuery(false));
  const starters = useQuery(startersQuery);
  const add = useAddEntry();
  const [chosen, setChosen] = useState<{ telescope?: string; camera?: string; filters?: string }>({});
  if (!shelf.data || !starters.data) return null;
  const telescopes = shelfOptions(shelf.data, "telescope");
  const cameras = shelfOptions(shelf.data, "camera");
  const telescope = chosen.telescope ?? telescopes[0]?.value;
  const camera = chosen.camera ?? cameras[0]?.value;
  const thing = shelf.data.find((e) => e.id === camera)?.entry.thing;
  const colour = thing?.kind === "camera" && thing.item.sensor.cfa != null;
  const fitting = starters.data.filter((s) => s.colour === colour);
  const starter = fitting.find((s) => s.name === chosen.filters) ?? fitting[0];
  const save = async () => {
    if (!telescope || !camera) return;
    const name = [telescope, camera].map((id) => shelf.data.find((e) => e.id === id)?.entry.name).join(", ");
    const slots = starter?.filters.map((filter, i) => ({ number: i + 1, filter: filter ?? null }));
    try {
      await add({
        name: name.slice(0, 200),
        sources: {},
        thing: {
          kind: "rig",
          item: { ...bareRig(telescope, camera), holder: colour ? "drawer" : "wheel", slots: slots ?? [] },
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
      <Select
        label="Telescope, the nearest"
        value={telescope ?? ""}
        options={telescopes}
        onChange={(v) => setChosen({ ...chosen, telescope: v })}
        testId="first-telescope"
      />
      <Select
        label="Camera, the nearest"
        value={camera ?? ""}
        options={cameras}
        onChange={(v) => setChosen({ ...chosen, camera: v })}
        testId="first-camera"
      />
      <Select
        label="Filters"
        value={starter?.name ?? ""}
        options={fitting.map((s) => ({ value: s.name, label: s.name }))}
        onChange={(v) => setChosen({ ...chosen, filters: v })}
        testId="first-filters"
      />
      <p className="text-[0.82rem] text-muted">Exact figures, slots and prices are typed under Kit, when you like.</p>
      <div className="mt-1 flex gap-2">
        <Button look="lit" type="submit">
          Use this rig
        </Button>
        <Button look="quiet" onClick={pass}>
          Later
        </Button>
      </div>
    </form>
  );
}
