/** What every view of a plan shares, in three parts, so that a change of one draws anew only what shows it. */
import { createContext, useContext, type Context } from "react";
import type { Edit, Placing, PlanView, PreviewView, Quantity } from "@/shared/api/types";
import type { ApiError } from "@/shared/api/client";

/** The worst over all conditions, chosen with `0`. */
export const WORST = "worst";

export interface WorkingAsk {
  element: string;
  quantity: Quantity;
  condition: string;
}

/** The plan as it stands. */
export interface PlanState {
  view: PlanView;
  busy: boolean;
  error: ApiError | null;
}

/** What is being looked at. */
export interface Selection {
  /** A condition id, WORST, or an instant of a run. */
  condition: string;
  /** The same, but for an instant the condition of the plan whose numbers stand behind it: what only conditions have is asked of this one. */
  standing: string;
  selected: string | null;
}

/** Ways to change either; the same functions for as long as the plan is open. */
export interface PlanActions {
  choose: (condition: string) => void;
  select: (element: string | null) => void;
  edit: (edits: Edit[]) => Promise<PlanView>;
  /** Put a part of the shelf into the plan: an edit like any other. */
  place: (what: Placing) => Promise<PlanView>;
  preview: (edits: Edit[], condition?: string) => Promise<PreviewView>;
  undo: () => void;
  redo: () => void;
  clearError: () => void;
  reload: () => void;
  showWorking: (ask: WorkingAsk) => void;
  /** Open the move box, or the ranked places, for a device. */
  move: (device: string) => void;
  findPlace: (device: string) => void;
}

export const PlanStateContext = createContext<PlanState | null>(null);
export const SelectionContext = createContext<Selection | null>(null);
export const PlanActionsContext = createContext<PlanActions | null>(null);

function useInside<T>(context: Context<T | null>): T {
  const value = useContext(context);
  if (value === null) throw new Error("This is used outside a plan.");
  return value;
}

export const usePlanState = () => useInside(PlanStateContext);
export const useSelection = () => useInside(SelectionContext);
export const usePlanActions = () => useInside(PlanActionsContext);
