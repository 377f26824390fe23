import { current } from "immer";
import { ArrowDown, ArrowUp, Copy, Ellipsis, EyeOff, Gem, Trash2 } from "lucide-react";
import { DropdownMenu } from "radix-ui";
import type { Scenario } from "@/api/client";
import { contenderMark } from "@/theme/marks";

type Props = {
  index: number;
  scenario: Scenario;
  change: (edit: (draft: Scenario) => void) => void;
  /** Puts the row out of sight; not for the baseline. */
  hide: () => void;
  beginCampaign: () => void;
};

const item =
  "flex items-center gap-2 rounded px-2.5 py-1.5 outline-none data-highlighted:bg-edge data-disabled:opacity-40";

/** What else can be done with a row: copied, moved, hidden, taken away, made a campaign of. */
export function RowMenu({ index, scenario, change, hide, beginCampaign }: Props) {
  const letter = contenderMark(index).letter;
  const move = (by: number) =>
    change((s) => {
      const [row] = s.contenders.splice(index, 1);
      if (row) s.contenders.splice(index + by, 0, row);
    });
  return (
    <DropdownMenu.Root>
      <DropdownMenu.Trigger
        aria-label={`More for path ${letter}`}
        onClick={(e) => e.stopPropagation()}
        className="grid size-[24px] shrink-0 place-items-center rounded text-muted hover:bg-edge hover:text-ink"
      >
        <Ellipsis size={16} aria-hidden />
      </DropdownMenu.Trigger>
      <DropdownMenu.Portal>
        <DropdownMenu.Content
          align="start"
          sideOffset={4}
          onClick={(e) => e.stopPropagation()}
          className="rise z-40 min-w-44 rounded-md border border-edge bg-raised p-1 shadow-xl shadow-black/40"
        >
          <DropdownMenu.Item
            className={item}
            disabled={scenario.contenders.length >= 12}
            onSelect={() =>
              change((s) => {
                const c = s.contenders[index];
                if (c)
                  s.contenders.splice(index + 1, 0, {
                    ...structuredClone(current(c)),
                    name: `${c.name} (copy)`.slice(0, 200),
                  });
              })
            }
          >
            <Copy size={14} aria-hidden /> Copy
          </DropdownMenu.Item>
          <DropdownMenu.Item className={item} disabled={index === 0} onSelect={() => move(-1)}>
            <ArrowUp size={14} aria-hidden /> Move up{index === 1 ? ", make it the baseline" : ""}
          </DropdownMenu.Item>
          <DropdownMenu.Item
            className={item}
            disabled={index === scenario.contenders.length - 1}
            onSelect={() => move(1)}
          >
            <ArrowDown size={14} aria-hidden /> Move down
          </DropdownMenu.Item>
          <DropdownMenu.Item className={item} onSelect={beginCampaign}>
            <Gem size={14} aria-hidden /> Begin a campaign with it
          </DropdownMenu.Item>
          <DropdownMenu.Item className={item} disabled={index === 0} onSelect={hide}>
            <EyeOff size={14} aria-hidden /> Hide
          </DropdownMenu.Item>
          <DropdownMenu.Item
            className={`${item} text-danger`}
            disabled={scenario.contenders.length === 1}
            onSelect={() => change((s) => void s.contenders.splice(index, 1))}
          >
            <Trash2 size={14} aria-hidden /> Remove (u brings it back)
          </DropdownMenu.Item>
        </DropdownMenu.Content>
      </DropdownMenu.Portal>
    </DropdownMenu.Root>
  );
}
