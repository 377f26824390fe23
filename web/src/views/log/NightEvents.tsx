import { Plus, X } from "lucide-react";
import { useState } from "react";
import { type EventKind, type NightOfLog, useAddEvent, useRemoveEvent } from "@/api/log";
import { Button, IconButton } from "@/parts/controls/Button";
import { Select } from "@/parts/controls/Select";
import { fail } from "@/parts/fail";
import { useOfferUndo } from "@/parts/useOfferUndo";
import { utc } from "./measures";

const KINDS: readonly { value: EventKind; label: string }[] = [
  { value: "focus", label: "Focus set" },
  { value: "filter_moved", label: "Filter moved" },
  { value: "cloud", label: "Cloud" },
  { value: "dew", label: "Dew" },
  { value: "note", label: "Note" },
];
const label = (kind: EventKind) => KINDS.find((k) => k.value === kind)?.label ?? kind;

/** The moment of a clock time within a night, seconds since 1970; after noon it is the evening's day. */
export function momentOf(night: string, time: string): number | null {
  const [, h, m] = /^(\d{1,2}):(\d{2})$/.exec(time) ?? [];
  if (h === undefined || m === undefined || Number(h) > 23 || Number(m) > 59) return null;
  const noon = Date.parse(`${night}T12:00:00Z`) / 1000;
  const of = (Number(h) * 60 + Number(m)) * 60;
  return noon + ((of - 43_200 + 86_400) % 86_400);
}

/** What happened beside the frames: typed with its time, and taken out again. */
export function NightEvents({ night }: { night: NightOfLog }) {
  const [add, remove, offerUndo] = [useAddEvent(), useRemoveEvent(), useOfferUndo()];
  const [open, setOpen] = useState(false);
  const [kind, setKind] = useState<EventKind>("focus");
  const [time, setTime] = useState("");
  const [text, setText] = useState("");
  const id = night.session.id;
  const at_s = momentOf(night.session.night, time);
  const input = "h-8 rounded-md border border-edge bg-well px-2";
  return (
    <div className="mt-2" data-testid="night-events">
      <ul>
        {night.events.map((e) => (
          <li key={e.id} className="flex items-center gap-2 text-[0.93rem]">
            <span className="num text-muted">{utc(e.at_s)}</span> {label(e.kind)}
            {e.text && `: ${e.text}`}
            <IconButton
              label={`Take out ${label(e.kind)} at ${utc(e.at_s)}`}
              onClick={() => {
                const back = () => add({ id, at_s: e.at_s, kind: e.kind, text: e.text });
                offerUndo(`${label(e.kind)} at ${utc(e.at_s)} taken out`, back, remove(e.id));
              }}
            >
              <X size={14} aria-hidden />
            </IconButton>
          </li>
        ))}
      </ul>
      {!open && (
        <Button look="quiet" onClick={() => setOpen(true)}>
          <Plus size={14} aria-hidden /> Something happened
        </Button>
      )}
      {open && (
        <form
          className="flex flex-wrap items-end gap-2"
          onSubmit={(e) => {
            e.preventDefault();
            if (at_s === null) return;
            add({ id, at_s, kind, text }).then(() => {
              setOpen(false);
              setText("");
            }, fail);
          }}
        >
          <Select label="What" value={kind} options={KINDS} onChange={(v) => setKind(v as EventKind)} />
          <label className="text-[0.85rem] text-muted">
            Time, UTC
            <input
              className={`num block w-20 text-ink ${input}`}
              value={time}
              placeholder="21:30"
              aria-invalid={time !== "" && at_s === null}
              onChange={(e) => setTime(e.target.value)}
            />
          </label>
          <label className="min-w-40 grow text-[0.85rem] text-muted">
            In words
            <input
              className={`block w-full text-ink ${input}`}
              value={text}
              onChange={(e) => setText(e.target.value)}
            />
          </label>
          <Button type="submit" look="lit" disabled={at_s === null}>
            Write it down
          </Button>
          <Button look="quiet" onClick={() => setOpen(false)}>
            Not now
          </Button>
          {time !== "" && at_s === null && <p className="w-full text-danger">Give hours and minutes, such as 21:30.</p>}
        </form>
      )}
    </div>
  );
}
