import { useState } from "react";
import type { Contender, Exposure } from "@/api/client";
import { choose } from "@/parts/choices";
import { Button } from "@/parts/controls/Button";
import { NumberField } from "@/parts/controls/NumberField";
import { Select } from "@/parts/controls/Select";
import { Slider } from "@/parts/controls/Slider";
import { clock } from "@/parts/format";
import { dragged, range, usual } from "@/parts/range";
import { DitherFields } from "./following";
import { exposureOf, type Inner, Title, wrongAt } from "./shared";

export function SubEditor({ scenario, change, contender, edit, index, errors }: Inner) {
  const several = contender.exposures.length > 1;
  const c = scenario.choices;
  const clockS = contender.total_s ?? scenario.total_s;
  return (
    <>
      <Title note="A sub is one exposure; each costs its overhead as well.">Subs and clock</Title>
      <div className="flex flex-col gap-3">
        {contender.exposures.map((e, i) => (
          <div key={i} className="rounded-lg bg-well p-2.5">
            {several && <div className="mb-1 truncate text-[0.9rem]">{e.filter?.name ?? "No filter"}</div>}
            <Slider
              label="Sub"
              unit="s"
              value={e.sub_s}
              {...dragged("Exposure", "sub_s", [0.5, 1800])}
              step={1}
              log
              show={`${e.sub_s} s`}
              testId={`sub-${i}`}
              onChange={(v, typed) => edit((c) => void (exposureOf(c, i).sub_s = typed || v < 10 ? v : Math.round(v)))}
            />
            <Select
              label="Pixels put together"
              value={String(e.binning ?? usual("Exposure", "binning"))}
              options={[1, 2, 3, 4].map((n) => ({ value: String(n), label: n === 1 ? "none" : `${n} × ${n}` }))}
              onChange={(v) => edit((c) => void (exposureOf(c, i).binning = Number(v)))}
              testId={`binning-${i}`}
            />
            {several && (
              <NumberField
                label={`Of the ${clock(clockS)} on the clock`}
                unit="h"
                value={Number(((e.share * clockS) / 3600).toPrecision(6))}
                min={0}
                max={clockS / 3600}
                error={i === 0 ? wrongAt(errors, `contenders[${index}].exposures`) : undefined}
                onChange={(h) => edit((c) => setShare(c, i, Math.min(1, (h * 3600) / clockS)))}
                testId={`share-${i}`}
              />
            )}
            <TestFrameFields
              frame={e.test_frame ?? null}
              offset_adu={contender.sensor.offset_adu}
              colour={contender.sensor.cfa != null}
              full_adu={2 ** contender.sensor.bits - 1}
              error={wrongAt(errors, `contenders[${index}].exposures[${i}].test_frame.background_adu`)}
              testId={`test-${i}`}
              set={(frame) => edit((c) => void (exposureOf(c, i).test_frame = frame))}
            />
          </div>
        ))}
      </div>
      <OwnClock {...{ contender, edit }} sharedS={scenario.total_s} />
      <div className="mt-2.5 grid grid-cols-2 gap-2.5">
        <NumberField
          label="Overhead a sub"
          unit="s"
          value={contender.overhead_s_per_sub ?? usual("Contender", "overhead_s_per_sub")}
          {...range("Contender", "overhead_s_per_sub")}
          onChange={(v) => edit((c) => void (c.overhead_s_per_sub = v))}
        />
        <DitherFields {...{ contender, edit }} />
        <NumberField
          label="Subs spoilt"
          unit="per h"
          value={contender.loss_per_hour ?? usual("Contender", "loss_per_hour")}
          {...range("Contender", "loss_per_hour")}
          onChange={(v) => edit((c) => void (c.loss_per_hour = v))}
        />
        <NumberField
          label="Stars may clip above, all paths"
          unit="V mag"
          value={c?.star_clips_v_mag ?? usual("Choices", "star_clips_v_mag")}
          {...range("Choices", "star_clips_v_mag")}
          onChange={(v) => change((s) => choose(s, { star_clips_v_mag: v }))}
        />
        <NumberField
          label="Core may fill, all paths"
          unit="% of full"
          value={(c?.core_fill ?? 1) * 100}
          {...range("Choices", "core_fill", 100)}
          onChange={(v) => change((s) => choose(s, { core_fill: v / 100 }))}
        />
      </div>
    </>
  );
}

