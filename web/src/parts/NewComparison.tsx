import { useQuery } from "@tanstack/react-query";
import { Dialog } from "radix-ui";
import { type ReactNode, useState } from "react";
import { useNavigate } from "react-router";
import { useCompare } from "@/api/mutations";
import { kitQuery, targetsQuery } from "@/api/queries";
import { overlay, panel } from "@/frame/dialog";
import { Button } from "@/parts/controls/Button";
import { Select } from "@/parts/controls/Select";
import { useSites } from "@/parts/evening";
import { fail } from "@/parts/fail";
import { KitChoice } from "./KitChoice";

/** Begins a comparison of one's own light paths: which target, with which rigs, from where. */
export function NewComparison({ children }: { children: ReactNode }) {
  const [open, setOpen] = useState(false);
  return (
    <Dialog.Root open={open} onOpenChange={setOpen}>
      <Dialog.Trigger asChild>{children}</Dialog.Trigger>
      <Dialog.Portal>
        <Dialog.Overlay className={overlay} />
        <Dialog.Content className={`${panel} top-[10vh] w-[min(34rem,94vw)] p-4`} aria-describedby={undefined}>
          <Dialog.Title className="mb-2 text-[1.15rem] font-medium">A new comparison</Dialog.Title>
          <NewForm />
        </Dialog.Content>
      </Dialog.Portal>
    </Dialog.Root>
  );
}

function NewForm() {
  const go = useNavigate();
  const compare = useCompare();
  const kit = useQuery(kitQuery);
  const sites = useSites();
  const ready = (kit.data ?? []).filter((r) => r.ready && r.ready.sets.length > 0);
  const [text, setText] = useState("");
  const [name, setName] = useState<string | null>(null);
  const [chosen, setChosen] = useState<string[] | null>(null);
  const [site, setSite] = useState<string | null>(null);
  const found = useQuery(targetsQuery({ text }));
  const rigs = chosen ?? ready.slice(0, 1).map((r) => r.id);
  const begin = async () => {
    if (!name) return;
    try {
      const from = site ?? sites[0]?.id;
      const made = await compare({ rigs, sets: [], on: name, ...(from && { site: from }) });
      void go(`/bench/${made.id}`);
    } catch (e) {
      fail(e);
    }
  };
  return (
    <form
      className="flex flex-col gap-3"
      onSubmit={(e) => {
        e.preventDefault();
        void begin();
      }}
    >
      <label className="text-[0.85rem] text-muted">
        Target
        <input
          value={text}
          autoFocus
          placeholder="Rosette, M 33, Sh2-101…"
          onChange={(e) => {
            setText(e.target.value);
            setName(null);
          }}
          className="block h-9 w-full rounded-md border border-edge bg-well px-2 text-ink placeholder:text-muted"
        />
      </label>
      {text && !name && (
        <ul className="-mt-2 flex flex-col" aria-label="Targets by that name">
          {found.data?.objects.slice(0, 5).map((o) => (
            <li key={o.name}>
              <button
                type="button"
                className="min-h-8 w-full rounded px-2 text-left hover:bg-raised"
                onClick={() => {
                  setName(o.name);
                  setText([o.name, ...o.other_names].slice(0, 2).join(", "));
                }}
              >
                {o.name} <span className="text-muted">{o.other_names.join(", ")}</span>
              </button>
            </li>
          ))}
          {found.data?.objects.length === 0 && (
            <li className="px-2 text-muted">The catalogue has nothing by that name.</li>
          )}
        </ul>
      )}
      <KitChoice rigs={ready} chosen={rigs} set={setChosen} />
      {sites.length > 0 && (
        <Select
          label="From"
          value={site ?? sites[0]?.id ?? ""}
          options={sites.map((s) => ({ value: s.id, label: s.entry.name }))}
          onChange={setSite}
        />
      )}
      <div className="flex justify-end">
        <Button look="lit" type="submit" disabled={!name || rigs.length === 0}>
          Compare
        </Button>
      </div>
    </form>
  );
}
