import { createContext, useContext } from "react";
import type { Quantity } from "@/api/client";
import { QUANTITY_LABELS } from "@/theme/marks";

type Named = readonly { quantity: Quantity; name: string }[];

/** What the quantities of the target on the screen are called, as the answer says; empty where no answer is known. */
export const QuantityNames = createContext<Named>([]);

/** The name of a quantity: that of the answer about the target, else the one every target shares. */
export const nameIn = (named: Named, quantity: Quantity) =>
  named.find((n) => n.quantity === quantity)?.name ?? QUANTITY_LABELS[quantity];

/** Names quantities as the target on the screen has them. */
export function useQuantityName() {
  const named = useContext(QuantityNames);
  return (quantity: Quantity) => nameIn(named, quantity);
}
