import { useQuery } from "@tanstack/react-query";
import type { CatalogueObject, Library } from "@/api/client";
import { figuresQuery, starsQuery } from "@/api/queries";
import { FieldDrawing } from "./FieldDrawing";
import { FieldRigs } from "./FieldRigs";
import { FieldStarWords } from "./FieldStarWords";
import { FrameControls } from "./FrameControls";
import { FramedTogether } from "./FramedTogether";
import { middleOf, scaleFor, withinDeg } from "./fieldGeometry";
import { KeepFraming } from "./KeepFraming";
import { MosaicControls } from "./MosaicControls";
import { useFieldStars } from "./useFieldStars";
import type { FramingState } from "./useFraming";

type Props = { object: CatalogueObject; library: Library; framing: FramingState };

/** The fields of rigs drawn to scale over what is framed, how many panels each needs, and what the real stars do there. */
export function FieldView({ object, library, framing }: Props) {
  const { objects, fields, placed } = framing;
  const { answer, choice, halos } = useFieldStars(object, library, framing.stands);
  const middle = middleOf(objects);
  const scale = scaleFor(objects, fields);
  const within_deg = withinDeg(scale, middle);
  const stars = useQuery(starsQuery(object.ra_deg, object.dec_deg, within_deg));
  const around = useQuery(figuresQuery(object.ra_deg, object.dec_deg, within_deg));
  return (
    <section aria-label="Fields" className="rounded-xl bg-surface px-4 py-3">
      <h2 className="mb-1 text-[1.02rem] font-medium">On the sensor</h2>
      <FieldDrawing
        stars={stars.data ?? []}
        around={around.data}
        move={framing.move}
        done={framing.done}
        {...{ objects, fields, placed, middle, scale, halos }}
      />
      {framing.wrong && (
        <p role="alert" className="mt-1 text-[0.9rem] text-danger">
          {framing.wrong}
        </p>
      )}
      <FrameControls placed={placed} put={framing.put} lay={() => framing.lay()} />
      <FieldRigs {...{ framing, library }} />
      <MosaicControls {...{ framing, object }} />
      <FramedTogether framing={framing} />
      <FieldStarWords {...{ answer, choice }} />
      <KeepFraming {...{ framing, object }} />
    </section>
  );
}
