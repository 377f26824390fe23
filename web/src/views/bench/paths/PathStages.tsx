import { Popover } from "radix-ui";
import type { ContenderAnswer, FieldError, Library, Scenario } from "@/api/client";
import { contenderMark } from "@/theme/marks";
import { StageEditor } from "../editors/StageEditor";
import { STAGES, type Stage } from "../editors/shared";

type Props = {
  index: number;
  scenario: Scenario;
  library: Library;
  change: (edit: (draft: Scenario) => void) => void;
  errors: readonly FieldError[];
  answer: ContenderAnswer | undefined;
  open: string | null;
  setOpen: (stage: Stage | null) => void;
  /** What each stage is, and what it leaves. */
  name: Record<Stage, string>;
  note: Record<Stage, string>;
};

/** The stages of a path as buttons, each with its editor in place. */
export function PathStages({ name, note, index, scenario, ...p }: Props) {
  const letter = contenderMark(index).letter;
  return (
    <div className="relative grid h-full grid-cols-6 pt-[32px]">
      {STAGES.map((stage) => (
        <Popover.Root key={stage} open={p.open === stage} onOpenChange={(o) => p.setOpen(o ? stage : null)}>
          <Popover.Trigger
            onClick={(e) => e.stopPropagation()}
            data-testid={`stage-${letter}-${stage}`}
            className={`min-w-0 rounded-md px-1.5 text-left hover:bg-edge/60 data-[state=open]:bg-edge `}
          >
            <span className="block truncate text-[0.9rem]">{name[stage]}</span>
            <span className="block truncate text-[0.82rem] text-muted tabular-nums">{note[stage]}</span>
          </Popover.Trigger>
          <Popover.Portal>
            <Popover.Content
              side="bottom"
              align="start"
              sideOffset={6}
              collisionPadding={10}
              onClick={(e) => e.stopPropagation()}
              className="rise z-30 max-h-[min(34rem,var(--radix-popover-content-available-height))] w-[min(24rem,94vw)] overflow-y-auto rounded-xl border border-edge bg-surface p-4 shadow-2xl shadow-black/50"
              aria-label={`Edit ${stage} of path ${letter}`}
            >
              <StageEditor
                stage={stage}
                index={index}
                scenario={scenario}
                library={p.library}
                change={p.change}
                errors={p.errors}
                answer={p.answer}
              />
              <Popover.Arrow className="fill-edge" />
            </Popover.Content>
          </Popover.Portal>
        </Popover.Root>
      ))}
    </div>
  );
}
