import { useQuery } from "@tanstack/react-query";
import { useEffect, useRef, useState } from "react";
import { Link, useParams } from "react-router";
import type { BlindAnswer } from "@/api/client";
import type { Picture } from "@/api/frames";
import { useChooseBlind, useRevealBlind } from "@/api/mutations";
import { blindAskedQuery, blindFramesQuery } from "@/api/queries";
import { Button } from "@/parts/controls/Button";
import { CropRow } from "@/parts/crop/CropRow";
import type { Region } from "@/parts/crop/region";
import { fail } from "@/parts/fail";
import { useParamsEdit } from "@/parts/useParams";
import { useTitle } from "@/parts/useTitle";
import { Words } from "@/parts/Words";
import { BlindPicture, letter } from "./BlindPicture";
import { chosen, type Groups, picked, placeOf } from "./places";
import { EarlierLooks, RevealedTable } from "./Revealed";

/** Pictures without names, in two rounds or more; then what the figures say. */
export function BlindPage() {
  useTitle("Judge blind");
  const { id = "" } = useParams();
  const [params] = useParamsEdit();
  const asked = useQuery(blindAskedQuery(id)).data;
  const [round, setRound] = useState(0);
  const [order, setOrder] = useState<Groups>([]);
  /** Whether the next picture is as good as the one before. */
  const [asGood, setAsGood] = useState(false);
  const [revealed, setRevealed] = useState<BlindAnswer | null>(null);
  const [region, setRegion] = useState<Region>({ x: 0, y: 0, perArcsec: 0.95 });
  const frames = useQuery(blindFramesQuery(id, round));
  const [choose, reveal] = [useChooseBlind(), useRevealBlind()];
  const pictures = frames.data ?? [];
  const most = Number(params.get("rounds") ?? 2);
  const each = asked?.frames_each ?? 1;
  const stacked = each > 1 ? ` Each is a stack of ${each} frames.` : "";
  const pick = (i: number) => {
    setOrder((o) => picked(o, i, asGood));
    setAsGood(false);
  };
  const keys = useRef((_: KeyboardEvent) => {});
  keys.current = (e) => {
    if (e.ctrlKey || e.metaKey || e.altKey || revealed) return;
    const i = Number(e.key) - 1;
    if (e.key === "=") setAsGood(!asGood);
    else if (i >= 0 && i < pictures.length) pick(i);
  };
  useEffect(() => {
    const onKey = (e: KeyboardEvent) => keys.current(e);
    window.addEventListener("keydown", onKey);
    return () => window.removeEventListener("keydown", onKey);
  }, []);
  const done = chosen(order) === pictures.length && pictures.length > 0;
  const say = async (then: "round" | "reveal") => {
    try {
      await choose({ id, round, places: pictures.map((_, i) => placeOf(order, i)) });
      if (then === "reveal") return setRevealed(await reveal(id));
      setRound(round + 1);
      setOrder([]);
    } catch (e) {
      fail(e);
    }
  };
  if (frames.error) return <p className="p-6 text-danger">{frames.error.message}</p>;
  return (
    <div className="flex flex-col gap-3 px-5 py-4">
      <div className="flex flex-wrap items-center gap-3">
        <h1 className="text-[1.3rem]">{revealed ? "Revealed" : `${asked?.asks ?? ""} Round ${round + 1}`}</h1>
        <p className="min-w-0 grow basis-64 text-muted">
          {revealed
            ? revealed.result.text
            : `Click the pictures from the best to the worst, or press their numbers; = makes the next as good as the last. Each round shuffles them anew.${stacked}`}
        </p>
        {!revealed && (
          <>
            <Button
              look={asGood ? "lit" : "plain"}
              aria-pressed={asGood}
              onClick={() => setAsGood(!asGood)}
              disabled={order.length === 0 || done}
            >
              The next is as good
            </Button>
            <Button
              onClick={() => {
                setOrder([]);
                setAsGood(false);
              }}
              disabled={order.length === 0}
            >
              Start over
            </Button>
            {round + 1 < most && (
              <Button
                look={round === 0 ? "lit" : "plain"}
                disabled={!done}
                onClick={() => void say("round")}
                data-testid="blind-next"
              >
                {round === 0 ? "Next round" : "Another round"}
              </Button>
            )}
            {round > 0 && (
              <Button look="lit" disabled={!done} onClick={() => void say("reveal")} data-testid="blind-reveal">
                Reveal
              </Button>
            )}
          </>
        )}
        <Link to={params.get("back") ?? "/bench"} className="text-salt underline underline-offset-4">
          Back
        </Link>
      </div>
      {revealed?.result.judged_by && (
        <p className="text-[0.95rem] text-muted">
          By the figures: {revealed.figure === "SNR" ? "signal to noise of " : ""}
          <Words text={revealed.result.judged_by} />. {revealed.result.told?.join(" ")}
        </p>
      )}
      {revealed && <RevealedTable revealed={revealed} />}
      <CropRow count={pictures.length}>
        {(height) =>
          pictures.map((p: Picture, i) => {
            const place = placeOf(order, i);
            const tied = (order[place]?.length ?? 0) > 1;
            const who = revealed?.orders[round]?.[i];
            return (
              <BlindPicture
                key={letter(i)}
                {...{ picture: p, index: i, place, tied, height, region, setRegion }}
                name={who === undefined ? undefined : revealed?.names[who]}
                who={who}
                pick={revealed ? undefined : () => pick(i)}
              />
            );
          })
        }
      </CropRow>
      {revealed && <EarlierLooks after={revealed.id} />}
    </div>
  );
}
