import { createContext, type ReactNode, useContext } from "react";

export const StatusLineContext = createContext<(text: ReactNode) => void>(() => {});
/** Lets a view write the line at the foot. */
export const useStatusLine = () => useContext(StatusLineContext);
