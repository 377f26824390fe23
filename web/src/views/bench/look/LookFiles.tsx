import { toast } from "sonner";
import type { Scenario } from "@/api/client";
import { bytes } from "@/api/frames";
import { askLook } from "@/api/look";
import { Button } from "@/parts/controls/Button";
import { fail } from "@/parts/fail";
import { saveFile } from "@/parts/save";
import { contenderMark } from "@/theme/marks";
import type { View } from "./view";

type Kind = "picture" | "crop" | "sub";
type Props = { scenario: Scenario; view: View; selected: number; anotherSky: () => void };

/** The selected path's look as files. */
export function LookFiles({ scenario, view, selected, anotherSky }: Props) {
  const letter = contenderMark(selected).letter;
  const name = `${scenario.target.name || "look"} ${letter}`;
  const asked = (path: string, more: object = {}) =>
    askLook(scenario, (of) => bytes(path, { ...of, view, contender: selected, ...more }));
  const fetched = async (kind: Kind) => {
    if (kind === "picture")
      return saveFile(`${name}.png`, "image/png", new Blob([await asked("/api/v1/look/picture")]));
    const suffix = kind === "sub" ? " sub" : "";
    const file = await asked("/api/v1/look/fits", { kind });
    saveFile(`${name}${suffix}.fits`, "application/fits", new Blob([file]));
  };
  const file = async (kind: Kind) => {
    const c = scenario.contenders[selected];
    const millions = c ? (c.sensor.columns * c.sensor.rows) / 1e6 : 0;
    const wait = kind === "sub" ? toast.loading(`Counting ${millions} million pixels…`) : undefined;
    try {
      await fetched(kind);
    } catch (e) {
      fail(e);
    } finally {
      if (wait) toast.dismiss(wait);
    }
  };
  return (
    <div className="mt-2 flex flex-wrap items-center gap-2">
      <span className="text-[0.88rem] text-muted">Path {letter} as</span>
      <Button look="quiet" onClick={() => void file("picture")}>
        PNG
      </Button>
      <Button look="quiet" onClick={() => void file("crop")}>
        FITS of the crop
      </Button>
      <Button look="quiet" onClick={() => void file("sub")}>
        FITS of a whole sub
      </Button>
      <Button look="quiet" onClick={anotherSky}>
        Another sky
      </Button>
    </div>
  );
}
