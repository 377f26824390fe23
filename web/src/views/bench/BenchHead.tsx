import { Download, Printer, Redo2, Save, Undo2 } from "lucide-react";
import { Link } from "react-router";
import { Button, IconButton } from "@/parts/controls/Button";

type Props = {
  title: string;
  rename: (title: string) => void;
  /** Whether the draft differs from what is stored, and whether it is being saved. */
  dirty: boolean;
  /** Only begun: in no list until it is changed or kept. */
  untouched: boolean;
  saving: boolean;
  save: () => void;
  undo?: () => void;
  redo?: () => void;
  report: () => void;
  exportJson: () => void;
};

/** The head of a comparison: its title, whether it is saved, and what can be done with it. */
export function BenchHead({ title, rename, dirty, untouched, saving, save, undo, redo, report, exportJson }: Props) {
  return (
    <div className="flex flex-wrap items-center gap-2">
      <Link to="/bench" className="text-muted hover:text-ink">
        Comparisons
      </Link>
      <span className="text-muted">/</span>
      <h1 className="sr-only">{title}</h1>
      <input
        aria-label="Title"
        value={title}
        maxLength={200}
        onChange={(e) => rename(e.target.value)}
        className="min-w-32 grow rounded bg-transparent px-1 text-[1.15rem] font-medium hover:bg-surface focus:bg-well"
      />
      <span className="text-[0.88rem] whitespace-nowrap text-muted" aria-live="polite" data-testid="save-state">
        {saving
          ? "Saving…"
          : dirty
            ? "Unsaved changes, kept in this browser"
            : untouched
              ? "Begun, not kept yet"
              : "Saved"}
      </span>
      <IconButton label="Undo (u)" onClick={undo} disabled={!undo}>
        <Undo2 size={16} aria-hidden />
      </IconButton>
      <IconButton label="Redo" onClick={redo} disabled={!redo}>
        <Redo2 size={16} aria-hidden />
      </IconButton>
      <IconButton label="Report to print" onClick={report}>
        <Printer size={16} aria-hidden />
      </IconButton>
      <IconButton label="Save as a JSON file" onClick={exportJson}>
        <Download size={16} aria-hidden />
      </IconButton>
      <Button look={dirty || untouched ? "lit" : "plain"} onClick={save} disabled={saving || !(dirty || untouched)}>
        <Save size={15} aria-hidden /> {untouched && !dirty ? "Keep" : "Save"}
      </Button>
    </div>
  );
}
