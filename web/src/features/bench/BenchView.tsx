/** The bench: one step at a time, what it should read beside what it reads, and what a wrong reading means here. */
import { useQuery, useQueryClient } from "@tanstack/react-query";
import { Alert, Button, Input, Progress, Spin, type InputRef } from "antd";
import { useRef, useState } from "react";
import { ApiError, call, client } from "@/shared/api/client";
import type { components } from "@/shared/api/schema";
import { usePlanState } from "@/shared/plan/usePlan";
import { Mark } from "@/shared/ui/marks";
import "./bench.css";

type Bench = components["schemas"]["BenchView"];
type Step = Bench["steps"][number];
type Entry = NonNullable<Bench["done"][string]>;
type Meaning = components["schemas"]["Meaning"];

const settled = (entry: Entry | undefined) => entry !== undefined && !entry.again && entry.outcome !== "failed";

export function BenchView() {
  const { view } = usePlanState();
  const found = useQuery({
    queryKey: ["bench", view.id, view.revision],
    placeholderData: (before) => before,
    queryFn: () => call(client.GET("/api/plans/{plan_id}/bench", { params: { path: { plan_id: view.id } } })),
  });
  const [chosen, setChosen] = useState<string | null>(null);
  const [means, setMeans] = useState<{ step: string; meanings: Meaning[] } | null>(null);
  if (found.error) return <Alert type="error" title={found.error.message} />;
  if (!found.data) return <Spin size="small" description="Making the list from this build" />;
  const { steps, gates, done, entries } = found.data;
  const open = steps.find((one) => !settled(done[one.id]));
  const now = steps.find((one) => one.id === chosen) ?? open ?? steps[0];
  const gate = gates.find((one) => one.gate === now?.gate);
  const ready = steps.filter((one) => settled(done[one.id])).length;
  const at = now ? steps.indexOf(now) : 0;
  return (
    <div className="bench">
      <p className="bench-lead">
        {ready} of {steps.length} steps done. <Progress percent={Math.round((100 * ready) / steps.length)} size="small" showInfo={false} aria-label="steps done" />
        <Button size="small" href={`/api/plans/${view.id}/bench/record.csv`} disabled={entries === 0}>
          Record as CSV
        </Button>
      </p>
      {now && (
        <StepCard
          key={now.id}
          step={now}
          number={at + 1}
          gate={gate?.title ?? ""}
          caution={gate?.caution ?? ""}
          entry={done[now.id]}
          meanings={means?.step === now.id ? means.meanings : []}
          judged={(passed, meanings) => {
            setMeans({ step: now.id, meanings });
            // What passes makes room for the next; what fails stays until it is understood.
            setChosen(passed ? (steps[at + 1]?.id ?? now.id) : now.id);
          }}
        />
      )}
      <div className="bench-steps">
        <Button size="small" disabled={at === 0} onClick={() => setChosen(steps[at - 1]?.id ?? null)}>
          Back
        </Button>
        <Button size="small" disabled={at >= steps.length - 1} onClick={() => setChosen(steps[at + 1]?.id ?? null)}>
          Next
        </Button>
        {open && open.id !== now?.id && (
          <Button size="small" onClick={() => setChosen(open.id)}>
            To the first open step
          </Button>
        )}
      </div>
      <ol className="bench-gates" aria-label="All steps">
        {gates.map((one) => {
          const mine = steps.filter((step) => step.gate === one.gate);
          return (
            <li key={one.gate}>
              <details open={one.gate === now?.gate}>
                <summary>
                  {one.title} <span className="muted">{mine.filter((step) => settled(done[step.id])).length} of {one.count}</span>
                </summary>
                <ul>
                  {mine.map((step) => (
                    <li key={step.id}>
                      <button type="button" className={step.id === now?.id ? "plain is-now" : "plain"} onClick={() => setChosen(step.id)}>
                        <Outcome entry={done[step.id]} /> {step.title}
                      </button>
                    </li>
                  ))}
                </ul>
              </details>
            </li>
          );
        })}
      </ol>
    </div>
  );
}

function Outcome({ entry }: { entry: Entry | undefined }) {
  if (!entry) return <span className="bench-open" role="img" aria-label="open" />;
  if (entry.again) return <span className="muted">again:</span>;
  return <Mark kind={entry.outcome === "passed" ? "ok" : entry.outcome === "failed" ? "fault" : "note"} />;
}

interface CardProps {
  step: Step;
  number: number;
  gate: string;
  caution: string;
  entry: Entry | undefined;
  meanings: Meaning[];
  judged: (passed: boolean, meanings: Meaning[]) => void;
}

