/** Where all crops look: middle in arcsec, and screen pixels per arcsec. */
export type Region = { x: number; y: number; perArcsec: number };
/** Two corners in arcsec from the middle of the field. */
export type Box = [number, number, number, number];

export const MOVING_KEYS = "arrows move it, plus and minus zoom";
export const MEASURING_KEYS = "Enter puts a box in the middle, arrows move it, Shift and arrows change its size";

const ARROWS: Record<string, readonly [number, number]> = {
  ArrowLeft: [-1, 0],
  ArrowRight: [1, 0],
  ArrowUp: [0, 1],
  ArrowDown: [0, -1],
};
/** Screen pixels that an arrow key moves; a box's edge, or the whole view. */
const BOX_STEP_PX = 4;
const REGION_STEP_PX = 40;
const NEW_BOX_PX = 60;

/**
 * What a key does to the view or, where something is being measured, to the box (null before there is one).
 * Undefined for a key that means nothing here.
 */
export function byKey(
  key: string,
  shift: boolean,
  region: Region,
  box: Box | null | undefined,
): { region?: Region; box?: Box } | undefined {
  if (key === "+" || key === "=") return { region: { ...region, perArcsec: region.perArcsec * 1.25 } };
  if (key === "-") return { region: { ...region, perArcsec: region.perArcsec / 1.25 } };
  if (key === "Enter" && box !== undefined) {
    const half = NEW_BOX_PX / 2 / region.perArcsec;
    return { box: [region.x - half, region.y + half, region.x + half, region.y - half] };
  }
  const arrow = ARROWS[key];
  if (!arrow) return undefined;
  const [right, up] = arrow;
  if (box) {
    const step = BOX_STEP_PX / region.perArcsec;
    const [x0, y0, x1, y1] = box;
    const end: readonly [number, number] = [x1 + right * step, y1 + up * step];
    return { box: shift ? [x0, y0, ...end] : [x0 + right * step, y0 + up * step, ...end] };
  }
  const step = REGION_STEP_PX / region.perArcsec;
  return { region: { ...region, x: region.x + right * step, y: region.y + up * step } };
}
