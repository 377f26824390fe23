import { Flame, MoonStar, Sun } from "lucide-react";
import { Choice } from "@/parts/controls/Choice";
import { THEME_LABELS, THEMES, useTheme } from "@/theme/useTheme";

const THEME_ICONS = { lamp: MoonStar, ember: Flame, daylight: Sun };

/** Lamp, Ember or Daylight. */
export function ThemeSwitch({ upright }: { upright: boolean }) {
  const [theme, set] = useTheme();
  return (
    <Choice
      label="Theme"
      className={`flex rounded-full bg-surface p-0.5 ${upright ? "flex-col" : ""}`}
      item="grid size-7 place-items-center rounded-full text-muted hover:text-ink data-[state=checked]:bg-salt data-[state=checked]:text-on-salt"
      value={theme}
      onChange={set}
      options={THEMES.map((t) => {
        const Icon = THEME_ICONS[t];
        return { value: t, name: THEME_LABELS[t], label: <Icon size={14} aria-hidden /> };
      })}
    />
  );
}
