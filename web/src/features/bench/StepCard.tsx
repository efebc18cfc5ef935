/** One step: where the probes go, what should be read, what was; a reading typed, said, or shown by the instrument. */
import { Alert, Button, Input, type InputRef } from "antd";
import { type RefObject } from "react";
import { Link } from "react-router";
import { usePlanState } from "@/shared/plan/usePlan";
import { Mark } from "@/shared/ui/marks";
import { Reading } from "./Reading";
import { readAs, type BenchStep, type Entry, type Recording } from "./useBench";
import type { Sample } from "./useMeter";

interface Props {
  step: BenchStep;
  number: number;
  gate: string;
  caution: string;
  /** Steps before this gate that are still open, where power is on. */
  left: number;
  entry: Entry | undefined;
  recording: Recording;
  field: RefObject<InputRef | null>;
  text: string;
  setText: (text: string) => void;
  read: (text: string, instrument?: string) => void;
  look: (outcome: "passed" | "failed" | "skipped", note?: string) => void;
  skipping: boolean;
  setSkipping: (on: boolean) => void;
  reason: string;
  setReason: (text: string) => void;
  sample: Sample | null;
  trouble: string | null;
  /** The reading that could become a value of the plan. */
  measured: string | null;
  take: () => void;
  children?: React.ReactNode;
}

/** The symptom a step shows when it fails, where it shows one by itself. */
function symptomOf(step: BenchStep): string {
  const found =
    step.unit === "V"
      ? "rail-low"
      : step.gate === "rails" || step.gate === "plug"
        ? "beep-stays"
        : step.gate === "grounds" || step.gate === "branches"
          ? "beep-missing"
          : "";
  return found && `?symptom=${found}`;
}

export function StepCard(props: Props) {
  const { step, number, gate, caution, entry, recording, read, look, skipping, setSkipping, reason, setReason, measured, take } = props;
  const { view } = usePlanState();
  const wrong = entry?.outcome === "failed" && !entry.again;
  return (
    <section className="bench-card" aria-label={`Step ${number}`}>
      <p className="muted">
        {number}. {gate}
        {step.condition ? `, in ${step.condition}` : ""}
      </p>
      <h2 tabIndex={-1} className="bench-title">
        {step.title}
      </h2>
      {caution && (
        <p className="bench-caution">
          <Mark kind="caution" /> {caution}
        </p>
      )}
      {props.left > 0 && (
        <p className="bench-caution">
          <Mark kind="danger" /> {props.left === 1 ? "One step" : `${props.left} steps`} before power still open: do them first, or skip each with its reason.
        </p>
      )}
      {step.red && step.black && (
        <p className="bench-probes">
          <span className="probe probe-red">red</span> {step.red.name} <span className="probe probe-black">black</span> {step.black.name}
        </p>
      )}
      {!wrong && <p>{step.how}</p>}
      {step.unforeseen && (
        <p className="bench-caution">
          <Mark kind="fault" /> This reading {step.expects}.
        </p>
      )}
      {step.typed && !step.unforeseen && (
        <p className="expects">
          Should read: <strong>{step.expects}</strong>
        </p>
      )}
      {step.why && !wrong && <p className="muted">{step.why}</p>}
      {entry && <Read entry={entry} />}
      {wrong && props.children}
      {wrong && step.typed && <h3>Read it again</h3>}
      {step.typed ? (
        <Reading
          unit={step.unit}
          beeps={step.unit === "Ω"}
          busy={recording.busy}
          text={props.text}
          setText={props.setText}
          field={props.field}
          read={read}
          sample={props.sample}
          trouble={props.trouble}
        />
      ) : (
        <div className="bench-answer">
          <Button size="large" type="primary" disabled={recording.busy} title="Y" onClick={() => look("passed")}>
            It is so
          </Button>
          <Button size="large" disabled={recording.busy} title="N" onClick={() => look("failed")}>
            It is not
          </Button>
        </div>
      )}
      {measured && (
        <p>
          <Button onClick={take}>Take over into the plan, as measured: {measured}</Button>
        </p>
      )}
      <p>
        <Button size="small" onClick={() => setSkipping(!skipping)} aria-expanded={skipping} title="S">
          Skip with a reason…
        </Button>{" "}
        <Link to={`/plans/${view.id}/wrong${symptomOf(step)}`}>Something is wrong…</Link>
      </p>
      {skipping && (
        <div className="bench-answer">
          <Input
            autoFocus
            aria-label="reason for skipping"
            placeholder="why it is skipped"
            value={reason}
            onChange={(event) => setReason(event.target.value)}
            onPressEnter={() => look("skipped", reason)}
          />
          <Button disabled={recording.busy} onClick={() => look("skipped", reason)}>
            Skip with this reason
          </Button>
        </div>
      )}
      {recording.problem && <Alert type="error" title={recording.problem} />}
      {!wrong && props.children}
    </section>
  );
}

export function Outcome({ entry }: { entry: Entry | undefined }) {
  if (!entry) return <span className="bench-open" role="img" aria-label="open" />;
  if (entry.again) return <span className="muted">again:</span>;
  return <Mark kind={entry.outcome === "passed" ? "ok" : entry.outcome === "failed" ? "fault" : "note"} />;
}

function Read({ entry }: { entry: Entry }) {
  const wrong = entry.outcome === "failed" && !entry.again;
  return (
    <p role="status" className={wrong ? "read is-wrong" : "read"}>
      <Outcome entry={entry} /> <strong>{readAs(entry) || entry.outcome}</strong> {entry.text && entry.outcome} {entry.note}{" "}
      <span className="muted">
        {new Date(entry.at).toLocaleString()}
        {entry.who && `, ${entry.who}`}
        {entry.instrument && entry.instrument !== "typed" && `, ${entry.instrument}`}
      </span>
      {entry.again && " Do it again: the build has changed, or was mended, since."}
    </p>
  );
}
