import { type ReactNode, useEffect, useMemo, useState } from "react";
import type { LookWords, Scenario } from "@/api/client";
import type { Picture } from "@/api/frames";
import { Button } from "@/parts/controls/Button";
import { CropRow } from "@/parts/crop/CropRow";
import { contenderMark } from "@/theme/marks";
import { Caption } from "./Caption";
import { SubAndStack } from "./SubAndStack";
import { type Arrangement, difference } from "./view";

type Props = {
  pictures: Picture[] | undefined;
  /** The same of one sub each, where they are wanted. */
  subs: Picture[] | undefined;
  words: LookWords[] | undefined;
  scenario: Scenario;
  hidden: ReadonlySet<number>;
  arrangement: Arrangement;
  pair: readonly [number, number];
  selected: number;
  /** Draws one picture as a crop that can be moved and measured. */
  crop: (i: number, picture: Picture, height: number, label: string) => ReactNode;
};

/** The pictures as they are arranged: side by side, two in turn, or one less another. */
export function LookPictures(props: Props) {
  const { pictures, subs, words, scenario, hidden, arrangement, pair, selected, crop } = props;
  const shown = useTurns(arrangement === "blink");
  const diff = useMemo(() => {
    const [a, b] = [pictures?.[pair[0]], pictures?.[pair[1]]];
    return arrangement === "difference" && a && b ? difference(a, b) : null;
  }, [arrangement, pictures, pair[0], pair[1]]);
  if (!pictures) return <div className="mt-2 grid h-[300px] place-items-center text-muted">Counting photons…</div>;
  const turn = pair[shown.at] ?? 0;
  const inTurn = pictures[turn];
  const seen = pictures.map((picture, i) => ({ picture, i })).filter(({ i }) => !hidden.has(i));
  return (
    <>
      {arrangement === "grid" && (
        <CropRow count={seen.length}>
          {(height) =>
            seen.map(({ picture, i }) => (
              <figure key={contenderMark(i).letter} className="min-w-0">
                {crop(i, picture, height, `Simulated crop of path ${contenderMark(i).letter}`)}
                <Caption index={i} name={scenario.contenders[i]?.name} words={words?.[i]} />
              </figure>
            ))
          }
        </CropRow>
      )}
      {arrangement === "sub" && <SubAndStack {...{ pictures, subs, words, scenario, selected, crop }} />}
      {arrangement === "blink" && inTurn && (
        <figure className="mt-2">
          {crop(turn, inTurn, 420, "Two paths in turn")}
          <figcaption className="mt-1 flex items-center gap-3 text-[0.9rem]">
            <b style={{ color: contenderMark(turn).colour }}>{contenderMark(turn).letter}</b>
            {scenario.contenders[turn]?.name}
            <Button onClick={shown.other}>The other</Button>
          </figcaption>
        </figure>
      )}
      {diff && (
        <figure className="mt-2">
          {crop(0, diff, 420, "Difference of two paths around mid grey")}
          <figcaption className="mt-1 text-[0.9rem] text-muted">
            {contenderMark(pair[1]).letter} less {contenderMark(pair[0]).letter}, around mid grey; the same is grey.
          </figcaption>
        </figure>
      )}
    </>
  );
}

/** Which of two is shown: they take turns by themselves unless motion is unwanted. */
function useTurns(blinking: boolean) {
  const [at, setAt] = useState<0 | 1>(0);
  const still = typeof matchMedia !== "undefined" && matchMedia("(prefers-reduced-motion: reduce)").matches;
  useEffect(() => {
    if (!blinking || still) return;
    const timer = window.setInterval(() => setAt((s) => (s === 0 ? 1 : 0)), 900);
    return () => window.clearInterval(timer);
  }, [blinking, still]);
  return { at, other: () => setAt((s) => (s === 0 ? 1 : 0)) };
}
