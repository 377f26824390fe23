import { useEffect, useMemo, useRef, useState } from "react";
import { answerOf, api, type Quantity, type Scenario } from "@/api/client";
import { bytes, unpack } from "@/api/frames";
import { askLook } from "@/api/look";
import { useLive } from "@/api/useLive";
import type { Box } from "@/parts/crop/region";
import { useRested } from "@/parts/useRested";
import { readView, writeView } from "./address";
import { START, type View } from "./view";

/** A box that is wide enough to be measured, arcsec on a side. */
const LEAST_BOX_ARCSEC = 3;
const measurable = (box: Box | null) =>
  box && Math.abs(box[0] - box[2]) > LEAST_BOX_ARCSEC && Math.abs(box[1] - box[3]) > LEAST_BOX_ARCSEC ? box : null;

/** The look of a scenario: how it is wanted (which stands in the address), its pictures, and what there is to say of them. */
export function useLook(scenario: Scenario, quantity: Quantity, box: Box | null, oneSub: boolean) {
  const usual = useRef({ ...START, single: quantity });
  const [view, setView] = useState<View>(() =>
    readView(new URLSearchParams(window.location.search).get("look"), usual.current),
  );
  const set = (some: Partial<View>) => setView((v) => ({ ...v, ...some }));
  const question = useMemo(() => ({ scenario, view }), [scenario, view]);
  const pictures = useLive(question, async ({ scenario, view }) =>
    askLook(scenario, async (of) => unpack(await bytes("/api/v1/look/frames", { ...of, view }))),
  );
  const single = useMemo(() => ({ ...question, oneSub }), [question, oneSub]);
  const { answer: subs } = useLive(single, async ({ scenario, view, oneSub }) =>
    oneSub
      ? askLook(scenario, async (of) =>
          unpack(await bytes("/api/v1/look/frames", { ...of, view: { ...view, time_fraction: 0 } })),
        )
      : undefined,
  );
  // The pictures follow a drag; what is said of them, once it rests.
  const rested = useRested(question, 140);
  useEffect(() => {
    // Past the router: nothing else reads it, and drawing the whole page anew would hold up a drag.
    const url = new URL(window.location.href);
    const text = writeView(rested.view, usual.current);
    if (text) url.searchParams.set("look", text);
    else url.searchParams.delete("look");
    window.history.replaceState(window.history.state, "", url);
  }, [rested]);
  const { answer: words } = useLive(rested, ({ scenario, view }) =>
    askLook(scenario, (of) => answerOf(api.POST("/api/v1/look", { body: { ...of, view } }))),
  );
  const asked = useMemo(() => ({ ...rested, box: measurable(box) }), [rested, box]);
  const { answer: measured } = useLive(asked, async ({ box, scenario, view }) =>
    box
      ? askLook(scenario, (of) => answerOf(api.POST("/api/v1/look/measure", { body: { ...of, view, box } })))
      : undefined,
  );
  return { view, set, pictures, subs, words, measured };
}
