import type { Trial } from "@/api/trials";
import { contenderMark } from "@/theme/marks";

export const TREATMENTS: { value: Trial["treatment"]; label: string }[] = [
  { value: "filter", label: "Filters" },
  { value: "gain", label: "Gains" },
  { value: "sub", label: "Lengths of subs" },
  { value: "rig", label: "Rigs" },
];

export const JUDGED: { value: Trial["judged"]; label: string }[] = [
  { value: "patch_snr", label: "Signal to noise of a patch" },
  { value: "line_signal", label: "Light of a patch" },
  { value: "background", label: "Light of the sky" },
  { value: "star_halo", label: "Halo of a star" },
  { value: "star_size", label: "Size of the stars" },
  { value: "faintest_star", label: "Faintest star" },
];

/** The letter by which a kind is called. */
export const letter = (kind: number) => contenderMark(kind).letter;

/** A share as per cent with its sign. */
export const signed = (share: number) => `${share < 0 ? "−" : "+"}${Math.abs(100 * share).toFixed(1)} %`;
