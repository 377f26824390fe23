import { useQuery, useQueryClient } from "@tanstack/react-query";
import { Search } from "lucide-react";
import { useCallback, useEffect, useMemo, useRef } from "react";
import { useNavigate } from "react-router";
import { toast } from "sonner";
import {
  answerOf,
  api,
  type CatalogueObject,
  type Library,
  type Scenario,
  type Target,
  type TargetKind,
} from "@/api/client";
import { Boundary } from "@/parts/Boundary";
import { Button } from "@/parts/controls/Button";
import { Choice } from "@/parts/controls/Choice";
import { Select } from "@/parts/controls/Select";
import { EmissionFields } from "@/parts/EmissionFields";
import { skyOf, useSites } from "@/parts/evening";
import { same } from "@/parts/same";
import { useSavedDraft } from "@/parts/savedDraft";
import { useCommands } from "@/parts/shortcuts";
import { useStatusLine } from "@/parts/statusLine";
import { UnfitDraft } from "@/parts/UnfitDraft";
import { useOfferUndo } from "@/parts/useOfferUndo";
import { useParamsEdit } from "@/parts/useParams";
import { useTitle } from "@/parts/useTitle";
import { FieldView } from "./FieldView";
import { TonightList } from "./TonightList";
import { WhenView } from "./WhenView";

const ANY = "any";
const SIZES = [
  { value: ANY, label: "Any size" },
  { value: "1-5", label: "1′ to 5′" },
  { value: "5-20", label: "5′ to 20′" },
  { value: "20-60", label: "20′ to 1°" },
  { value: "60-", label: "Over 1°" },
];

/** Size as people say it: minutes of arc, or degrees. */
const extent = (o: CatalogueObject) =>
  o.major_arcmin == null
    ? "size unknown"
    : o.minor_arcmin == null
      ? `${o.major_arcmin}′`
      : `${o.major_arcmin}′ × ${o.minor_arcmin}′`;
const hms = (deg: number) => {
  const s = Math.round((deg / 15) * 3600) % 86_400;
  return `${Math.floor(s / 3600)}h ${String(Math.floor((s % 3600) / 60)).padStart(2, "0")}m ${String(s % 60).padStart(2, "0")}s`;
};
const dms = (deg: number) => {
  const s = Math.round(Math.abs(deg) * 3600);
  return `${deg < 0 ? "−" : "+"}${Math.floor(s / 3600)}° ${String(Math.floor((s % 3600) / 60)).padStart(2, "0")}′ ${String(s % 60).padStart(2, "0")}″`;
};

