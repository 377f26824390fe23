import { Tabs } from "radix-ui";
import { Boundary } from "@/parts/Boundary";
import { PANELS, type PanelProps } from "./registry";

/** The tabs of the charts, the chosen one's chart in its panel. */
export function PanelTabs(props: PanelProps) {
  const { id, Panel } = PANELS.find((p) => p.id === props.params.get("chart")) ?? PANELS[0];
  return (
    <Tabs.Root value={id} onValueChange={(chart) => props.param((p) => p.set("chart", chart))}>
      <Tabs.List aria-label="Charts" className="mb-1 flex flex-wrap gap-x-1">
        {PANELS.map(({ id, label }) => (
          <Tabs.Trigger
            key={id}
            value={id}
            className="rounded-t-lg border-b-2 border-transparent px-3 py-0.5 text-[0.93rem] text-muted hover:text-ink data-[state=active]:border-salt data-[state=active]:text-ink"
          >
            {label}
          </Tabs.Trigger>
        ))}
      </Tabs.List>
      {PANELS.map((p) => (
        <Tabs.Content key={p.id} value={p.id}>
          {p.id === id && (
            <Boundary what="This chart" keys={[id, props.contender, props.answer]} height={200}>
              <Panel {...props} />
            </Boundary>
          )}
        </Tabs.Content>
      ))}
    </Tabs.Root>
  );
}
