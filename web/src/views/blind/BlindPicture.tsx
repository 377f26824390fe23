import type { Picture } from "@/api/frames";
import { Button } from "@/parts/controls/Button";
import { CropCanvas } from "@/parts/crop/CropCanvas";
import type { Region } from "@/parts/crop/region";
import { contenderMark } from "@/theme/marks";

/** The letter by which a picture is called while nobody may know whose it is. */
export const letter = (i: number) => String.fromCharCode(80 + i);

type Props = {
  picture: Picture;
  index: number;
  /** Where it stands in the order so far; -1 for nowhere. */
  place: number;
  /** Whether another stands there as well. */
  tied: boolean;
  /** Of the picture, px. */
  height: number;
  region: Region;
  setRegion: (region: Region) => void;
  /** Puts it next in the order, or takes it out; undefined once all is revealed. */
  pick: (() => void) | undefined;
  /** Index and name of its light path, once that is revealed. */
  who: number | undefined;
  name: string | undefined;
};

/** One picture without a name, and its place in the order. */
export function BlindPicture({ picture, index: i, place, tied, height, region, setRegion, pick, who, name }: Props) {
  return (
    <figure className="min-w-0">
      <CropCanvas
        picture={picture}
        fieldArcsec={600}
        region={region}
        setRegion={setRegion}
        label={`Picture ${letter(i)}`}
        height={height}
        testId={`blind-${i}`}
      />
      <figcaption className="mt-1 flex items-center gap-3">
        <Button
          look={place >= 0 ? "lit" : "plain"}
          aria-pressed={place >= 0}
          onClick={() => pick?.()}
          disabled={pick === undefined}
        >
          {letter(i)}{" "}
          {place >= 0
            ? `is ${tied ? "tied " : ""}${["best", "second", "third", "fourth"][place] ?? `no. ${place + 1}`}`
            : ""}
        </Button>
        {who !== undefined && (
          <span>
            <b style={{ color: contenderMark(who).colour }}>{contenderMark(who).letter}</b> {name}
          </span>
        )}
      </figcaption>
    </figure>
  );
}
