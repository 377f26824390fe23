import { toast } from "sonner";
import { type NightOfLog, tableOf, useGuiding } from "@/api/log";
import { FileButton } from "@/parts/controls/FileButton";
import { FileLink } from "@/parts/controls/FileLink";
import { fail } from "@/parts/fail";
import { Headers } from "./Headers";
import { RecordDialog } from "./RecordDialog";

type Props = { night: NightOfLog; frame: string | undefined; objects: readonly string[] };

/** Which night it is, and what can be had of it or added to it. */
export function NightHead({ night, frame, objects }: Props) {
  const guiding = useGuiding();
  const { session } = night;
  const guided = (table: File) =>
    guiding({ id: session.id, file: table })
      .then((r) => toast.success(`${r.errors} errors of the guider fell into ${r.frames} frames.`))
      .catch(fail);
  return (
    <>
      <div className="flex flex-wrap items-baseline gap-x-3 gap-y-1">
        <h2 className="text-[1.15rem] font-medium">{session.night}</h2>
        <p className="min-w-0 grow text-muted">{[session.objects, session.camera].filter(Boolean).join(" · ")}</p>
      </div>
      <div className="mt-1 flex flex-wrap items-center gap-1.5">
        <FileLink href={tableOf(session.id, "csv")}>CSV</FileLink>
        <FileLink href={tableOf(session.id, "ecsv")}>ECSV</FileLink>
        {objects.map((o) => (
          <RecordDialog key={o} object={o} />
        ))}
        {frame && <Headers night={night} frame={frame} />}
        <FileButton
          look="quiet"
          label="A guider's table: CSV with at_utc and error_arcsec"
          accept=".csv,text/csv"
          take={(f) => void guided(f)}
        >
          Guiding
        </FileButton>
      </div>
    </>
  );
}
