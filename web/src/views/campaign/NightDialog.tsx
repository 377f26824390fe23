import { zodResolver } from "@hookform/resolvers/zod";
import { Dialog } from "radix-ui";
import { Controller, useForm } from "react-hook-form";
import type { Campaign, CampaignNight } from "@/api/client";
import { Button } from "@/parts/controls/Button";
import { NumberField } from "@/parts/controls/NumberField";
import type { ClockOffset } from "@/parts/evening";
import { range } from "@/parts/range";
import { z } from "@/parts/zod";
import { TakenBlocks } from "./TakenBlocks";

const SUBS = range("Shot", "subs");
const LONGEST_NOTE = 2000;
const COUNT = z.number().min(SUBS.min).max(SUBS.max).transform(Math.round);

const schema = z.object({
  date: z.iso.date("Give an evening's date, such as 2027-01-10."),
  subs: z.array(COUNT),
  blocks: z.array(z.object({ subs: COUNT, lost_to_cloud: COUNT, note: z.string().max(LONGEST_NOTE) })),
  note: z.string().max(LONGEST_NOTE),
});
export type Taken = z.infer<typeof schema>;

/** Subs of an exposure in a night. */
const subsOf = (night: CampaignNight, exposure: number) =>
  night.shots.reduce((sum, s) => sum + (s.exposure === exposure ? s.subs : 0), 0);

const NO_BLOCKS: NonNullable<CampaignNight["blocks"]> = [];

type Props = {
  title: string;
  /** What is said first: from the plan, or as it was recorded. */
  night: CampaignNight;
  exposures: Campaign["scenario"]["contenders"][number]["exposures"];
  /** The night's own clock, for the hours of its blocks. */
  clock?: readonly ClockOffset[];
  /** Keeps the night with the subs of each exposure; throws why it could not be kept. */
  save: (night: CampaignNight, subs: number[]) => Promise<void>;
  close: () => void;
};

/** What was really taken: subs of each filter, and a note. */
export function NightDialog({ title, night, exposures, clock, save, close }: Props) {
  const planned = night.blocks ?? NO_BLOCKS;
  const form = useForm<Taken>({
    resolver: zodResolver(schema),
    defaultValues: {
      date: night.date,
      note: night.note ?? "",
      subs: exposures.map((_, x) => subsOf(night, x)),
      blocks: planned.map(({ subs, lost_to_cloud, note }) => ({
        subs,
        lost_to_cloud: lost_to_cloud ?? 0,
        note: note ?? "",
      })),
    },
  });
  const { register, control, handleSubmit, setError, formState } = form;
  const { errors, isSubmitting } = formState;
  const keep = handleSubmit(async ({ date, note, subs, blocks: taken }) => {
    const blocks = planned.map((b, i) => ({ ...b, ...taken[i] }));
    // Block by block where there are blocks: their sums count.
    const sums = exposures.map((_, x) => blocks.reduce((n, b) => n + (b.exposure === x ? b.subs : 0), 0));
    try {
      await save({ ...night, date, note, blocks, planned: false }, blocks.length > 0 ? sums : subs);
    } catch (e) {
      setError("root", { message: (e as Error).message });
    }
  });
  const wrong = errors.root?.message ?? errors.date?.message ?? errors.note?.message;
  return (
    <Dialog.Root open onOpenChange={(open) => !open && close()}>
      <Dialog.Portal>
        <Dialog.Overlay className="fixed inset-0 z-40 bg-shade/60" />
        <Dialog.Content
          aria-describedby={undefined}
          className="rise fixed top-[12vh] left-1/2 z-50 max-h-[80vh] w-[min(48rem,94vw)] -translate-x-1/2 overflow-y-auto rounded-xl border border-edge bg-surface p-5 shadow-2xl shadow-black/50"
        >
          <Dialog.Title className="mb-2 text-lg">{title}</Dialog.Title>
          <form onSubmit={(e) => void keep(e)} noValidate>
            <label className="block text-[0.85rem] text-muted">
              Evening of
              <input
                type="date"
                {...register("date")}
                aria-invalid={errors.date !== undefined}
                className="num block h-8 rounded-md border border-edge bg-well px-2 text-ink"
              />
            </label>
            {planned.length > 0 && <TakenBlocks {...{ form, planned, exposures, clock }} />}
            <div className="mt-3 grid grid-cols-2 gap-2.5" hidden={planned.length > 0}>
              {exposures.map((e, x) => (
                <Controller
                  key={x}
                  name={`subs.${x}`}
                  control={control}
                  render={({ field }) => (
                    <NumberField
                      label={`${e.filter?.name ?? "No filter"}, subs of ${e.sub_s} s kept`}
                      value={field.value}
                      {...SUBS}
                      onChange={field.onChange}
                      testId={`taken-${x}`}
                    />
                  )}
                />
              ))}
            </div>
            <label className="mt-3 block text-[0.85rem] text-muted">
              Note
              <textarea
                {...register("note")}
                maxLength={LONGEST_NOTE}
                rows={2}
                className="block w-full rounded-md border border-edge bg-well px-2 py-1 text-ink"
              />
            </label>
            {wrong && (
              <p role="alert" className="mt-2 whitespace-pre-line text-danger">
                {wrong}
              </p>
            )}
            <div className="mt-4 flex justify-end gap-2">
              <Button onClick={close}>Cancel</Button>
              <Button look="lit" type="submit" disabled={isSubmitting}>
                Record
              </Button>
            </div>
          </form>
        </Dialog.Content>
      </Dialog.Portal>
    </Dialog.Root>
  );
}
