import { scaleLinear } from "d3-scale";
import { useRef } from "react";
import type { FrameInLog, NightOfLog } from "@/api/log";
import { useWidth } from "@/parts/useWidth";
import { contenderMark } from "@/theme/marks";
import { filtersOf, isLight, MEASURES, type Measure, utc } from "./measures";

const HIGH = 54;
const LEFT = 8;
const RIGHT = 8;

const MARK_WORDS = { cloud: "cloud", focus: "focus", flip: "flip", moonrise: "moonrise", moonset: "moonset" } as const;

type Props = { night: NightOfLog; chosen: string | null; choose: (id: string) => void };

/** Every measure through the night, a row each, on one axis of time: what happened stands in all of them. */
export function Sparks({ night, chosen, choose }: Props) {
  const box = useRef<HTMLDivElement>(null);
  const width = useWidth(box);
  const lights = night.frames.filter(isLight).filter((f) => f.start_s != null);
  const filters = filtersOf(lights);
  const times = lights.map((f) => f.start_s as number);
  const ends = [Math.min(...times), Math.max(...times)];
  const x = scaleLinear()
    .domain(ends[0] === ends[1] ? [ends[0] ?? 0, (ends[0] ?? 0) + 1] : ends)
    .range([LEFT, Math.max(LEFT + 1, width - RIGHT)]);
  if (lights.length === 0) return null;
  return (
    <section aria-label="Through the night" className="rounded-xl bg-surface px-4 py-3">
      <div className="mb-1 flex flex-wrap items-baseline gap-x-4">
        <h2 className="text-[1.02rem] font-medium">Through the night</h2>
        {filters.map((f, i) => (
          <span key={f} className="flex items-center gap-1.5 text-[0.85rem] text-muted">
            <span className="size-2.5 rounded-full" style={{ background: contenderMark(i).colour }} aria-hidden />
            {f}
          </span>
        ))}
        <span className="text-[0.85rem] text-muted">crosses are put aside</span>
      </div>
      <div ref={box} className="flex flex-col gap-1">
        {width > 0 &&
          MEASURES.filter((m) => lights.some((f) => m.of(f) != null)).map((m) => (
            <Row key={m.key} {...{ m, lights, filters, x, width, night, chosen, choose }} />
          ))}
      </div>
      <p className="num flex justify-between text-[0.82rem] text-muted">
        <span>{utc(ends[0])} UTC</span>
        <span>{utc(ends[1])}</span>
      </p>
    </section>
  );
}

type RowProps = Props & {
  m: Measure;
  lights: readonly FrameInLog[];
  filters: readonly string[];
  x: (t: number) => number;
  width: number;
};

function Row({ m, lights, filters, x, width, night, chosen, choose }: RowProps) {
  const all = lights.flatMap((f) => {
    const v = m.of(f);
    return v == null ? [] : [{ f, v }];
  });
  const values = all.map((a) => a.v);
  const [low, high] = [Math.min(...values), Math.max(...values)];
  const y = scaleLinear()
    .domain(low === high ? [low - 1, high + 1] : [low, high])
    .range([HIGH - 8, 8]);
  return (
    <div>
      <p className="flex justify-between text-[0.85rem]">
        <span>
          {m.label} <span className="text-muted">{m.unit}</span>
        </span>
        {values.length > 0 && (
          <span className="num text-muted">
            {m.written(low)} to {m.written(high)}
          </span>
        )}
      </p>
      <svg
        width={width}
        height={HIGH}
        role="img"
        aria-label={`${m.label} of ${all.length} frames, ${m.unit}; the table below holds the numbers`}
        className="rounded-md bg-well"
      >
        {night.marks.map((k) => (
          <Marked key={`${k.kind}${k.from_s}`} of={k} x={x} />
        ))}
        {night.events.map((e) => (
          <line key={e.id} x1={x(e.at_s)} x2={x(e.at_s)} y1={0} y2={HIGH} stroke="var(--amber)" strokeDasharray="3 3">
            <title>{`${utc(e.at_s)} ${e.kind.replace("_", " ")} ${e.text}`}</title>
          </line>
        ))}
        {all.map(({ f, v }) => (
          <Mark
            key={f.id}
            at={[x(f.start_s as number), y(v)]}
            colour={contenderMark(filters.indexOf(f.filter ?? "no filter")).colour}
            kept={f.kept}
            chosen={f.id === chosen}
            choose={() => choose(f.id)}
            title={`${f.file}, ${utc(f.start_s)} UTC: ${m.written(v)} ${m.unit}`}
          />
        ))}
      </svg>
    </div>
  );
}

/** What stands out in the night's course: a band where it takes time, else a line with its letter. */
function Marked({ of, x }: { of: NightOfLog["marks"][number]; x: (t: number) => number }) {
  const [from, to] = [x(of.from_s), x(of.to_s)];
  const said = `${utc(of.from_s)} ${of.text}`;
  if (of.kind === "cloud")
    return (
      <rect x={from} width={Math.max(2, to - from)} y={0} height={HIGH} fill="var(--edge)" opacity={0.55}>
        <title>{said}</title>
      </rect>
    );
  return (
    <g>
      <title>{said}</title>
      <line x1={from} x2={from} y1={0} y2={HIGH} stroke="var(--edge-strong)" />
      <text x={from + 3} y={10} fontSize={10} fill="var(--muted)">
        {MARK_WORDS[of.kind]}
      </text>
    </g>
  );
}

type MarkProps = {
  at: [number, number];
  colour: string;
  kept: boolean;
  chosen: boolean;
  choose: () => void;
  title: string;
};

/** A frame: a dot where it is kept, a cross where it is put aside. The table is the way by keyboard. */
function Mark({ at: [x, y], colour, kept, chosen, choose, title }: MarkProps) {
  return (
    <g onPointerDown={choose} className="cursor-pointer">
      <title>{title}</title>
      <rect x={x - 5} y={0} width={10} height={HIGH} fill="transparent" />
      {chosen && <line x1={x} x2={x} y1={0} y2={HIGH} stroke="var(--salt)" opacity={0.7} />}
      {kept ? (
        <circle cx={x} cy={y} r={chosen ? 4.5 : 2.8} fill={colour} />
      ) : (
        <path
          d={`M${x - 4} ${y - 4}L${x + 4} ${y + 4}M${x - 4} ${y + 4}L${x + 4} ${y - 4}`}
          stroke="var(--danger)"
          strokeWidth={2}
        />
      )}
    </g>
  );
}
