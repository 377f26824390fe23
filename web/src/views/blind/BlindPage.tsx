import { useQuery } from "@tanstack/react-query";
import { useEffect, useState } from "react";
import { Link, useParams } from "react-router";
import type { BlindAnswer } from "@/api/client";
import type { Picture } from "@/api/frames";
import { useChooseBlind, useRevealBlind } from "@/api/mutations";
import { blindFramesQuery } from "@/api/queries";
import { Button } from "@/parts/controls/Button";
import type { Region } from "@/parts/crop/region";
import { fail } from "@/parts/fail";
import { useParamsEdit } from "@/parts/useParams";
import { useTitle } from "@/parts/useTitle";
import { Words } from "@/parts/Words";
import { BlindPicture, letter } from "./BlindPicture";
import { EarlierLooks, RevealedTable } from "./Revealed";

/** Pictures without names, in two rounds; then what the figures say. */
export function BlindPage() {
  useTitle("Judge blind");
  const { id = "" } = useParams();
  const [params] = useParamsEdit();
  const [round, setRound] = useState(0);
  const [order, setOrder] = useState<number[]>([]);
  const [revealed, setRevealed] = useState<BlindAnswer | null>(null);
  const [region, setRegion] = useState<Region>({ x: 0, y: 0, perArcsec: 0.95 });
  const frames = useQuery(blindFramesQuery(id, round));
  const [choose, reveal] = [useChooseBlind(), useRevealBlind()];
  const pictures = frames.data ?? [];
  const pick = (i: number) => setOrder((o) => (o.includes(i) ? o.filter((x) => x !== i) : [...o, i]));
  useEffect(() => {
    const onKey = (e: KeyboardEvent) => {
      const i = Number(e.key) - 1;
      if (i >= 0 && i < pictures.length && !e.ctrlKey && !e.metaKey)
        setOrder((o) => (o.includes(i) ? o.filter((x) => x !== i) : [...o, i]));
    };
    window.addEventListener("keydown", onKey);
    return () => window.removeEventListener("keydown", onKey);
  }, [pictures.length]);
  const done = order.length === pictures.length && pictures.length > 0;
  const next = async () => {
    try {
      await choose({ id, round, order });
      if (round === 0) {
        setRound(1);
        setOrder([]);
      } else setRevealed(await reveal(id));
    } catch (e) {
      fail(e);
    }
  };
  if (frames.error) return <p className="p-6 text-danger">{frames.error.message}</p>;
  return (
    <div className="flex flex-col gap-3 px-5 py-4">
      <div className="flex flex-wrap items-center gap-3">
        <h1 className="text-[1.3rem]">{revealed ? "Revealed" : `Which is cleaner? Round ${round + 1} of 2`}</h1>
        <p className="min-w-0 grow text-muted">
          {revealed
            ? revealed.result.text
            : "Click the pictures from the best to the worst, or press their numbers. The order is shuffled anew in each round."}
        </p>
        {!revealed && (
          <>
            <Button onClick={() => setOrder([])} disabled={order.length === 0}>
              Start over
            </Button>
            <Button look="lit" disabled={!done} onClick={() => void next()} data-testid="blind-next">
              {round === 0 ? "Next round" : "Reveal"}
            </Button>
          </>
        )}
        <Link to={params.get("back") ?? "/bench"} className="text-salt underline underline-offset-4">
          Back
        </Link>
      </div>
      {revealed?.result.judged_by && (
        <p className="text-[0.95rem] text-muted">
          By the figures: signal to noise of <Words text={revealed.result.judged_by} />.
        </p>
      )}
      {revealed && <RevealedTable revealed={revealed} />}
      <div
        className="grid gap-3"
        style={{ gridTemplateColumns: `repeat(${pictures.length > 4 ? 3 : 2}, minmax(0, 1fr))` }}
      >
        {pictures.map((p: Picture, i) => {
          const place = order.indexOf(i);
          const who = revealed?.orders[round]?.[i];
          return (
            <BlindPicture
              key={letter(i)}
              {...{ picture: p, index: i, place, region, setRegion }}
              name={who === undefined ? undefined : revealed?.names[who]}
              who={who}
              pick={revealed ? undefined : () => pick(i)}
            />
          );
        })}
      </div>
      {revealed && <EarlierLooks after={revealed.id} />}
    </div>
  );
}
