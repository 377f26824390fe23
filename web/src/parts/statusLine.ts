import { createContext, type ReactNode, useContext } from "react";

export const FootContext = createContext<(text: ReactNode) => void>(() => {});
/** Lets a view write the line at the foot. */
export const useFoot = () => useContext(FootContext);
