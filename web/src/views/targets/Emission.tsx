import { useQuery } from "@tanstack/react-query";
import { useNavigate } from "react-router";
import { toast } from "sonner";
import type { CatalogueObject, FramePlan, Library, Target } from "@/api/client";
import { useAddScenario, useCompare, useKeepEmission } from "@/api/mutations";
import { kitQuery } from "@/api/queries";
import { Button } from "@/parts/controls/Button";
import { Select } from "@/parts/controls/Select";
import { EmissionFields, typed } from "@/parts/EmissionFields";
import { skyOf, useRigAndSite } from "@/parts/evening";
import { fail } from "@/parts/fail";
import { usual } from "@/parts/range";
import { same } from "@/parts/same";
import { UnfitDraft } from "@/parts/UnfitDraft";
import { useOfferUndo } from "@/parts/useOfferUndo";
import { useSavedDraft } from "@/parts/useSavedDraft";

/** An object that emits what a preset says. */
const presetFor = (name: string, p: Library["targets"][number]): Target => ({
  name,
  kind: p.kind,
  lines_rayleigh: { ...(p.lines_rayleigh as Target["lines_rayleigh"]) },
  continuum: p.continuum ?? null,
  peak_factor: p.peak_factor,
  outskirts_factor: usual("Target", "outskirts_factor"),
  known: "preset",
});

type Props = {
  object: CatalogueObject;
  /** What the catalogue knows of it. */
  catalogued: Target;
  /** Where that comes from. */
  words: string;
  /** How it is framed: a comparison takes that along. */
  frame: FramePlan | null;
  stored: Target | null;
  library: Library;
  /** Why what was kept cannot be read. */
  damaged: string | null;
};

/** What an object emits: what the catalogue knows of it, or as the user says. */
export function Emission({ object, catalogued, words, frame, stored, library, damaged }: Props) {
  const [put, add] = [useKeepEmission(), useAddScenario()];
  const go = useNavigate();
  const [kit, begin] = [useQuery(kitQuery), useCompare()];
  // The light paths that are used here, which are the user's own where there are any.
  const { site, used, isExample } = useRigAndSite(library);
  const { draft, dirty, setDraft, edit, take } = useSavedDraft<Target>(
    `target.${object.name}`,
    stored ?? catalogued,
    0,
  );
  const offerUndo = useOfferUndo();
  const saved = stored !== null && !dirty;
  const { name } = object;
  const keep = async (target: Target | null) => {
    try {
      await put({ name, emission: target });
      if (target) toast.success(`Kept for ${object.name}`);
      else {
        take(catalogued, 0);
        offerUndo(`${object.name} is back to what the catalogue knows of it`, () => put({ name, emission: stored }));
      }
    } catch (e) {
      fail(e);
    }
  };
  const compare = async () => {
    const rig = kit.data?.find((r) => r.ready && r.ready.sets.length > 0)?.id;
    try {
      if (rig) {
        const made = await begin({ rigs: [rig], sets: [], target: draft, frame, ...(site && { site: site.id }) });
        return void go(`/bench/${made.id}`);
      }
      if (!used) return;
      // Nobody else's light paths come unasked.
      if (isExample) {
        toast("A comparison begins with a rig of yours: put one together here, or read one from a file.");
        return void go("/kit");
      }
      const sky = site ? skyOf(used.scenario.sky, site) : used.scenario.sky;
      const made = await add({ ...used.scenario, title: name, target: draft, frame, sky });
      void go(`/bench/${made.id}`);
    } catch (e) {
      fail(e);
    }
  };
  const presets = library.targets.filter((t) => t.kind === object.kind);
  const near = presets.find((p) => same(p.lines_rayleigh, draft.lines_rayleigh));
  return (
    <section aria-label="What it emits" className="rounded-xl bg-surface px-4 py-3">
      <div className="mb-2 flex flex-wrap items-center gap-2">
        <h2 className="grow text-[1.02rem] font-medium">What it emits</h2>
        <Button look="lit" onClick={() => void compare()}>
          Take it to the bench
        </Button>
      </div>
      <UnfitDraft key={object.name} id={`target.${object.name}`} />
      {damaged && (
        <p role="status" className="mb-2 text-[0.93rem] text-amber">
          {damaged}
        </p>
      )}
      {!stored && (
        <p className="mb-2 text-[0.93rem] text-muted" data-testid="emission-words">
          {words}
        </p>
      )}
      <Select
        label="Typical values of its kind, from memory"
        value={near?.faintness ?? ""}
        placeholder={stored || dirty ? "Your own values" : "What the catalogue knows"}
        options={presets.map((p) => ({
          value: p.faintness,
          label: p.faintness.replace("_", " ").replace(/^./, (c) => c.toUpperCase()),
          note: `H-alpha ${Number(p.lines_rayleigh.ha.toPrecision(2))} R`,
        }))}
        testId="preset"
        onChange={(f) => {
          const p = presets.find((one) => one.faintness === f);
          if (p) setDraft(presetFor(name, p));
        }}
      />
      <div className="mt-2.5 grid grid-cols-3 gap-2.5">
        <EmissionFields target={draft} edit={(how) => edit((t) => typed(t, how))} />
      </div>
      <div className="mt-3 flex flex-wrap items-center gap-2">
        <Button onClick={() => void keep(draft)} disabled={saved}>
          Keep for this object
        </Button>
        {stored && (
          <Button look="quiet" onClick={() => void keep(null)}>
            Back to the catalogue's
          </Button>
        )}
        <span className="text-[0.86rem] text-muted">
          {dirty
            ? "Changed; this browser remembers it until it is kept."
            : stored
              ? "Your values."
              : "A test frame says better."}
        </span>
      </div>
    </section>
  );
}
