import { useQuery } from "@tanstack/react-query";
import { Command as Cmdk } from "cmdk";
import { useState } from "react";
import { useNavigate } from "react-router";
import { scenariosQuery, shelfQuery, targetsQuery } from "@/api/queries";
import { commands } from "@/parts/shortcuts";
import { shownKeys } from "./dialog";

type Item = { id: string; label: string; note?: string; run: () => void };

/** Every word that was typed stands in the label: nothing is offered for letters that lie scattered in it. */
const holds = (label: string, typed: string) =>
  typed
    .toLowerCase()
    .split(/\s+/)
    .every((word) => label.toLowerCase().includes(word));

const MOST = 6;
/** Whether enough is typed to ask the catalogue: three letters, or a number as in "M3". */
const enough = (typed: string) => typed.length >= 3 || (typed.length === 2 && /\d/.test(typed));

/** What the palette offers for what is typed: actions, targets, comparisons, things of the kit. */
function useFound(typed: string): [group: string, items: Item[]][] {
  const go = useNavigate();
  const asked = enough(typed.trim());
  const targets = useQuery({ ...targetsQuery({ text: typed.trim() }), enabled: asked });
  const rows = useQuery(scenariosQuery);
  const shelf = useQuery(shelfQuery(false));
  const actions = commands()
    .filter((c) => c.id !== "palette" && holds(c.label, typed))
    .map((c) => ({ id: c.id, label: c.label, run: c.run, ...(c.keys && { note: shownKeys(c.keys) }) }));
  if (!asked) return [["Actions", actions]];
  const objects = (targets.data?.objects ?? []).slice(0, MOST).map((o) => ({
    id: `target-${o.name}`,
    label: [o.name, ...o.other_names.slice(0, 2)].join(", "),
    run: () => void go(`/targets?object=${encodeURIComponent(o.name)}`),
  }));
  const comparisons = (rows.data ?? [])
    .filter((r) => holds(`${r.title} ${r.target}`, typed))
    .slice(0, MOST)
    .map((r) => ({ id: `bench-${r.id}`, label: r.title || "Untitled", run: () => void go(`/bench/${r.id}`) }));
  const kit = (shelf.data ?? [])
    .filter((e) => holds(e.entry.name, typed))
    .slice(0, MOST)
    .map((e) => ({
      id: `kit-of-${e.id}`,
      label: e.entry.name,
      note: e.mine ? e.entry.thing.kind : `${e.entry.thing.kind} on offer`,
      run: () => void go(`/kit?kind=${e.entry.thing.kind}&id=${e.id}`),
    }));
  return [
    ["Actions", actions],
    ["Targets", objects],
    ["Comparisons", comparisons],
    ["Kit", kit],
  ];
}

/** The palette's field and list. */
export function Found({ close }: { close: () => void }) {
  const [typed, setTyped] = useState("");
  const groups = useFound(typed).filter(([, items]) => items.length > 0);
  return (
    <Cmdk label="Commands" loop shouldFilter={false}>
      <Cmdk.Input
        placeholder="An action, a target, a comparison, a thing of the kit"
        value={typed}
        onValueChange={setTyped}
        className="w-full border-b border-edge bg-transparent px-4 py-3 text-[1.05rem] outline-none placeholder:text-muted"
      />
      <Cmdk.List className="max-h-96 overflow-y-auto p-1.5">
        {groups.length === 0 && <p className="px-3 py-4 text-muted">Nothing by that name.</p>}
        {groups.map(([group, items]) => (
          <Cmdk.Group
            key={group}
            heading={group}
            className="[&_[cmdk-group-heading]]:px-3 [&_[cmdk-group-heading]]:pt-1.5 [&_[cmdk-group-heading]]:text-[0.82rem] [&_[cmdk-group-heading]]:text-muted"
          >
            {items.map((item) => (
              <Cmdk.Item
                key={item.id}
                value={item.id}
                onSelect={() => {
                  close();
                  item.run();
                }}
                className="flex items-center justify-between gap-3 rounded-md px-3 py-1.5 data-[selected=true]:bg-raised"
              >
                <span className="min-w-0 truncate">{item.label}</span>
                {item.note && <kbd className="num shrink-0 text-[0.85rem] text-muted">{item.note}</kbd>}
              </Cmdk.Item>
            ))}
          </Cmdk.Group>
        ))}
      </Cmdk.List>
    </Cmdk>
  );
}
