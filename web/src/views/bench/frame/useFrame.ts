import { useQuery, useQueryClient } from "@tanstack/react-query";
import { useEffect, useRef, useState } from "react";
import type { FrameMeasured } from "@/api/client";
import { measureFrame } from "@/api/frame";

const KEY = ["test-frame"];

/** The frame that was measured last: it stays while one goes about the bench, and ends with the page. */
export function useFrame() {
  const client = useQueryClient();
  const { data: frame = null } = useQuery<FrameMeasured | null>({
    queryKey: KEY,
    queryFn: () => null,
    enabled: false,
    gcTime: Number.POSITIVE_INFINITY,
    staleTime: Number.POSITIVE_INFINITY,
  });
  const [busy, setBusy] = useState("");
  const [why, setWhy] = useState("");
  const going = useRef<AbortController>(undefined);
  const set = (next: FrameMeasured | null) => client.setQueryData(KEY, next);
  const cancel = () => {
    going.current?.abort();
    going.current = undefined;
    setBusy("");
  };
  const measure = async (file: File) => {
    cancel();
    const own = new AbortController();
    going.current = own;
    setWhy("");
    setBusy(file.name);
    try {
      set(await measureFrame(file, own.signal));
    } catch (e) {
      if (!own.signal.aborted) setWhy((e as Error).message);
    } finally {
      if (going.current === own) cancel();
    }
  };
  useEffect(() => () => going.current?.abort(), []);
  return { frame, set, measure, cancel, busy, why };
}
