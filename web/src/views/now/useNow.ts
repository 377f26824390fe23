import { useQuery } from "@tanstack/react-query";
import { useEffect, useState } from "react";
import { type NowAnswer, nowQuery, useLogNews } from "@/api/log";

const KEPT = "salt-lamp.now";

type Kept = { heard_s: number; answer: NowAnswer };

function kept(): Kept | undefined {
  try {
    const found = JSON.parse(localStorage.getItem(KEPT) ?? "null") as Kept | null;
    return typeof found?.heard_s === "number" && Array.isArray(found.answer?.ahead) ? found : undefined;
  } catch {
    return undefined;
  }
}

function keep(what: Kept) {
  try {
    localStorage.setItem(KEPT, JSON.stringify(what));
  } catch {
    // Without storage a page that is loaded anew without a link knows nothing.
  }
}

/** The present, s, as often as a countdown moves; that of the address where one looks at another night. */
export function useClock(at_s: number | null): number {
  const [now, set] = useState(Date.now() / 1000);
  const [opened] = useState(now);
  useEffect(() => {
    const timer = setInterval(() => set(Date.now() / 1000), 1000);
    return () => clearInterval(timer);
  }, []);
  return at_s == null ? now : at_s + now - opened;
}

/** The night as it runs: what was last heard stays, with its age, while the link is gone. */
export function useNow(campaign: string, at_s: number | null) {
  useLogNews();
  const query = useQuery(nowQuery(campaign, at_s));
  const { data, dataUpdatedAt, isPlaceholderData, isError } = query;
  useEffect(() => {
    if (data && !isPlaceholderData && at_s == null) keep({ heard_s: dataUpdatedAt / 1000, answer: data });
  }, [data, dataUpdatedAt, isPlaceholderData, at_s]);
  const before = data ? undefined : kept();
  return {
    answer: data ?? before?.answer,
    heard_s: data ? dataUpdatedAt / 1000 : before?.heard_s,
    /** Whether nothing was heard of late. */
    gone: isError,
    error: query.error,
  };
}
