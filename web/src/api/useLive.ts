import { useEffect, useRef, useState } from "react";
import { asProblem, mayPass, type ProblemError } from "./client";
import { LET_IN } from "./stranger";

/** The last right answer to a question that changes, and what is wrong with the next. */
export type Live<A> = {
  answer: A | undefined;
  problem: ProblemError | undefined;
  waiting: boolean;
  /** Seconds until the same is asked again by itself; null where it is not. */
  againInS: number | null;
};

/** Pauses before the same is asked again, s. */
const PAUSES_S = [2, 4, 8, 15, 30];

/**
 * Asks again whenever `question` changes: one request at a time, the newest question next, so that a drag neither
 * floods the server nor shows an old answer last. A wrong question keeps the last right answer; where nothing was wrong
 * with the question (no network, a server that stumbled, an answer that cannot be read), it is asked again by itself.
 */
export function useLive<Q, A>(
  question: Q,
  ask: (question: Q, signal: AbortSignal) => Promise<A>,
  /** The answer to the first question, where it is there already: then only the next is asked. */
  first?: A,
): Live<A> {
  const [live, setLive] = useState<Live<A>>({
    answer: first,
    problem: undefined,
    waiting: first === undefined,
    againInS: null,
  });
  const answered = useRef(first === undefined ? undefined : question);
  const state = useRef({ busy: false, next: undefined as { question: Q } | undefined, gone: false, failed: 0 });
  const asked = useRef(ask);
  asked.current = ask;
  const timer = useRef<number>(undefined);

  useEffect(() => {
    const own = state.current;
    own.gone = false;
    return () => {
      own.gone = true;
      window.clearTimeout(timer.current);
    };
  }, []);

  useEffect(() => {
    const own = state.current;
    const run = async () => {
      own.busy = true;
      while (own.next && !own.gone) {
        const { question } = own.next;
        own.next = undefined;
        try {
          const answer = await asked.current(question, new AbortController().signal);
          own.failed = 0;
          if (!own.gone) setLive({ answer, problem: undefined, waiting: false, againInS: null });
        } catch (e) {
          const problem = asProblem(e);
          if (own.gone || own.next) continue;
          const pause = problem.problem.retry_after_s ?? PAUSES_S[Math.min(own.failed, PAUSES_S.length - 1)] ?? 30;
          const againInS = mayPass(problem) ? pause : null;
          own.failed += 1;
          if (againInS !== null) timer.current = window.setTimeout(() => put(question), againInS * 1000);
          setLive((was) => ({ answer: was.answer, problem, waiting: false, againInS }));
        }
      }
      own.busy = false;
    };
    const put = (question: Q) => {
      window.clearTimeout(timer.current);
      own.next = { question };
      if (!own.busy) void run();
    };
    // Another question begins with the shortest pause: a drag over a lost network is one failure, not one a step.
    own.failed = 0;
    if (answered.current !== question) put(question);
    answered.current = undefined;
    const back = () => own.failed > 0 && put(question);
    window.addEventListener("online", back);
    window.addEventListener(LET_IN, back);
    return () => {
      window.removeEventListener("online", back);
      window.removeEventListener(LET_IN, back);
    };
  }, [question]);

  return live;
}