/** The time of this path alone, where it is compared over another time than the others. */
function OwnClock({ contender, edit, sharedS }: Pick<Inner, "contender" | "edit"> & { sharedS: number }) {
  if (contender.total_s == null)
    return (
      <Button look="quiet" className="mt-1.5" onClick={() => edit((c) => void (c.total_s = sharedS))}>
        Give this path a clock of its own
      </Button>
    );
  return (
    <div className="mt-2.5 flex items-end gap-2">
      <NumberField
        label="Clock of this path alone"
        unit="h"
        value={contender.total_s / 3600}
        {...range("Contender", "total_s", 1 / 3600)}
        onChange={(h) => edit((c) => void (c.total_s = h * 3600))}
        testId="own-clock"
      />
      <Button look="quiet" onClick={() => edit((c) => void (c.total_s = null))}>
        As the others: {clock(sharedS)}
      </Button>
    </div>
  );
}

type Frame = NonNullable<Exposure["test_frame"]>;
type FrameProps = {
  frame: Frame | null;
  offset_adu: number;
  colour: boolean;
  full_adu: number;
  error: string | undefined;
  testId: string;
  set: (frame: Frame | null) => void;
};

/** A test frame's length and background: empty at first, and nothing counts until both are there. */
function TestFrameFields({ frame, offset_adu, colour, full_adu, error, testId, set }: FrameProps) {
  const [open, setOpen] = useState(false);
  const [half, setHalf] = useState<Partial<Frame>>({});
  if (!frame && !open)
    return (
      <Button look="quiet" className="mt-1" onClick={() => setOpen(true)} data-testid={`${testId}-open`}>
        I have a test frame
      </Button>
    );
  const withOffset = frame?.with_offset ?? half.with_offset ?? true;
  const put = (some: Partial<Frame>) => {
    const { sub_s, background_adu, ...rest } = { ...half, ...frame, ...some };
    setHalf({ ...half, ...some });
    if (sub_s !== undefined && background_adu !== undefined)
      set({ ...rest, sub_s, background_adu, with_offset: rest.with_offset ?? true });
  };
  return (
    <div className="mt-2 grid grid-cols-2 gap-2.5">
      <NumberField
        label="Test frame"
        unit="s"
        value={frame?.sub_s ?? half.sub_s ?? null}
        min={0.001}
        max={7200}
        onChange={(sub_s) => put({ sub_s })}
        testId={`${testId}-s`}
      />
      <NumberField
        label="Its background"
        unit="ADU"
        value={frame?.background_adu ?? half.background_adu ?? null}
        min={withOffset ? offset_adu : 0}
        max={full_adu}
        error={error}
        onChange={(background_adu) => put({ background_adu })}
        testId={`${testId}-adu`}
      />
      <label className="col-span-2 flex items-center gap-2 text-[0.88rem]">
        <input type="checkbox" checked={withOffset} onChange={(e) => put({ with_offset: e.target.checked })} />
        The offset of {offset_adu} ADU is still in it
      </label>
      {colour && (
        <div className="col-span-2">
          <Select
            label="Of which pixels"
            value={frame?.channel ?? half.channel ?? ""}
            placeholder="Those that decide the sub"
            options={[
              { value: "r", label: "red" },
              { value: "g", label: "green" },
              { value: "b", label: "blue" },
            ]}
            onChange={(v) => put({ channel: v as Frame["channel"] })}
            testId={`${testId}-channel`}
          />
        </div>
      )}
      <p className="col-span-2 text-[0.82rem] text-muted">
        {frame
          ? "The sub chart says how it stands against the sky assumed."
          : "Its length and the peak of its histogram; both count together."}
      </p>
      <Button
        look="quiet"
        onClick={() => {
          setOpen(false);
          setHalf({});
          if (frame) set(null);
        }}
      >
        Forget the test frame
      </Button>
    </div>
  );
}

/** One share changes; the others give or take in proportion, so that they always sum to 1. */
function setShare(c: Contender, at: number, value: number) {
  const rest = c.exposures.reduce((sum, e, i) => (i === at ? sum : sum + e.share), 0);
  c.exposures.forEach((e, i) => {
    e.share = i === at ? value : rest > 0 ? (e.share * (1 - value)) / rest : (1 - value) / (c.exposures.length - 1);
  });
}
