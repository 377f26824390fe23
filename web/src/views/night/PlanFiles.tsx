import { CalendarPlus, Printer } from "lucide-react";
import { toast } from "sonner";
import { at } from "@/api/base";
import type { NightQuestion } from "@/api/client";
import { Button } from "@/parts/controls/Button";
import { saveFile } from "@/parts/save";

const FILES = [
  ["ics", "iCalendar", "text/calendar"],
  ["csv", "CSV", "text/csv"],
  ["json", "JSON", "application/json"],
] as const;

type Props = { question: NightQuestion | null; name: string; disabled: boolean };

/** The plan as a file, or on paper. */
export function PlanFiles({ question, name, disabled }: Props) {
  const save = async (format: string, mime: string) => {
    if (!question) return;
    const answer = await fetch(at(`/api/v1/night/plan?format=${format}`), {
      method: "POST",
      headers: { "content-type": "application/json" },
      body: JSON.stringify(question),
    });
    if (!answer.ok) toast.error("The plan could not be written; see the message above.");
    else saveFile(`${name}.${format}`, mime, await answer.text());
  };
  return (
    <>
      {FILES.map(([format, label, mime]) => (
        <Button key={format} look="quiet" onClick={() => void save(format, mime)} disabled={disabled}>
          {format === "ics" && <CalendarPlus size={15} aria-hidden />}
          {label}
        </Button>
      ))}
      <Button look="quiet" onClick={() => window.print()}>
        <Printer size={15} aria-hidden /> Run sheet
      </Button>
    </>
  );
}
