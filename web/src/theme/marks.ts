import type { Quantity } from "@/api/client";

/** How a light path is told from the others: by letter, colour and line style. */
export const contenderMark = (index: number) => ({
  letter: String.fromCharCode(65 + index),
  colour: `var(--c${index % 6})`,
  dash: ["", "7 4", "2 3", "10 3 2 3", "14 4", "5 2"][index % 6] ?? "",
});

export const QUANTITIES: readonly Quantity[] = ["ha", "oiii", "sii", "hb", "continuum"];
export const QUANTITY_LABELS: Record<Quantity, string> = {
  ha: "H-alpha",
  oiii: "[O III]",
  sii: "[S II]",
  hb: "H-beta",
  continuum: "Continuum",
  ha_alone: "H-alpha alone",
};
/** Lines at the hue of their wavelength. */
export const hue = (quantity: Quantity) => `var(--${quantity === "ha_alone" ? "ha" : quantity})`;

/** The kinds of lamps, with their names. */
export const LAMPS: readonly (readonly [string, string])[] = [
  ["led_3000k", "LED 3000 K"],
  ["led_4000k", "LED 4000 K"],
  ["high_pressure_sodium", "Sodium, high pressure"],
  ["low_pressure_sodium", "Sodium, low pressure"],
  ["mercury", "Mercury"],
  ["metal_halide", "Metal halide"],
];
