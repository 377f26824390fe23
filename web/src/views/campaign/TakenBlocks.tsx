import { Controller, type UseFormReturn } from "react-hook-form";
import type { Campaign, CampaignNight } from "@/api/client";
import { NumberField } from "@/parts/controls/NumberField";
import { type ClockOffset, localTime } from "@/parts/evening";
import { range } from "@/parts/range";
import type { Taken } from "./NightDialog";

const SUBS = range("Shot", "subs");

type Props = {
  form: UseFormReturn<Taken>;
  planned: NonNullable<CampaignNight["blocks"]>;
  exposures: Campaign["scenario"]["contenders"][number]["exposures"];
  clock?: readonly ClockOffset[];
};

/** Block by block: how many subs were kept, how many cloud took, and a note. */
export function TakenBlocks({ form, planned, exposures, clock }: Props) {
  const { control, register, setValue } = form;
  return (
    <table className="mt-3 w-full text-[0.93rem]" data-testid="taken-blocks">
      <thead className="text-left text-[0.82rem] text-muted">
        <tr>
          <th className="font-normal">Block</th>
          <th className="w-24 font-normal">Lost to cloud</th>
          <th className="w-24 font-normal">Kept</th>
          <th className="font-normal">Note</th>
        </tr>
      </thead>
      <tbody>
        {planned.map((b, i) => {
          const filter = exposures[b.exposure]?.filter?.name ?? "no filter";
          const hours = clock ? `${localTime(b.from_s, clock)}–${localTime(b.to_s, clock)} ` : "";
          const all = b.subs + (b.lost_to_cloud ?? 0);
          return (
            <tr key={`${b.from_s}${b.exposure}`} className="border-t border-edge/60">
              <td className="py-1 pr-2">
                <span className="num">{hours}</span>
                {filter}, {all} × {exposures[b.exposure]?.sub_s} s
              </td>
              <td className="py-1 pr-2">
                <Count
                  {...{ control }}
                  name={`blocks.${i}.lost_to_cloud`}
                  label={`Subs of ${filter} lost to cloud, block ${i + 1}`}
                  also={(lost) => setValue(`blocks.${i}.subs`, Math.max(0, all - lost))}
                  testId={`lost-${i}`}
                />
              </td>
              <td className="py-1 pr-2">
                <Count
                  {...{ control }}
                  name={`blocks.${i}.subs`}
                  label={`Subs of ${filter} kept, block ${i + 1}`}
                  testId={`kept-${i}`}
                />
              </td>
              <td className="py-1">
                <input
                  aria-label={`Note to block ${i + 1}`}
                  maxLength={2000}
                  {...register(`blocks.${i}.note`)}
                  className="h-8 w-full rounded-md border border-edge bg-well px-2 text-ink"
                />
              </td>
            </tr>
          );
        })}
      </tbody>
    </table>
  );
}

type CountProps = {
  control: UseFormReturn<Taken>["control"];
  name: `blocks.${number}.${"subs" | "lost_to_cloud"}`;
  label: string;
  also?: (n: number) => void;
  testId: string;
};

/** A number of subs; `also` follows it. */
function Count({ control, name, label, also, testId }: CountProps) {
  return (
    <Controller
      name={name}
      control={control}
      render={({ field }) => (
        <NumberField
          hideLabel
          label={label}
          value={field.value}
          {...SUBS}
          onChange={(n) => {
            field.onChange(n);
            also?.(n);
          }}
          testId={testId}
        />
      )}
    />
  );
}
