import { createContext, useContext } from "react";
import type { Mode } from "./theme";

export const ModeContext = createContext<{ mode: Mode; toggle: () => void }>({ mode: "light", toggle: () => undefined });

export const useMode = () => useContext(ModeContext);