/** The catalogue: what there is, what it emits, and how it sits on a sensor. */
export function TargetsPage() {
  const [params, edit] = useParamsEdit();
  const setStatusLine = useStatusLine();
  const field = useRef<HTMLInputElement>(null);
  const set = useCallback(
    (key: string, value: string) =>
      edit((p) => {
        if (value && value !== ANY) p.set(key, value);
        else p.delete(key);
      }),
    [edit],
  );
  const [text, kind, constellation, size] = ["text", "kind", "in", "size"].map((k) => params.get(k) ?? "") as [
    string,
    string,
    string,
    string,
  ];
  const [low, high] = size.split("-").map((s) => (s ? Number(s) : undefined));
  const query = {
    text,
    ...(kind && { kind: kind as TargetKind }),
    ...(constellation && { constellation }),
    ...(low !== undefined && { at_least_arcmin: low }),
    ...(high !== undefined && { at_most_arcmin: high }),
  };
  const library = useQuery({
    queryKey: ["library"],
    queryFn: () => answerOf(api.GET("/api/v1/library")),
    staleTime: Number.POSITIVE_INFINITY,
  });
  const constellations = useQuery({
    queryKey: ["constellations"],
    queryFn: () => answerOf(api.GET("/api/v1/constellations")),
    staleTime: Number.POSITIVE_INFINITY,
  });
  const found = useQuery({
    queryKey: ["targets", query],
    queryFn: ({ signal }) => answerOf(api.GET("/api/v1/targets", { params: { query }, signal })),
    placeholderData: (was) => was,
  });
  const kinds = useMemo(
    () => [...new Map(library.data?.targets.map((t) => [t.kind, t.label])).entries()],
    [library.data],
  );
  const kindLabel = useCallback((k: string) => kinds.find(([key]) => key === k)?.[1] ?? k, [kinds]);
  const name = params.get("object") ?? (text ? found.data?.objects[0]?.name : undefined) ?? "IC 443";
  useTitle(params.get("object") ? `${name}, targets` : "Targets");
  useCommands(
    useMemo(() => [{ id: "find-target", label: "Find a target", keys: "/", run: () => field.current?.focus() }], []),
  );
  useEffect(() => {
    setStatusLine(
      found.data
        ? `${found.data.matches.toLocaleString("en").replaceAll(",", " ")} objects match. Catalogue data: OpenNGC, CC-BY-SA 4.0.`
        : "",
    );
    return () => setStatusLine(null);
  }, [setStatusLine, found.data]);
  return (
    <div className="grid grid-cols-[20rem_minmax(0,1fr)] gap-3 px-5 py-3 max-lg:grid-cols-[minmax(0,1fr)]">
      <div className="min-w-0">
        <h1 className="mb-2 text-[1.3rem]">Targets</h1>
        <div className="flex h-9 items-center gap-2 rounded-lg border border-edge bg-well px-2.5 focus-within:border-edge-strong">
          <Search size={16} className="text-muted" aria-hidden />
          <input
            ref={field}
            aria-label="Find a target by name"
            placeholder="NGC 7822, M 33, Veil…"
            value={text}
            onChange={(e) => set("text", e.target.value)}
            className="w-full bg-transparent outline-none placeholder:text-muted"
          />
          <kbd className="num text-[0.8rem] text-muted">/</kbd>
        </div>
        <div className="mt-2 grid grid-cols-2 gap-2">
          <div className="col-span-2">
            <Select
              hideLabel
              label="Kind"
              value={kind || ANY}
              options={[{ value: ANY, label: "Any kind" }, ...kinds.map(([value, label]) => ({ value, label }))]}
              onChange={(v) => set("kind", v)}
              testId="kind-filter"
            />
          </div>
          <Select
            hideLabel
            label="Constellation"
            value={constellation || ANY}
            options={[
              { value: ANY, label: "All the sky" },
              ...(constellations.data ?? []).map((c) => ({ value: c, label: c })),
            ]}
            onChange={(v) => set("in", v)}
          />
          <Select hideLabel label="Size" value={size || ANY} options={SIZES} onChange={(v) => set("size", v)} />
        </div>
        <Choice
          label="List"
          className="mt-2 flex gap-1"
          value={params.get("list") ?? ""}
          onChange={(v) => set("list", v)}
          options={[
            { value: "", label: "All that match" },
            { value: "tonight", label: "Worth tonight" },
          ]}
        />
        {params.get("list") === "tonight" && library.data ? (
          <TonightList library={library.data} kind={kind} chosen={name} choose={(n) => set("object", n)} />
        ) : (
          <ul
            className="mt-2 flex max-h-[calc(100dvh-16.5rem)] flex-col gap-0.5 overflow-y-auto pr-1"
            aria-label="Objects found"
            tabIndex={0}
          >
            {found.data?.objects.map((o) => (
              <li key={o.name}>
                <button
                  type="button"
                  aria-current={o.name === name}
                  onClick={() => set("object", o.name)}
                  className={`w-full rounded-lg px-2.5 py-1 text-left ${o.name === name ? "bg-raised" : "hover:bg-surface"}`}
                >
                  <span className="flex justify-between gap-2">
                    <span className="truncate">
                      {o.name}
                      {o.other_names[0] && <span className="text-muted"> {o.other_names[0]}</span>}
                    </span>
                    <span className="num shrink-0 text-[0.86rem] text-muted">
                      {o.major_arcmin == null ? "–" : `${o.major_arcmin}′`}
                    </span>
                  </span>
                  <span className="block truncate text-[0.82rem] text-muted">
                    {kindLabel(o.kind)} · {o.constellation}
                    {o.v_mag != null && ` · V ${o.v_mag}`}
                  </span>
                </button>
              </li>
            ))}
            {found.data?.matches === 0 && (
              <li className="p-3 text-muted">
                Nothing by that name and kind. Leave out a filter, or type less of the name.
              </li>
            )}
          </ul>
        )}
      </div>
      {library.data && <ObjectView key={name} name={name} library={library.data} kindLabel={kindLabel} />}
    </div>
  );
}

type ObjectProps = { name: string; library: Library; kindLabel: (kind: string) => string };

