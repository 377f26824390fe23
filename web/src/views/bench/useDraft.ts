import { produce } from "immer";
import { useCallback, useEffect, useMemo, useReducer, useRef } from "react";
import type { Scenario, StoredScenario } from "@/api/client";
import { same } from "@/parts/same";
import { saveDraft, savedDraft } from "@/parts/savedDraft";

/** `base` is the revision that the draft started from: a save over anything newer is a conflict. */
export type State = {
  past: Scenario[];
  now: Scenario;
  future: Scenario[];
  stored: StoredScenario;
  baseRevision: number;
  open: boolean;
};
export type Act =
  | { do: "change"; how: (draft: Scenario) => void }
  | { do: "settle" }
  | { do: "undo" }
  | { do: "redo" }
  | { do: "stored"; stored: StoredScenario; take: boolean };

/** One step of the draft's history. */
export function step(s: State, a: Act): State {
  switch (a.do) {
    case "change": {
      const now = produce(s.now, (draft) => void a.how(draft));
      // A drag is one step to undo: while it is open, changes replace each other.
      return s.open ? { ...s, now } : { ...s, past: [...s.past.slice(-99), s.now], now, future: [], open: true };
    }
    case "settle":
      return s.open ? { ...s, open: false } : s;
    case "undo": {
      const last = s.past.at(-1);
      return last ? { ...s, past: s.past.slice(0, -1), now: last, future: [s.now, ...s.future], open: false } : s;
    }
    case "redo": {
      const next = s.future[0];
      return next ? { ...s, past: [...s.past, s.now], now: next, future: s.future.slice(1), open: false } : s;
    }
    case "stored":
      return {
        ...s,
        stored: a.stored,
        baseRevision: a.stored.revision,
        now: a.take ? a.stored.scenario : s.now,
        open: false,
      };
  }
}

/** A scenario under edit: a draft over what is stored, with undo, kept over a reload until it is saved. */
export function useDraft(initial: StoredScenario, start: Scenario) {
  const [state, act] = useReducer(step, {
    past: [],
    now: start,
    future: [],
    stored: initial,
    baseRevision: savedDraft<Scenario>(initial.id, initial.scenario)?.revision ?? initial.revision,
    open: false,
  });
  const timer = useRef<number>(undefined);
  const id = initial.id;
  const dirty = useMemo(() => !same(state.now, state.stored.scenario), [state.now, state.stored.scenario]);

  useEffect(() => {
    saveDraft(id, dirty ? { revision: state.baseRevision, draft: state.now } : null);
  }, [id, dirty, state.now, state.baseRevision]);

  /** Changes the draft as it is by then. Changes that follow each other quickly are one step to undo. */
  const change = useCallback((how: (draft: Scenario) => void) => {
    act({ do: "change", how });
    window.clearTimeout(timer.current);
    timer.current = window.setTimeout(() => act({ do: "settle" }), 600);
  }, []);

  return {
    draft: state.now,
    stored: state.stored,
    baseRevision: state.baseRevision,
    dirty,
    change,
    canUndo: state.past.length > 0,
    canRedo: state.future.length > 0,
    undo: useCallback(() => act({ do: "undo" }), []),
    redo: useCallback(() => act({ do: "redo" }), []),
    /** Takes note of what the server stored; `take` replaces the draft by it. */
    setStored: useCallback((stored: StoredScenario, take: boolean) => act({ do: "stored", stored, take }), []),
  };
}

export type Draft = ReturnType<typeof useDraft>;
