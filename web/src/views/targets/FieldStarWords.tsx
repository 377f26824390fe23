import type { FieldStars } from "@/api/client";
import { Select } from "@/parts/controls/Select";
import type { useRigAndSite } from "@/parts/evening";

type Props = { answer: FieldStars | undefined; choice: ReturnType<typeof useRigAndSite> };

/** Which stars halo through each filter of a light path, and which clip: for the frame where it stands. */
export function FieldStarWords({ answer, choice: { rigs, chosen, setRig } }: Props) {
  if (!answer) return null;
  return (
    <div className="mt-3 border-t border-edge pt-2 text-[0.9rem]" data-testid="field-stars">
      <Select
        label="Halos and clipped stars through"
        value={chosen}
        options={rigs}
        onChange={setRig}
        testId="field-path"
      />
      <p className="mt-1 text-muted">
        <span className="num">{answer.count}</span> stars to V 10 on its sensor.
      </p>
      <ul className="mt-1 flex flex-col gap-0.5">
        {answer.exposures.map((e, i) => (
          <li key={i}>
            <span className="text-amber">{e.filter ?? "No filter"}</span> {e.text}
          </li>
        ))}
      </ul>
    </div>
  );
}
