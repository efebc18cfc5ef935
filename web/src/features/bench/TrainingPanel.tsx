/** Training: a fault of this build hidden in the stand-in, found on the same screens, and what it came to. */
import { Alert, Button } from "antd";
import { Mark } from "@/shared/ui/marks";
import { seconds } from "./figures";
import type { Round } from "./useBench";

const LEVELS = [
  { level: "one", name: "One fault" },
  { level: "masked", name: "One that hides" },
  { level: "two", name: "Two faults" },
] as const;

interface Props {
  round: Round | null;
  problem: string | null;
  begin: (level: "one" | "masked" | "two") => void;
  end: () => void;
  leave: () => void;
}

export function TrainingPanel({ round, problem, begin, end, leave }: Props) {
  return (
    <section className="training" aria-label="Training">
      {problem && <Alert type="error" title={problem} />}
      {!round && (
        <details>
          <summary>Training: find a fault hidden in this build</summary>
          <p>A stand-in measures this build with a fault in it. Use the list and the search as on a real one; power on a dangerous fault counts against you.</p>
          <div className="bench-answer">
            {LEVELS.map((one) => (
              <Button key={one.level} onClick={() => begin(one.level)}>
                {one.name}
              </Button>
            ))}
          </div>
        </details>
      )}
      {round && !round.ended_at && (
        <p className="training-on">
          <strong>Training.</strong> {round.hidden === 1 ? "One fault is" : `${round.hidden} faults are`} hidden in the stand-in; {round.mended.length} mended
          {round.wrong > 0 && `, ${round.wrong} named wrongly`}. Nothing of this goes into the build's own record.{" "}
          <Button size="small" onClick={end}>
            Give up and be told
          </Button>
        </p>
      )}
      {round?.ended_at && round.debrief && <DebriefView round={round} debrief={round.debrief} leave={leave} />}
    </section>
  );
}

function DebriefView({ round, debrief, leave }: { round: Round; debrief: NonNullable<Round["debrief"]>; leave: () => void }) {
  const all = round.mended.length === round.hidden;
  return (
    <div className="next-best is-found" role="status">
      <h2 className="bench-part">{all ? "Found" : "What it was"}</h2>
      <ul className="plain-list">
        {debrief.hidden.map((one) => (
          <li key={one.fault}>
            <Mark kind={one.dangerous ? "danger" : "caution"} /> <strong>{one.what}</strong>; under power: {one.under_power}.
            <div className="muted">It shows at: {one.shows.join("; ") || "no step without power"}</div>
          </li>
        ))}
      </ul>
      <table className="plain-table">
        <thead>
          <tr>
            <th scope="col">who</th>
            <th scope="col">probes</th>
            <th scope="col">time</th>
            <th scope="col">dangers met</th>
            <th scope="col">named wrongly</th>
          </tr>
        </thead>
        <tbody>
          <tr>
            <th scope="row">you</th>
            <td>{debrief.probes}</td>
            <td>{seconds(debrief.seconds_s)}</td>
            <td>{debrief.dangers}</td>
            <td>{debrief.wrong}</td>
          </tr>
          <tr>
            <th scope="row">the best search</th>
            <td>{debrief.best_probes}</td>
            <td>{seconds(debrief.best_seconds_s)}</td>
            <td>0</td>
            <td>0</td>
          </tr>
        </tbody>
      </table>
      <details>
        <summary>How the best search went</summary>
        <ol>
          {debrief.best.map((one) => (
            <li key={one}>{one}</li>
          ))}
        </ol>
      </details>
      <Button onClick={leave}>Back to the build</Button>
    </div>
  );
}
