import { Dialog } from "radix-ui";
import { useState } from "react";
import type { Campaign } from "@/api/client";
import { Button } from "@/parts/controls/Button";
import { NumberField } from "@/parts/controls/NumberField";
import { type CampaignNight, counted, type PerSub } from "./counted";

type Props = {
  title: string;
  /** What is said first: from the plan, or as it was recorded. */
  night: CampaignNight;
  exposures: Campaign["scenario"]["contenders"][number]["exposures"];
  /** What a sub adds where the night has none to go by. */
  perSub: PerSub | undefined;
  /** Keeps the night; what it resolves to is why it could not be kept, or null. */
  save: (night: CampaignNight) => Promise<string | null>;
  close: () => void;
};

/** What was really taken: subs of each filter, and a note. */
export function NightDialog({ title, night, exposures, perSub, save, close }: Props) {
  const [date, setDate] = useState(night.date);
  const [note, setNote] = useState(night.note ?? "");
  const [subs, setSubs] = useState(() => exposures.map((_, x) => counted.subs(night, x)));
  const [wrong, setWrong] = useState<string | null>(null);
  const [busy, setBusy] = useState(false);
  const keep = async () => {
    setBusy(true);
    setWrong(await save({ ...counted.night(night, subs, perSub), date, note, planned: false }));
    setBusy(false);
  };
  return (
    <Dialog.Root open onOpenChange={(open) => !open && close()}>
      <Dialog.Portal>
        <Dialog.Overlay className="fixed inset-0 z-40 bg-shade/60" />
        <Dialog.Content
          aria-describedby={undefined}
          className="rise fixed top-[12vh] left-1/2 z-50 max-h-[80vh] w-[min(30rem,94vw)] -translate-x-1/2 overflow-y-auto rounded-xl border border-edge bg-surface p-5 shadow-2xl shadow-black/50"
        >
          <Dialog.Title className="mb-2 text-lg">{title}</Dialog.Title>
          <form
            onSubmit={(e) => {
              e.preventDefault();
              void keep();
            }}
          >
            <label className="block text-[0.85rem] text-muted">
              Evening of
              <input
                type="date"
                required
                value={date}
                onChange={(e) => setDate(e.target.value)}
                className="num block h-8 rounded-md border border-edge bg-well px-2 text-ink"
              />
            </label>
            <div className="mt-3 grid grid-cols-2 gap-2.5">
              {exposures.map((e, x) => (
                <NumberField
                  key={x}
                  label={`${e.filter?.name ?? "No filter"}, subs of ${e.sub_s} s kept`}
                  value={subs[x] ?? 0}
                  min={0}
                  max={100_000}
                  onChange={(v) => setSubs(subs.map((s, i) => (i === x ? Math.round(v) : s)))}
                  testId={`taken-${x}`}
                />
              ))}
            </div>
            <label className="mt-3 block text-[0.85rem] text-muted">
              Note
              <textarea
                value={note}
                maxLength={2000}
                rows={2}
                onChange={(e) => setNote(e.target.value)}
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
              <Button look="lit" type="submit" disabled={busy}>
                Record
              </Button>
            </div>
          </form>
        </Dialog.Content>
      </Dialog.Portal>
    </Dialog.Root>
  );
}
