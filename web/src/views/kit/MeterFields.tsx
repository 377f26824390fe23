import { useState } from "react";
import { useReadMeter } from "@/api/log";
import { FileButton } from "@/parts/controls/FileButton";
import { fail } from "@/parts/fail";
import type { ByAzimuth } from "./horizon";
import { PairsField } from "./PairsField";

type Props = {
  site: string;
  byHour: ByAzimuth;
  edit: (path: string, value: unknown, source?: string) => void;
  wrong: (path: string) => string | undefined;
};

/** Hours at which lamps go out, typed, or read from a sky meter's file together with the zenith. */
export function MeterFields({ site, byHour, edit, wrong }: Props) {
  const read = useReadMeter();
  const [told, setTold] = useState<string | null>(null);
  const take = async (file: File) => {
    const answer = await read({ site, text: await file.text() });
    const source = `sky meter, ${file.name}`;
    edit("zenith_v_mag", Number(answer.zenith_v_mag.value.toFixed(3)), source);
    edit(
      "by_hour",
      answer.by_hour.map(([hour = 0, darker = 0]) => [Number(hour.toFixed(2)), Number(darker.toFixed(2))]),
      source,
    );
    setTold(answer.told);
  };
  return (
    <div className="mt-3 flex flex-col items-start gap-2">
      <div className="w-full">
        <PairsField
          label="Lamps that go out: hour of mean solar time, and how many magnitudes darker the zenith is from then on; pairs likewise"
          value={byHour}
          placeholder="22.8 0.3; 5.5 0"
          error={wrong("by_hour")}
          testId="by-hour"
          onChange={(next) => edit("by_hour", next)}
        />
      </div>
      <FileButton label="A sky meter's file" accept=".jsonl,.json,.csv,.txt" take={(f) => void take(f).catch(fail)}>
        Read a sky meter's file
      </FileButton>
      {told && (
        <p role="status" className="text-muted" data-testid="meter-told">
          {told}
        </p>
      )}
    </div>
  );
}
