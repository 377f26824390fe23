import { useQuery } from "@tanstack/react-query";
import type { CatalogueObject, Library } from "@/api/client";
import { coordinatesQuery, targetQuery } from "@/api/queries";
import { Boundary } from "@/parts/Boundary";
import { Emission } from "./Emission";
import { FieldView } from "./FieldView";
import { LastFrame } from "./LastFrame";
import { useFraming } from "./useFraming";
import { WhenView } from "./WhenView";
import { WhereItLies } from "./WhereItLies";

/** Size as people say it: minutes of arc, or degrees. */
const extent = (o: CatalogueObject) =>
  o.major_arcmin == null
    ? "size unknown"
    : o.minor_arcmin == null
      ? `${o.major_arcmin}′`
      : `${o.major_arcmin}′ × ${o.minor_arcmin}′`;
const FROM = { open_ngc: "OpenNGC", nebulae: "catalogues of nebulae", hand: "a list made by hand" };
/** Where a number or a kind comes from, as a hint. */
const sourceOf = (o: CatalogueObject, what: string) => {
  if (what === "Kind") return `Kind: ${FROM[o.kind_from]}`;
  if (what === "Extent" && o.size_from) return `Size, as imaged: ${FROM[o.size_from]}`;
  return what === "V" && o.mag_from ? `Magnitude: ${FROM[o.mag_from]}` : undefined;
};
const classOf = (o: CatalogueObject) =>
  o.kind === "dark_nebula" ? ["Opacity", `${o.class} of 6`] : ["Brightness class", `${o.class} of 3`];

type Props = { name: string; library: Library; kindLabel: (kind: string) => string };
type Answer = Awaited<ReturnType<NonNullable<ReturnType<typeof targetQuery>["queryFn"]>>>;

/** One object: what it is, what it emits, how it sits on a sensor, and when it is up. */
export function ObjectView({ name, library, kindLabel }: Props) {
  const answer = useQuery(targetQuery(name));
  if (answer.error) return <p className="whitespace-pre-line text-danger">{answer.error.message}</p>;
  if (!answer.data) return <p className="text-muted">…</p>;
  return <KnownObject {...{ library, kindLabel }} answer={answer.data} />;
}

function KnownObject({ answer, library, kindLabel }: Omit<Props, "name"> & { answer: Answer }) {
  const { object, emission, catalogued, catalogued_words, damaged } = answer;
  const said = useQuery(coordinatesQuery(object.ra_deg, object.dec_deg));
  const framing = useFraming(object, library);
  return (
    <div className="flex min-w-0 flex-col gap-3">
      <section className="rounded-xl bg-surface px-4 py-3" aria-label={object.name}>
        <h2 className="text-[1.3rem]">
          {object.name} <span className="text-muted">{object.other_names.join(", ")}</span>
        </h2>
        <dl className="mt-1 flex flex-wrap gap-x-6 gap-y-0.5 text-[0.95rem]">
          {[
            [
              "Kind",
              object.kind_known ? kindLabel(object.kind) : `${kindLabel(object.kind)}, or not: nobody here knows`,
            ],
            ["Extent", extent(object)],
            ["Right ascension", `${said.data?.ra ?? "…"} (${object.ra_deg.toFixed(4)}°)`],
            ["Declination", `${said.data?.dec ?? "…"} (${object.dec_deg.toFixed(4)}°)`],
            ["In", object.constellation],
            ["V", object.v_mag == null ? "unknown" : `${object.v_mag} mag in all`],
            ...(object.class == null ? [] : [classOf(object)]),
            ...(object.designations.length === 0 ? [] : [["Also", object.designations.join(", ")]]),
          ].map(([k, v]) => (
            <div key={k} className="flex gap-1.5" title={sourceOf(object, k as string)}>
              <dt className="text-muted">{k}</dt>
              <dd className="num">{v}</dd>
            </div>
          ))}
        </dl>
      </section>
      <div className="grid grid-cols-[minmax(0,1fr)_minmax(0,1.1fr)] gap-3 max-xl:grid-cols-[minmax(0,1fr)]">
        <div className="flex min-w-0 flex-col gap-3">
          <Emission
            {...{ object, catalogued, library }}
            words={catalogued_words}
            frame={framing.fields[0]?.plan ?? null}
            stored={emission ?? null}
            damaged={damaged ?? null}
          />
          <WhereItLies object={object} />
          <LastFrame object={object.name} />
        </div>
        <FieldView {...{ object, library, framing }} />
      </div>
      <Boundary what="The calendar" keys={[object.name]}>
        <WhenView object={object} emission={emission ?? catalogued} library={library} />
      </Boundary>
    </div>
  );
}