function StepCard({ step, number, gate, caution, entry, meanings, judged }: CardProps) {
  const { view } = usePlanState();
  const queries = useQueryClient();
  const [text, setText] = useState("");
  const [reason, setReason] = useState("");
  const [skipping, setSkipping] = useState(false);
  const [busy, setBusy] = useState(false);
  const [problem, setProblem] = useState<string | null>(null);
  const field = useRef<InputRef>(null);
  const send = async (work: () => Promise<components["schemas"]["JudgedView"]>) => {
    setBusy(true);
    try {
      const answer = await work();
      setProblem(null);
      await queries.invalidateQueries({ queryKey: ["bench", view.id] });
      judged(answer.entry.outcome !== "failed", answer.meanings);
    } catch (caught) {
      setProblem(caught instanceof ApiError ? caught.message : String(caught));
    } finally {
      setBusy(false);
      field.current?.focus();
    }
  };
  const path = { params: { path: { plan_id: view.id } } };
  const read = (said: string) => void send(() => call(client.POST("/api/plans/{plan_id}/bench/reading", { ...path, body: { step: step.id, text: said, who: "", instrument: "typed" } })));
  const look = (outcome: "passed" | "failed" | "skipped", note = "") => void send(() => call(client.POST("/api/plans/{plan_id}/bench/look", { ...path, body: { step: step.id, outcome, note, who: "" } })));
  const beeps = step.unit === "Ω";
  return (
    <section className="bench-card" aria-label={`Step ${number}`}>
      <p className="muted">
        {number}. {gate}
        {step.condition ? `, in ${step.condition}` : ""}
      </p>
      <h2>{step.title}</h2>
      {caution && (
        <p className="bench-caution">
          <Mark kind="caution" /> {caution}
        </p>
      )}
      {step.red && (
        <p className="bench-probes">
          <span className="probe probe-red">red</span> {step.red} <span className="probe probe-black">black</span> {step.black}
        </p>
      )}
      <p>{step.how}</p>
      {step.typed && (
        <p>
          Should read: <strong>{step.expects}</strong>
        </p>
      )}
      {step.why && <p className="muted">{step.why}</p>}
      {entry && (
        <p role="status">
          <Outcome entry={entry} /> {entry.outcome}
          {entry.text ? `: ${entry.text}` : ""} {entry.note} <span className="muted">{new Date(entry.at).toLocaleString()}</span>
          {entry.again && " The build has changed since: do it again."}
        </p>
      )}
      <div className="bench-answer">
        {step.typed ? (
          <>
            <Input ref={field} autoFocus size="large" aria-label="reading" placeholder={beeps ? "0.3, 1.2k, OL, beep" : step.unit} suffix={step.unit} value={text} onChange={(event) => setText(event.target.value)} onPressEnter={() => read(text)} />
            <Button size="large" type="primary" disabled={busy} onClick={() => read(text)}>
              Enter
            </Button>
            {beeps && (
              <>
                <Button size="large" disabled={busy} onClick={() => read("beep")}>
                  It beeps
                </Button>
                <Button size="large" disabled={busy} onClick={() => read("silent")}>
                  Silent
                </Button>
              </>
            )}
          </>
        ) : (
          <>
            <Button size="large" type="primary" disabled={busy} onClick={() => look("passed")}>
              It is so
            </Button>
            <Button size="large" disabled={busy} onClick={() => look("failed")}>
              It is not
            </Button>
          </>
        )}
        <Button size="large" onClick={() => setSkipping(!skipping)} aria-expanded={skipping}>
          Skip…
        </Button>
      </div>
      {skipping && (
        <div className="bench-answer">
          <Input aria-label="reason for skipping" placeholder="why it is skipped" value={reason} onChange={(event) => setReason(event.target.value)} onPressEnter={() => look("skipped", reason)} />
          <Button disabled={busy} onClick={() => look("skipped", reason)}>
            Skip with this reason
          </Button>
        </div>
      )}
      {problem && <Alert type="error" title={problem} />}
      {meanings.length > 0 && <Meanings meanings={meanings} />}
    </section>
  );
}

function Meanings({ meanings }: { meanings: Meaning[] }) {
  return (
    <section aria-label="What it may be">
      <h3>What it may be</h3>
      <ol>
        {meanings.map((one) => (
          <li key={one.fault}>
            <Mark kind={one.dangerous ? "danger" : "caution"} /> <strong>{one.what}</strong> {Math.round(one.chance_frac * 100)} % · would read {one.reads} · under power: {one.under_power}
          </li>
        ))}
      </ol>
      <p className="muted">Do not connect the pack before it is found. Look at the last joint made first.</p>
    </section>
  );
}
