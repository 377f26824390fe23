import { EyeOff } from "lucide-react";
import { useState } from "react";
import { useNavigate } from "react-router";
import { answerOf, api } from "@/api/client";
import type { BesideAsked } from "@/api/trials";
import { Button } from "@/parts/controls/Button";
import { Select } from "@/parts/controls/Select";
import { fail } from "@/parts/fail";

const EACH = [1, 4, 16].map((n) => ({ value: String(n), label: n === 1 ? "Single subs" : `Stacks of ${n}` }));

/** Begins a blind look at this piece of the trial's frames: which kind took which is told after the eye has chosen. */
export function JudgeBlind({ id, q }: { id: string; q: BesideAsked }) {
  const go = useNavigate();
  const [each, setEach] = useState("1");
  const begin = async () => {
    try {
      const { first, x, y, side, alike } = q;
      const body = { first, x, y, side, alike, each: Number(each) };
      const begun = await answerOf(api.POST("/api/v1/trials/{id}/blind", { params: { path: { id } }, body }));
      const back = encodeURIComponent(`/trials?id=${id}`);
      void go(`/blind/${begun.id}?rounds=${begun.rounds}&back=${back}`);
    } catch (e) {
      fail(e);
    }
  };
  return (
    <div className="ml-auto flex items-end gap-2">
      <div className="w-36">
        <Select label="Of each kind" value={each} options={EACH} onChange={setEach} />
      </div>
      <Button look="plain" onClick={() => void begin()} data-testid="trial-blind">
        <EyeOff size={14} aria-hidden /> Judge blind
      </Button>
    </div>
  );
}
