/** One typed quantity: Enter or leaving the field applies it, Esc gives it up; an error keeps what was typed. */
import { Input } from "antd";
import { useId, useRef, useState } from "react";
import { ApiError } from "@/shared/api/client";
import { usePlanActions, usePlanState } from "@/shared/plan/usePlan";
import type { Edit } from "@/shared/api/types";
import { useDraft } from "@/shared/ui/useDraft";

interface Props {
  label: string;
  /** Names the field within the plan, for keeping what was typed. */
  field: string;
  stored: string;
  edits: (text: string) => Edit[];
}

function words(caught: unknown): string {
  if (!(caught instanceof ApiError)) return String(caught);
  return caught.stale ? "Not applied: the plan has moved on. Look at it, then press Enter to apply this on top." : caught.message;
}

export function QuantityField({ label, field, stored, edits }: Props) {
  const { view } = usePlanState();
  const { edit } = usePlanActions();
  const draft = useDraft(`${view.id}:${field}`, stored);
  const [problem, setProblem] = useState<string | null>(null);
  const busy = useRef(false);
  const [sending, setSending] = useState(false);
  const id = useId();
  const apply = async () => {
    if (busy.current) return;
    if (!draft.pending) {
      draft.drop();
      setProblem(null);
      return;
    }
    busy.current = true;
    setSending(true);
    try {
      await edit(edits(draft.text));
      draft.drop();
      setProblem(null);
    } catch (caught) {
      setProblem(words(caught));
    } finally {
      busy.current = false;
      setSending(false);
    }
  };
  return (
    <div className="quantity">
      <label htmlFor={id}>{label}</label>
      <Input
        id={id}
        size="small"
        value={draft.text}
        data-settled={!draft.pending || sending}
        status={problem ? "error" : undefined}
        aria-invalid={problem !== null}
        aria-describedby={problem ? `${id}-problem` : undefined}
        onChange={(event) => {
          draft.type(event.target.value);
          setProblem(null);
        }}
        // What was refused already is not sent again by merely leaving the field.
        onBlur={() => (problem ? undefined : void apply())}
        onKeyDown={(event) => {
          if (event.key === "Enter") void apply();
          if (event.key === "Escape" && (draft.pending || problem)) {
            event.preventDefault(); // gives up the text only; the ticket stays open
            draft.drop();
            setProblem(null);
          }
        }}
      />
      {problem && (
        <p className="quantity-problem" id={`${id}-problem`} role="alert">
          {problem}
        </p>
      )}
      {!problem && draft.pending && <p className="quantity-pending">Typed, not applied yet: press Enter, or Esc to give it up.</p>}
    </div>
  );
}
