import { useQuery } from "@tanstack/react-query";
import { X } from "lucide-react";
import { useMemo } from "react";
import { answerOf, api, type CatalogueObject, type Library } from "@/api/client";
import { IconButton } from "@/parts/controls/Button";
import { Select } from "@/parts/controls/Select";
import { percent } from "@/parts/format";
import { useParamsEdit } from "@/parts/useParams";
import { contenderMark } from "@/theme/marks";

const DEFAULT = "refractor-90~mono-26,reflector-150~colour-26,catadioptric-200~colour-9";

/** The fields of rigs drawn to scale over the object's extent, and how many panels each needs. */
export function FieldView({ object, library }: { object: CatalogueObject; library: Library }) {
  const [params, edit] = useParamsEdit();
  const wanted = params.get("rigs") ?? DEFAULT;
  const chosen = useMemo(() => wanted.split(",").filter(Boolean), [wanted]);
  const rigs = useMemo(
    () =>
      chosen.flatMap((key) => {
        const [o, c] = key.split("~");
        const optics = library.optics.find((x) => x.id === o);
        const camera = library.cameras.find((x) => x.id === c);
        return optics && camera ? [{ key, optics, camera }] : [];
      }),
    [chosen, library],
  );
  const set = (list: string[]) => edit((p) => p.set("rigs", list.join(",")));
  const major = object.major_arcmin ?? 0;
  const minor = object.minor_arcmin ?? major;
  const frames = useQuery({
    queryKey: ["framing", major, minor, rigs.map((r) => r.key).join()],
    queryFn: () =>
      answerOf(
        api.POST("/api/v1/framing", {
          body: {
            major_arcmin: major,
            minor_arcmin: minor,
            rigs: rigs.map((r) => ({ optics: r.optics.optics, sensor: r.camera.sensor })),
          },
        }),
      ),
    enabled: rigs.length > 0,
    placeholderData: (was) => was,
  });
  const fields = (frames.data ?? []).slice(0, rigs.length);
  const widest = Math.max(major * 1.15, ...fields.map((f) => f.width_arcmin), 1);
  const tallest = Math.max(minor * 1.15, ...fields.map((f) => f.height_arcmin), 1);
  const [w, h] = [420, 250];
  const scale = Math.min((w - 20) / widest, (h - 34) / tallest);
  const [cx, cy] = [w / 2, (h - 14) / 2];
  const bar = [1, 2, 5, 10, 20, 30, 60, 120, 300].findLast((m) => m * scale < w * 0.3) ?? 1;
  return (
    <section aria-label="Fields" className="rounded-xl bg-surface px-4 py-3">
      <h2 className="mb-1 text-[1.02rem] font-medium">On the sensor</h2>
      <svg
        viewBox={`0 0 ${w} ${h}`}
        className="w-full rounded-lg bg-well"
        role="img"
        aria-label={`${object.name}, ${major} by ${minor} arcmin, under ${fields.length} fields drawn to scale`}
        style={{ fontFamily: "var(--font-mono)", fontSize: 11 }}
      >
        <defs>
          <radialGradient id="glow">
            <stop offset="0" stopColor="var(--ha)" stopOpacity="0.55" />
            <stop offset="0.75" stopColor="var(--ha)" stopOpacity="0.22" />
            <stop offset="1" stopColor="var(--ha)" stopOpacity="0.05" />
          </radialGradient>
        </defs>
        <ellipse
          cx={cx}
          cy={cy}
          rx={Math.max(1.5, (major * scale) / 2)}
          ry={Math.max(1.5, (minor * scale) / 2)}
          fill="url(#glow)"
          stroke="var(--ha)"
          strokeWidth={0.8}
          strokeDasharray="3 3"
        />
        {fields.map((f, i) => {
          const m = contenderMark(i);
          const [fw, fh] = [f.width_arcmin * scale, f.height_arcmin * scale];
          return (
            <g key={rigs[i]?.key}>
              <rect
                x={cx - fw / 2}
                y={cy - fh / 2}
                width={fw}
                height={fh}
                fill="none"
                stroke={m.colour}
                strokeWidth={1.8}
                strokeDasharray={m.dash}
              />
              <text
                x={cx - fw / 2 + 5}
                y={fh < 60 ? cy - fh / 2 - 4 : cy - fh / 2 + 13}
                fill={m.colour}
                stroke="var(--well)"
                strokeWidth={3}
                paintOrder="stroke"
              >
                {m.letter}
              </text>
            </g>
          );
        })}
        <line x1={10} x2={10 + bar * scale} y1={h - 10} y2={h - 10} stroke="var(--muted)" strokeWidth={1.5} />
        <text x={16 + bar * scale} y={h - 6} fill="var(--muted)">
          {bar >= 60 ? `${bar / 60}°` : `${bar}′`}
        </text>
        {major === 0 && (
          <text x={cx} y={cy - 10} textAnchor="middle" fill="var(--muted)">
            size unknown
          </text>
        )}
      </svg>
      <ul className="mt-2 flex flex-col gap-1.5">
        {rigs.map((r, i) => {
          const f = fields[i];
          return (
            <li key={r.key} className="grid grid-cols-[1.6rem_minmax(0,1fr)_auto] items-center gap-x-2 text-[0.92rem]">
              <span
                className="num grid size-5 place-items-center rounded-full text-[0.8rem] font-semibold text-ground"
                style={{ background: contenderMark(i).colour }}
              >
                {contenderMark(i).letter}
              </span>
              <span className="min-w-0">
                <span className="block truncate">
                  {r.optics.name}, {r.camera.sensor.name}
                </span>
                {f && (
                  <span className="num block truncate text-[0.82rem] text-muted">
                    {size(f.width_arcmin)} × {size(f.height_arcmin)} · {f.scale_arcsec.toFixed(2)}″/px ·{" "}
                    {f.panels_along * f.panels_across === 1
                      ? `one panel, fills ${percent(f.fill)}`
                      : `${f.panels_along} × ${f.panels_across} panels`}
                  </span>
                )}
              </span>
              <IconButton
                label={`Remove field ${contenderMark(i).letter}`}
                onClick={() => set(chosen.filter((k) => k !== r.key))}
              >
                <X size={15} aria-hidden />
              </IconButton>
            </li>
          );
        })}
      </ul>
      {rigs.length < 6 && (
        <div className="mt-2 grid grid-cols-2 gap-2">
          <Select
            hideLabel
            label="Add a telescope's field"
            value=""
            placeholder="Add a telescope…"
            options={library.optics.map((o) => ({ value: o.id, label: o.name }))}
            onChange={(o) => set([...new Set([...chosen, `${o}~${rigs[0]?.camera.id ?? "mono-26"}`])])}
          />
          <Select
            hideLabel
            label="Add a camera's field"
            value=""
            placeholder="Add a camera…"
            options={library.cameras.map((c) => ({ value: c.id, label: c.sensor.name }))}
            onChange={(c) => set([...new Set([...chosen, `${rigs[0]?.optics.id ?? "refractor-90"}~${c}`])])}
          />
        </div>
      )}
    </section>
  );
}

const size = (arcmin: number) => (arcmin >= 60 ? `${(arcmin / 60).toFixed(2)}°` : `${arcmin.toFixed(1)}′`);
