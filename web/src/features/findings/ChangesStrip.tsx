/** What the last step changed: better, worse, moved. */
import { Button } from "antd";
import { useState } from "react";
import { useNoiseChanges } from "@/shared/plan/useNoise";
import { usePlanActions, usePlanState } from "@/shared/plan/usePlan";
import "@/shared/plan/tried.css";
import "./findings.css";

const SIGN = { better: "↑", worse: "↓", moved: "→" } as const;
const SHOWN = 5;
const NOISE_SHOWN = 2;

export function ChangesStrip() {
  const { view } = usePlanState();
  const { select, choose, undo } = usePlanActions();
  const [closed, close] = useState<number | null>(null);
  const [all, setAll] = useState(false);
  const noise = useNoiseChanges(view);
  if (!view.stepped || closed === view.revision) return null;
  const changes = [...view.changes, ...noise];
  // Noise is worked out last and must not be what is folded away.
  const first = [...view.changes.slice(0, SHOWN - Math.min(noise.length, NOISE_SHOWN)), ...noise];
  const shown = all ? changes : first.slice(0, SHOWN);
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
      {changes.length > SHOWN && (
        <Button size="small" type="link" onClick={() => setAll(!all)}>
          {all ? "Fewer" : `${changes.length - SHOWN} more`}
        </Button>
      )}
    </section>
  );
}
