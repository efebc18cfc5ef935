/** What the last step changed: better, worse, moved. */
import { Button } from "antd";
import { useState } from "react";
import { usePlan } from "@/shared/plan/usePlan";
import "./findings.css";

const SIGN = { better: "↑", worse: "↓", moved: "→" } as const;
const SHOWN = 5;

export function ChangesStrip() {
  const { view, select, choose, undo } = usePlan();
  const [closed, close] = useState<number | null>(null);
  const [all, setAll] = useState(false);
  if (!view.stepped || closed === view.revision) return null;
  const shown = all ? view.changes : view.changes.slice(0, SHOWN);
  return (
    <section className="changes" aria-label="What changed" aria-live="polite">
      <header>
        <strong>{view.summary}</strong>
        <span>
          <Button size="small" onClick={undo} disabled={!view.undo}>
            Undo
          </Button>{" "}
          <Button size="small" onClick={() => close(view.revision)} aria-label="Close what changed">
            ×
          </Button>
        </span>
      </header>
      {shown.length === 0 && <p className="muted">No number moved in any condition.</p>}
      <ul>
        {shown.map((change, index) => (
          <li key={index} className={`change-${change.direction}`}>
            <span className="change-sign">
              {SIGN[change.direction]} {change.direction}
            </span>
            <button
              type="button"
              className="plain"
              onClick={() => {
                if (change.element) select(change.element);
                if (change.condition) choose(change.condition);
              }}
            >
              {change.text}
            </button>
          </li>
        ))}
      </ul>
      {view.changes.length > SHOWN && (
        <Button size="small" type="link" onClick={() => setAll(!all)}>
          {all ? "Fewer" : `${view.changes.length - SHOWN} more`}
        </Button>
      )}
    </section>
  );
}
