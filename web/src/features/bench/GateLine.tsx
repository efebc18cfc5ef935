/** The gates as signals along a line: an arm that is up has cleared; the one at hand is marked. */
import type { Bench, BenchStep, Entry } from "./useBench";
import { settled } from "./useBench";

interface Props {
  gates: Bench["gates"];
  steps: BenchStep[];
  done: Record<string, Entry>;
  now: string | undefined;
  choose: (step: string) => void;
}

export function GateLine({ gates, steps, done, now, choose }: Props) {
  return (
    <ol className="gate-line" aria-label="Gates">
      {gates.map((gate) => {
        const mine = steps.filter((step) => step.gate === gate.gate);
        const ready = mine.filter((step) => settled(done[step.id])).length;
        const wrong = mine.some((step) => done[step.id]?.outcome === "failed" && !done[step.id]?.again);
        const first = mine.find((step) => !settled(done[step.id])) ?? mine[0];
        if (mine.length === 0 || !first) return null;
        const clear = ready === mine.length;
        const state = wrong ? "is-wrong" : clear ? "is-clear" : gate.gate === now ? "is-now" : "";
        return (
          <li key={gate.gate}>
            <button
              type="button"
              className={`gate ${state}`}
              aria-current={gate.gate === now ? "step" : undefined}
              title={gate.title}
              onClick={() => choose(first.id)}
            >
              <svg viewBox="0 0 30 30" aria-hidden="true">
                <line className="mast" x1="8" y1="6" x2="8" y2="30" />
                <rect className="arm" x="8" y="4" width="19" height="7" transform={clear && !wrong ? "rotate(-38 8 8)" : undefined} />
              </svg>
              <span className={gate.gate === now ? "gate-name is-here" : "gate-name"}>{gate.short}</span>
              <span className="gate-count">
                {ready}/{mine.length}
                {wrong && <span className="sr-only"> one failed</span>}
              </span>
            </button>
          </li>
        );
      })}
    </ol>
  );
}
