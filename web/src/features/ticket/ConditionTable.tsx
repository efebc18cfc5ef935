/** Numbers of one element over all conditions; the chosen one stands out and a row's name chooses it. */
import type { ReactNode } from "react";
import { usePlanActions, usePlanState, useSelection } from "@/shared/plan/usePlan";
import type { MarkKind } from "@/shared/ui/marks";

export interface ConditionRow {
  cells: ReactNode[];
  mark: MarkKind;
}

interface Props {
  heads: string[];
  rows: (condition: string) => ConditionRow | null;
}

export function ConditionTable({ heads, rows }: Props) {
  const { view } = usePlanState();
  const { condition } = useSelection();
  const { choose } = usePlanActions();
  return (
    <table className="conditions">
      <thead>
        <tr>
          <th scope="col">
            <span className="sr-only">condition</span>
          </th>
          {heads.map((head) => (
            <th key={head} scope="col">
              {head || <span className="sr-only">verdict</span>}
            </th>
          ))}
        </tr>
      </thead>
      <tbody>
        {view.analysis.budget.conditions.map((head) => {
          const row = rows(head.id);
          if (!row) return null;
          return (
            <tr key={head.id} className={`${condition === head.id ? "is-chosen" : ""} row-${row.mark}`}>
              <th scope="row">
                <button type="button" className="plain" onClick={() => choose(head.id)}>
                  {head.name}
                </button>
              </th>
              {row.cells.map((cell, index) => (
                <td key={index}>{cell}</td>
              ))}
            </tr>
          );
        })}
      </tbody>
    </table>
  );
}
