import type { Quantity } from "@/api/client";
import { hue } from "@/theme/marks";

type RibbonProps = { left: number[]; quantity: Quantity; lost: boolean; before: number; after: number };

/**
 * Light as a ribbon: its width at each stage is what remains of what set out. The stream under it is the sky, which joins in the
 * air; its width is the logarithm of how many times it outshines the light.
 */
export function Ribbon({ left, quantity, lost, before, after }: RibbonProps) {
  const [w, h, ground] = [600, 20, 31];
  const step = w / left.length;
  const half = (f: number) => Math.max(0.7, (f * (h - 4)) / 2);
  const stream = (r: number) => (r > 0 ? Math.min(10, 1 + 3.2 * Math.log10(1 + r)) : 0);
  const x = (i: number) => (i === 0 ? 0 : i * step);
  const top: string[] = [];
  const bottom: string[] = [];
  left.forEach((f, i) => {
    const earlier = left[i - 1] ?? f;
    // Flat along a stage, narrowing over the first part of the next.
    const points: [number, number][] =
      i === 0
        ? [[0, f]]
        : [
            [x(i) - step * 0.12, earlier],
            [x(i) + step * 0.16, f],
          ];
    if (i === left.length - 1) points.push([w, f]);
    for (const [px, pf] of points) {
      top.push(`${px.toFixed(1)},${(h / 2 - half(pf)).toFixed(2)}`);
      bottom.unshift(`${px.toFixed(1)},${(h / 2 + half(pf)).toFixed(2)}`);
    }
  });
  const [wide, thin] = [stream(before), stream(after)];
  const id = `ribbon-${quantity}`;
  const sky = `M${x(1) - step * 0.1},${ground} C${x(1) + step * 0.1},${ground} ${x(1) + step * 0.1},${ground - wide} ${x(1) + step * 0.4},${ground - wide} L${x(3) - step * 0.12},${ground - wide} L${x(3) + step * 0.16},${ground - thin} L${w},${ground - thin} L${w},${ground} Z`;
  return (
    <svg
      aria-hidden
      viewBox={`0 0 ${w} ${ground}`}
      preserveAspectRatio="none"
      className="absolute inset-x-0 top-0 h-[31px] w-full"
      style={{ opacity: lost ? 0.25 : 1 }}
    >
      <defs>
        <linearGradient id={id} x1="0" x2="1" y1="0" y2="0">
          <stop offset="0" stopColor={hue(quantity)} stopOpacity="0.55" />
          <stop offset="1" stopColor={hue(quantity)} stopOpacity="0.95" />
        </linearGradient>
      </defs>
      <rect x="0" y="1" width={w} height={h - 2} rx="3" fill={hue(quantity)} opacity="0.07" />
      <path d={sky} fill="var(--amber)" opacity="0.42" />
      <polygon points={[...top, ...bottom].join(" ")} fill={`url(#${id})`} />
      {left.slice(1).map((_, i) => (
        <line
          key={i}
          x1={x(i + 1)}
          x2={x(i + 1)}
          y1="0"
          y2={ground}
          stroke="var(--ground)"
          strokeWidth="1.5"
          opacity="0.55"
        />
      ))}
    </svg>
  );
}
