import type { LookWords } from "@/api/client";
import { Button } from "@/parts/controls/Button";
import { contenderMark } from "@/theme/marks";
import type { View } from "./view";

type At = Pick<View, "right_arcsec" | "up_arcsec">;
type Props = { words: LookWords | undefined; selected: number; view: View; go: (at: At) => void };

/** Stars that are told, at most. */
const MOST = 4;

/** The stars of the selected path's field that grow halos: a press takes the crops there, or back to the target. */
export function FieldStarsRow({ words, selected, view, go }: Props) {
  const away = view.right_arcsec !== 0 || view.up_arcsec !== 0;
  const stars = words?.halos.stars.slice(0, MOST) ?? [];
  if (stars.length === 0 && !away) return null;
  return (
    <div className="mt-2 flex flex-wrap items-center gap-2 text-[0.88rem]" data-testid="field-halos">
      {stars.length > 0 && <span className="text-muted">Halos on the sensor of {contenderMark(selected).letter}:</span>}
      {stars.map(({ star, at_arcsec: [right = 0, up = 0], rings }) => (
        <Button
          key={`${star.ra_deg} ${star.dec_deg}`}
          look={Math.hypot(right - view.right_arcsec, up - view.up_arcsec) < 1 ? "lit" : "quiet"}
          onClick={() => go({ right_arcsec: Math.round(right * 10) / 10, up_arcsec: Math.round(up * 10) / 10 })}
        >
          {star.name ?? "a star"} {star.v_mag.toFixed(1)}, {rings.length === 1 ? "a ring" : `${rings.length} rings`}
        </Button>
      ))}
      {away && (
        <Button look="plain" onClick={() => go({ right_arcsec: 0, up_arcsec: 0 })}>
          Back to the target
        </Button>
      )}
    </div>
  );
}
