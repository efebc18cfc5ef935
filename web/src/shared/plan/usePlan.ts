/** What every view of a plan shares: the plan, the chosen condition and element, and the ways to change it. */
import { createContext, useContext } from "react";
import type { Edit, PlanView, PreviewView, Quantity } from "@/shared/api/types";
import type { ApiError } from "@/shared/api/client";

/** The worst over all conditions, chosen with `0`. */
export const WORST = "worst";

export interface WorkingAsk {
  element: string;
  quantity: Quantity;
  condition: string;
}

export interface PlanContextValue {
  view: PlanView;
  /** A condition id, or WORST. */
  condition: string;
  choose: (condition: string) => void;
  selected: string | null;
  select: (element: string | null) => void;
  edit: (edits: Edit[]) => Promise<PlanView>;
  preview: (edits: Edit[]) => Promise<PreviewView>;
  undo: () => void;
  redo: () => void;
  busy: boolean;
  error: ApiError | null;
  clearError: () => void;
  reload: () => void;
  showWorking: (ask: WorkingAsk) => void;
  /** Open the move box, or the ranked places, for a device. */
  move: (device: string) => void;
  findPlace: (device: string) => void;
}

export const PlanContext = createContext<PlanContextValue | null>(null);

export function usePlan(): PlanContextValue {
  const value = useContext(PlanContext);
  if (!value) throw new Error("usePlan is used outside a plan");
  return value;
}
