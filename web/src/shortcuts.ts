import { useEffect } from "react";

export type Command = { id: string; label: string; keys?: string; run: () => void };

type Source = () => Command[];
const sources = new Set<Source>();
export const commands = (): Command[] => [...sources].flatMap((s) => s());

/** Offers commands to the palette and the keyboard while the calling component is on screen. */
export function useCommands(list: Command[]) {
  useEffect(() => {
    const source = () => list;
    sources.add(source);
    return () => {
      sources.delete(source);
    };
  }, [list]);
}

const typing = (target: EventTarget | null) =>
  target instanceof HTMLElement && (target.matches("input, textarea, select") || target.isContentEditable);

/** Listens for the keys of all commands: single keys ("u"), a key after g ("g b"), and Mod+key ("Mod+S"). */
export function useKeys() {
  useEffect(() => {
    let afterG = 0;
    const onKey = (e: KeyboardEvent) => {
      if (e.defaultPrevented || e.altKey) return;
      const mod = e.ctrlKey || e.metaKey;
      const key = e.key.length === 1 ? e.key.toLowerCase() : e.key;
      let pressed: string;
      if (mod) pressed = `Mod+${e.shiftKey ? "Shift+" : ""}${key.toUpperCase()}`;
      else if (typing(e.target)) return;
      else if (Date.now() - afterG < 1500) pressed = `g ${key}`;
      else pressed = key;
      if (!mod && key === "g" && !pressed.startsWith("g ")) {
        afterG = Date.now();
        return;
      }
      afterG = 0;
      const hit = commands().find((c) => c.keys === pressed);
      if (hit) {
        e.preventDefault();
        hit.run();
      }
    };
    window.addEventListener("keydown", onKey);
    return () => window.removeEventListener("keydown", onKey);
  }, []);
}