function ObjectView({ name, library, kindLabel }: ObjectProps) {
  const answer = useQuery({
    queryKey: ["target", name],
    queryFn: () => answerOf(api.GET("/api/v1/targets/{name}", { params: { path: { name } } })),
  });
  if (answer.error) return <p className="whitespace-pre-line text-danger">{answer.error.message}</p>;
  if (!answer.data) return <p className="text-muted">…</p>;
  const { object, emission, damaged } = answer.data;
  return (
    <div className="flex min-w-0 flex-col gap-3">
      <section className="rounded-xl bg-surface px-4 py-3" aria-label={object.name}>
        <h2 className="text-[1.3rem]">
          {object.name} <span className="text-muted">{object.other_names.join(", ")}</span>
        </h2>
        <dl className="mt-1 flex flex-wrap gap-x-6 gap-y-0.5 text-[0.95rem]">
          {[
            ["Kind", kindLabel(object.kind)],
            ["Extent", extent(object)],
            ["Right ascension", `${hms(object.ra_deg)} (${object.ra_deg.toFixed(4)}°)`],
            ["Declination", `${dms(object.dec_deg)} (${object.dec_deg.toFixed(4)}°)`],
            ["In", object.constellation],
            ["V", object.v_mag == null ? "unknown" : `${object.v_mag} mag in all`],
          ].map(([k, v]) => (
            <div key={k} className="flex gap-1.5">
              <dt className="text-muted">{k}</dt>
              <dd className="num">{v}</dd>
            </div>
          ))}
        </dl>
      </section>
      <div className="grid grid-cols-[minmax(0,1fr)_minmax(0,1.1fr)] gap-3 max-xl:grid-cols-[minmax(0,1fr)]">
        <Emission object={object} stored={emission ?? null} library={library} damaged={damaged ?? null} />
        <FieldView object={object} library={library} />
      </div>
      <Boundary what="The calendar" keys={[object.name]}>
        <WhenView object={object} emission={emission ?? presetFor(object, library, "moderate")} library={library} />
      </Boundary>
    </div>
  );
}

function presetFor(object: CatalogueObject, library: Library, faintness: string): Target {
  const p = library.targets.find((t) => t.kind === object.kind && t.faintness === faintness) ?? library.targets[0];
  return {
    name: object.name,
    kind: object.kind,
    lines_rayleigh: { ...(p?.lines_rayleigh as Target["lines_rayleigh"]) },
    continuum: p?.continuum ?? null,
    peak_factor: p?.peak_factor ?? 1,
  };
}

type EmissionProps = {
  object: CatalogueObject;
  stored: Target | null;
  library: Library;
  /** Why what was kept cannot be read. */
  damaged: string | null;
};

function Emission({ object, stored, library, damaged }: EmissionProps) {
  const client = useQueryClient();
  const go = useNavigate();
  const sites = useSites();
  const [params] = useParamsEdit();
  const site = sites.find((s) => s.id === params.get("site")) ?? sites[0];
  const typical = useMemo(() => presetFor(object, library, "moderate"), [object, library]);
  const { draft, dirty, setDraft, take } = useSavedDraft<Target>(`target.${object.name}`, stored ?? typical, 0);
  const offerUndo = useOfferUndo();
  const saved = stored !== null && !dirty;
  const edit = (f: (t: Target) => void) => {
    const next = structuredClone(draft);
    f(next);
    setDraft(next);
  };
  const put = async (target: Target | null) => {
    const path = { name: object.name };
    if (target) await answerOf(api.PUT("/api/v1/targets/{name}", { params: { path }, body: target }));
    else await answerOf(api.DELETE("/api/v1/targets/{name}", { params: { path } }));
    await client.invalidateQueries({ queryKey: ["target", object.name] });
  };
  const keep = async (target: Target | null) => {
    try {
      await put(target);
      if (target) toast.success(`Kept for ${object.name}`);
      else {
        take(typical, 0);
        offerUndo(`${object.name} is back to the typical values of its kind`, () => put(stored));
      }
    } catch (e) {
      toast.error((e as Error).message, { duration: 10_000 });
    }
  };
  const compare = async () => {
    const example: Scenario | undefined = library.examples[0]?.scenario;
    if (!example) return;
    try {
      const made = await answerOf(
        api.POST("/api/v1/scenarios", {
          body: { ...example, title: object.name, target: draft, sky: site ? skyOf(example.sky, site) : example.sky },
        }),
      );
      await client.invalidateQueries({ queryKey: ["scenarios"] });
      void go(`/bench/${made.id}`);
    } catch (e) {
      toast.error((e as Error).message, { duration: 10_000 });
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
      <Select
        label="Typical values of its kind, from memory"
        value={near?.faintness ?? ""}
        placeholder="Your own values"
        options={presets.map((p) => ({
          value: p.faintness,
          label: p.faintness.replace("_", " ").replace(/^./, (c) => c.toUpperCase()),
          note: `H-alpha ${Number(p.lines_rayleigh.ha.toPrecision(2))} R`,
        }))}
        testId="preset"
        onChange={(f) => setDraft(presetFor(object, library, f))}
      />
      <div className="mt-2.5 grid grid-cols-3 gap-2.5">
        <EmissionFields target={draft} edit={edit} />
      </div>
      <div className="mt-3 flex flex-wrap items-center gap-2">
        <Button onClick={() => void keep(draft)} disabled={saved}>
          Keep for this object
        </Button>
        {stored && (
          <Button look="quiet" onClick={() => void keep(null)}>
            Back to typical
          </Button>
        )}
        <span className="text-[0.86rem] text-muted">
          {dirty
            ? "Changed; this browser remembers it until it is kept."
            : stored
              ? "Your values."
              : "Typical values: a test frame says better."}
        </span>
      </div>
    </section>
  );
}
