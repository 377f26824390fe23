import { X } from "lucide-react";
import { useState } from "react";
import { Button, IconButton } from "@/parts/controls/Button";
import type { FramingState } from "./useFraming";

/** Objects that are to stand on one sensor: the frame is laid over all of them. */
export function FramedTogether({ framing }: { framing: FramingState }) {
  const [typed, setTyped] = useState("");
  const [, ...others] = framing.names;
  const set = (list: readonly string[]) =>
    framing.lay((p) => {
      if (list.length > 0) p.set("with", list.join(";"));
      else p.delete("with");
    });
  const add = () => {
    const name = typed.trim().replaceAll(";", " ");
    if (name && !others.includes(name)) set([...others, name]);
    setTyped("");
  };
  return (
    <div className="mt-2 flex flex-wrap items-end gap-2 text-[0.92rem]">
      <label className="min-w-40 grow text-[0.85rem] text-muted">
        Frame together with
        <input
          value={typed}
          onChange={(e) => setTyped(e.target.value)}
          onKeyDown={(e) => e.key === "Enter" && add()}
          placeholder="Soul, NGC 7000, Sh2-115…"
          className="block h-8 w-full rounded-md border border-edge bg-well px-2 text-ink placeholder:text-muted"
          data-testid="together"
        />
      </label>
      <Button disabled={!typed.trim()} onClick={add}>
        Add
      </Button>
      {others.map((name) => (
        <span key={name} className="flex h-8 items-center gap-1 rounded-md bg-raised pl-2">
          {name}
          <IconButton label={`Leave out ${name}`} onClick={() => set(others.filter((n) => n !== name))}>
            <X size={14} aria-hidden />
          </IconButton>
        </span>
      ))}
    </div>
  );
}
