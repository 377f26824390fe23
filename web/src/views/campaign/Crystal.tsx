/** A goal as a crystal that fills with light from below as the square of the signal to noise accrues. */
export function Crystal({ progress, colour, label }: { progress: number; colour: string; label: string }) {
  const full = Math.min(1, Math.max(0, progress));
  const shape = "M40 4 L66 26 L60 92 L40 116 L20 92 L14 26 Z";
  const id = `crystal-${label.replaceAll(/[^a-z0-9]/gi, "")}`;
  return (
    <svg
      viewBox="0 0 80 120"
      className="h-32"
      role="img"
      aria-label={`${label}: ${Math.round(progress * 100)} % of its goal`}
    >
      <defs>
        <clipPath id={id}>
          <path d={shape} />
        </clipPath>
      </defs>
      <path d={shape} fill="var(--well)" />
      <g clipPath={`url(#${id})`}>
        <rect x={0} width={80} y={118 - 114 * full} height={120} fill={colour} opacity={0.85} />
        <path
          d="M40 4 L40 116 M14 26 L40 40 L66 26 M20 92 L40 40 L60 92"
          stroke="var(--ground)"
          strokeOpacity={0.35}
          fill="none"
        />
        <path d="M40 4 L66 26 L40 40 Z" fill="#fff" opacity={0.08} />
      </g>
      <path d={shape} fill="none" stroke={colour} strokeWidth={1.6} />
    </svg>
  );
}
