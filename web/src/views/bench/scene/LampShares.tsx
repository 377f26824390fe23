import { NumberField } from "@/parts/controls/NumberField";
import { LAMPS } from "@/theme/marks";
import type { SceneProps as Props } from "./SceneCard";

/** One lamp's share changes; the others give or take in proportion, so that they always sum to 1. */
export function LampShares({ scenario, change }: Pick<Props, "scenario" | "change">) {
  const lamps: Record<string, number> = { ...scenario.sky.lamps };
  const set = (key: string, value: number) =>
    change((s) => {
      const rest = Object.entries(lamps).filter(([k]) => k !== key);
      const sum = rest.reduce((a, [, v]) => a + v, 0);
      const other = key === "led_4000k" ? "led_3000k" : "led_4000k";
      const scaled: [string, number][] =
        sum > 0 ? rest.map(([k, v]) => [k, (v * (1 - value)) / sum]) : [[other, 1 - value]];
      s.sky.lamps = Object.fromEntries([...scaled, [key, value] as [string, number]].filter(([, v]) => v > 1e-6));
    });
  return LAMPS.map(([key, label]) => (
    <NumberField
      key={key}
      label={label}
      unit="%"
      value={Math.round((lamps[key] ?? 0) * 1000) / 10}
      min={0}
      max={100}
      onChange={(v) => set(key, v / 100)}
    />
  ));
}
