/** One choice of a plan's field; choosing applies it at once. */
import { Select } from "antd";
import { useState } from "react";
import type { Edit } from "@/shared/api/types";
import { ApiError } from "@/shared/api/client";
import { usePlanActions } from "@/shared/plan/usePlan";

interface Option<T> {
  value: T;
  label: string;
}

interface Props<V> {
  label: string;
  value: V;
  options: Option<string>[];
  edits: (value: V) => Edit[];
}

export function Choice<V extends string | string[]>({ label, value, options, edits }: Props<V>) {
  const { edit } = usePlanActions();
  const [problem, setProblem] = useState<string | null>(null);
  const choose = async (next: V) => {
    try {
      await edit(edits(next));
      setProblem(null);
    } catch (caught) {
      setProblem(caught instanceof ApiError ? caught.message : String(caught));
    }
  };
  return (
    <div className="quantity">
      <span>{label}</span>
      <Select<V>
        size="small"
        aria-label={label}
        mode={Array.isArray(value) ? "multiple" : undefined}
        value={value}
        options={options as never}
        onChange={(next) => void choose(next)}
      />
      {problem && (
        <p className="quantity-problem" role="alert">
          {problem}
        </p>
      )}
    </div>
  );
}
