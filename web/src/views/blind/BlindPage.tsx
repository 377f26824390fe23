import { useQuery } from "@tanstack/react-query";
import { useEffect, useState } from "react";
import { Link, useParams } from "react-router";
import { toast } from "sonner";
import { answerOf, api } from "@/api/client";
import { bytes, type Picture, unpack } from "@/api/frames";
import { Button } from "@/parts/controls/Button";
import { CropCanvas } from "@/parts/crop/CropCanvas";
import type { Region } from "@/parts/crop/region";
import { snr } from "@/parts/format";
import { useParamsEdit } from "@/parts/useParams";
import { useTitle } from "@/parts/useTitle";
import { Words } from "@/parts/Words";
import { contenderMark } from "@/theme/marks";

type BlindAnswer = Awaited<ReturnType<typeof reveal>>;
const reveal = (id: string) => answerOf(api.POST("/api/v1/look/blind/{id}/reveal", { params: { path: { id } } }));

/** Pictures without names, in two rounds; then what the figures say. */
export function BlindPage() {
  useTitle("Judge blind");
  const { id = "" } = useParams();
  const [params] = useParamsEdit();
  const [round, setRound] = useState(0);
  const [order, setOrder] = useState<number[]>([]);
  const [revealed, setRevealed] = useState<BlindAnswer | null>(null);
  const [region, setRegion] = useState<Region>({ x: 0, y: 0, perArcsec: 0.95 });
  const frames = useQuery({
    queryKey: ["blind", id, round],
    queryFn: async () => unpack(await bytes(`/api/v1/look/blind/${id}/frames/${round}`)),
    staleTime: Number.POSITIVE_INFINITY,
    gcTime: 0,
  });
  const earlier = useQuery({
    queryKey: ["blind-list", revealed?.id],
    queryFn: () => answerOf(api.GET("/api/v1/look/blind")),
    enabled: revealed !== null,
  });
  const pictures = frames.data ?? [];
  const letter = (i: number) => String.fromCharCode(80 + i);
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
      await answerOf(api.POST("/api/v1/look/blind/{id}/choice", { params: { path: { id } }, body: { round, order } }));
      if (round === 0) {
        setRound(1);
        setOrder([]);
      } else setRevealed(await reveal(id));
    } catch (e) {
      toast.error((e as Error).message, { duration: 10_000 });
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
      {revealed && (
        <table className="max-w-2xl text-[0.95rem]" data-testid="revealed" aria-label="What was revealed">
          <thead className="text-left text-muted">
            <tr>
              <th className="font-normal">Path</th>
              <th className="text-right font-normal">SNR</th>
              <th className="text-right font-normal">By figures</th>
              <th className="text-right font-normal">By eye, round 1</th>
              <th className="text-right font-normal">Round 2</th>
            </tr>
          </thead>
          <tbody>
            {revealed.names.map((name, i) => (
              <tr key={contenderMark(i).letter} className="border-t border-edge/60">
                <td className="py-0.5">
                  <b style={{ color: contenderMark(i).colour }}>{contenderMark(i).letter}</b> {name}
                </td>
                <td className="num text-right">{snr(revealed.result.snr[i] ?? 0)}</td>
                <td className="num text-right">{revealed.result.by_figures.indexOf(i) + 1}.</td>
                {revealed.result.by_eye.map((region, r) => (
                  <td key={r} className="num text-right">
                    {region.indexOf(i) + 1}.
                  </td>
                ))}
              </tr>
            ))}
          </tbody>
        </table>
      )}
      <div
        className="grid gap-3"
        style={{ gridTemplateColumns: `repeat(${pictures.length > 4 ? 3 : 2}, minmax(0, 1fr))` }}
      >
        {pictures.map((p: Picture, i) => {
          const place = order.indexOf(i);
          const who = revealed?.orders[round]?.[i];
          return (
            <figure key={letter(i)} className="min-w-0">
              <CropCanvas
                picture={p}
                fieldArcsec={600}
                region={region}
                setRegion={setRegion}
                label={`Picture ${letter(i)}`}
                height={420}
                testId={`blind-${i}`}
              />
              <figcaption className="mt-1 flex items-center gap-3">
                <Button
                  look={place >= 0 ? "lit" : "plain"}
                  aria-pressed={place >= 0}
                  onClick={() => pick(i)}
                  disabled={revealed !== null}
                >
                  {letter(i)}{" "}
                  {place >= 0 ? `is ${["best", "second", "third", "fourth"][place] ?? `no. ${place + 1}`}` : ""}
                </Button>
                {who !== undefined && revealed && (
                  <span>
                    <b style={{ color: contenderMark(who).colour }}>{contenderMark(who).letter}</b>{" "}
                    {revealed.names[who]}
                  </span>
                )}
              </figcaption>
            </figure>
          );
        })}
      </div>
      {revealed && earlier.data && earlier.data.length > 1 && (
        <section aria-label="Earlier blind looks">
          <h2 className="mb-1 text-[1.02rem] font-medium">Earlier blind looks</h2>
          <ul className="text-[0.93rem] text-muted">
            {earlier.data.slice(1, 8).map((k) => (
              <li key={k.id}>
                <span className="num">{k.revealed_at.slice(0, 10)}</span> {k.title}: the eye agreed on {k.result.agreed}{" "}
                of {k.result.pairs} pairs
              </li>
            ))}
          </ul>
        </section>
      )}
    </div>
  );
}
