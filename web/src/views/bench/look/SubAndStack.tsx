import type { ReactNode } from "react";
import type { LookWords, Scenario } from "@/api/client";
import type { Picture } from "@/api/frames";
import { CropRow } from "@/parts/crop/CropRow";
import { clock, many, seconds } from "@/parts/format";
import { contenderMark } from "@/theme/marks";

type Props = {
  pictures: Picture[];
  subs: Picture[] | undefined;
  words: LookWords[] | undefined;
  scenario: Scenario;
  selected: number;
  crop: (i: number, picture: Picture, height: number, label: string) => ReactNode;
};

/** One sub of the selected path beside its stack, at one stretch: what a first frame promises. */
export function SubAndStack({ pictures, subs, words, scenario, selected, crop }: Props) {
  const { letter, colour } = contenderMark(selected);
  const path = scenario.contenders[selected];
  const [one, stack] = [subs?.[selected], pictures[selected]];
  if (!one || !stack || !path) return <p className="mt-2 text-muted">Counting photons…</p>;
  const each = path.exposures.map((e) => seconds(e.sub_s)).join(", ");
  const stackedS = words?.[selected]?.stacked_s ?? 0;
  const stacked = (words?.[selected]?.subs ?? []).map(many).join(" + ");
  return (
    <CropRow count={2}>
      {(height) => (
        <>
          <figure className="min-w-0" data-testid="one-sub">
            {crop(selected, one, height, `One sub of path ${letter}`)}
            <figcaption className="mt-0.5 text-[0.86rem]">
              <b style={{ color: colour }}>{letter}</b> {path.exposures.length > 1 ? "One sub of each" : "One sub"}:{" "}
              {each}
            </figcaption>
          </figure>
          <figure className="min-w-0">
            {crop(selected, stack, height, `Stack of path ${letter}`)}
            <figcaption className="mt-0.5 text-[0.86rem]">
              <b style={{ color: colour }}>{letter}</b> The stack: {stacked} {stackedS > 0 && `in ${clock(stackedS)}`}
            </figcaption>
          </figure>
        </>
      )}
    </CropRow>
  );
}
