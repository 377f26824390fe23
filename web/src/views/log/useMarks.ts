import { useQuery } from "@tanstack/react-query";
import { useState } from "react";
import { frameQuery } from "@/api/log";
import { boxOf, type Mark } from "./boxes";

export type Which = "patch" | "background";

/** A patch and a background that are placed on a frame: where, how large, and which of them moves. */
export function useMarks(frame: string) {
  const measured = useQuery({ ...frameQuery(frame), enabled: frame !== "" });
  const [which, setWhich] = useState<Which>("patch");
  const [marks, setMarks] = useState<Record<Which, Mark>>({
    patch: { x: 0.5, y: 0.5 },
    background: { x: 0.12, y: 0.12 },
  });
  const [share, setShare] = useState(10);
  const size = [measured.data?.measured.columns ?? 1, measured.data?.measured.rows ?? 1] as const;
  return {
    frame,
    ready: measured.data != null,
    which,
    setWhich,
    share,
    setShare: (v: number) => setShare(Math.min(40, Math.max(2, v))),
    size,
    at: marks[which],
    move: (to: Mark) => setMarks((m) => ({ ...m, [which]: to })),
    box: (w: Which) => boxOf(marks[w], share / 100, size),
    both: () => ({
      patch: boxOf(marks.patch, share / 100, size),
      background: boxOf(marks.background, share / 100, size),
    }),
  };
}

export type Marks = ReturnType<typeof useMarks>;
