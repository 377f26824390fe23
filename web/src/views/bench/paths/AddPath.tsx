import { useQuery } from "@tanstack/react-query";
import { Copy, Plus } from "lucide-react";
import { DropdownMenu } from "radix-ui";
import { answerOf, api, type Contender, type Scenario } from "@/api/client";
import { kitQuery } from "@/api/queries";
import { Button } from "@/parts/controls/Button";
import { fail } from "@/parts/fail";
import { contenderMark } from "@/theme/marks";

const MOST = 12;
const item =
  "flex items-center gap-2 rounded px-2.5 py-1.5 outline-none data-highlighted:bg-edge data-disabled:opacity-40";

type Props = { scenario: Scenario; selected: number; change: (edit: (draft: Scenario) => void) => void };

/** Another light path: a copy of the chosen one, or one that the filters of a rig of mine make. */
export function AddPath({ scenario, selected, change }: Props) {
  const kit = useQuery(kitQuery);
  const from = scenario.contenders[selected];
  const add = (paths: readonly Contender[]) =>
    change((s) => void s.contenders.push(...paths.slice(0, MOST - s.contenders.length).map((p) => structuredClone(p))));
  const take = async (rig: string, set: string) => {
    try {
      const made = await answerOf(
        api.POST("/api/v1/kit/compare", { body: { rigs: [rig], sets: [set], target: scenario.target } }),
      );
      add(made.contenders);
    } catch (e) {
      fail(e);
    }
  };
  return (
    <DropdownMenu.Root>
      <DropdownMenu.Trigger asChild>
        <Button look="quiet" disabled={scenario.contenders.length >= MOST}>
          <Plus size={15} aria-hidden /> Add a path
        </Button>
      </DropdownMenu.Trigger>
      <DropdownMenu.Portal>
        <DropdownMenu.Content
          align="end"
          sideOffset={4}
          collisionPadding={8}
          className="rise z-40 max-h-(--radix-dropdown-menu-content-available-height) max-w-[94vw] min-w-56 overflow-y-auto rounded-md border border-edge bg-raised p-1 shadow-xl shadow-black/40"
        >
          {from && (
            <DropdownMenu.Item
              className={item}
              onSelect={() => add([{ ...from, name: `${from.name} (copy)`.slice(0, 200) }])}
            >
              <Copy size={14} aria-hidden /> Copy of path {contenderMark(selected).letter}
            </DropdownMenu.Item>
          )}
          {(kit.data ?? [])
            .filter((r) => r.ready)
            .map((r) => (
              <DropdownMenu.Group key={r.id}>
                <DropdownMenu.Label className="px-2.5 pt-1.5 text-[0.82rem] text-muted">{r.name}</DropdownMenu.Label>
                {r.ready?.sets.map((set) => (
                  <DropdownMenu.Item key={set.key} className={item} onSelect={() => void take(r.id, set.key)}>
                    {set.name}
                  </DropdownMenu.Item>
                ))}
              </DropdownMenu.Group>
            ))}
        </DropdownMenu.Content>
      </DropdownMenu.Portal>
    </DropdownMenu.Root>
  );
}
