import type { TrialAnswer } from "@/api/trials";
import { letter, signed } from "./words";

type Against = NonNullable<TrialAnswer["analysis"]>["against"][number];
type Props = { against: Against; matters: number };

const [W, ROW, LEFT] = [384, 34, 118];

/** The effect and its interval by each way to look at the frames, against no difference and the one that matters. */
export function EffectChart({ against, matters }: Props) {
  const rows = [
    { name: "All allowed for", e: against.without_odd ?? against.all },
    ...(against.without_odd ? [{ name: "With odd frames", e: against.all }] : []),
    ...(against.paired ? [{ name: "Pairs alone", e: against.paired }] : []),
  ];
  const reach = 1.1 * Math.max(matters, ...rows.flatMap((r) => r.e.interval.map((v) => Math.abs(v))));
  const x = (share: number) => LEFT + ((W - LEFT - 10) * (share + reach)) / (2 * reach);
  const H = rows.length * ROW + 34;
  return (
    <figure className="self-start">
      <svg viewBox={`0 0 ${W} ${H}`} role="img" aria-label={rows.map((r) => `${r.name}: ${told(r.e)}`).join("; ")}>
        <rect x={x(-matters)} y={0} width={x(matters) - x(-matters)} height={rows.length * ROW} fill="var(--raised)" />
        <line x1={x(0)} x2={x(0)} y1={0} y2={rows.length * ROW} stroke="var(--edge-strong)" />
        {rows.map((r, i) => {
          const y = i * ROW + ROW / 2;
          return (
            <g key={r.name}>
              <text x={0} y={y + 4} fontSize={13} fill="var(--ink)">
                {r.name}
              </text>
              <line
                x1={x(r.e.interval[0] ?? 0)}
                x2={x(r.e.interval[1] ?? 0)}
                y1={y}
                y2={y}
                stroke="var(--salt)"
                strokeWidth={3}
              />
              <circle cx={x(r.e.share)} cy={y} r={5} fill="var(--salt)" />
            </g>
          );
        })}
        {[-matters, 0, matters].map((v) => (
          <text key={v} x={x(v)} y={H - 18} fontSize={12} textAnchor="middle" fill="var(--muted)">
            {v === 0 ? "alike" : signed(v)}
          </text>
        ))}
        <text x={(LEFT + W - 10) / 2} y={H - 3} fontSize={12} textAnchor="middle" fill="var(--muted)">
          {`${letter(against.kind)} against A; shaded: does not matter`}
        </text>
      </svg>
      <table className="sr-only">
        <caption>Effect by each way to look at the frames</caption>
        <tbody>
          {rows.map((r) => (
            <tr key={r.name}>
              <th>{r.name}</th>
              <td>{told(r.e)}</td>
            </tr>
          ))}
        </tbody>
      </table>
    </figure>
  );
}

const told = (e: Against["all"]) => `${signed(e.share)} (${e.interval.map(signed).join(" to ")})`;
