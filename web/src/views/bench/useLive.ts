import { useEffect, useRef, useState } from "react";
import { ProblemError } from "@/api/client";

type Live<A> = { answer: A | undefined; problem: ProblemError | undefined; waiting: boolean };

/**
 * Asks again whenever `question` changes: one request at a time, the newest question next, so that a drag neither
 * floods the server nor shows an old answer last. A wrong question keeps the last right answer.
 */
export function useLive<Q, A>(question: Q, ask: (question: Q, signal: AbortSignal) => Promise<A>): Live<A> {
  const [live, setLive] = useState<Live<A>>({ answer: undefined, problem: undefined, waiting: true });
  const state = useRef({ busy: false, next: undefined as { question: Q } | undefined, gone: false });
  const asked = useRef(ask);
  asked.current = ask;

  useEffect(() => {
    const own = state.current;
    own.gone = false;
    return () => {
      own.gone = true;
    };
  }, []);

  useEffect(() => {
    const own = state.current;
    own.next = { question };
    const run = async () => {
      own.busy = true;
      while (own.next && !own.gone) {
        const { question } = own.next;
        own.next = undefined;
        try {
          const answer = await asked.current(question, new AbortController().signal);
          if (!own.gone) setLive({ answer, problem: undefined, waiting: false });
        } catch (e) {
          if (!(e instanceof ProblemError)) throw e;
          if (!own.gone && !own.next) setLive((was) => ({ answer: was.answer, problem: e, waiting: false }));
        }
      }
      own.busy = false;
    };
    if (!own.busy) void run();
  }, [question]);

  return live;
}
