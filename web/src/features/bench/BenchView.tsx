/** The bench: one step at a time, what it should read beside what it reads, and what a wrong reading leads to here. */
import { useQueryClient } from "@tanstack/react-query";
import { Alert, Button, Input, Spin, type InputRef } from "antd";
import { useEffect, useMemo, useRef, useState } from "react";
import { usePlanActions, usePlanState } from "@/shared/plan/usePlan";
import "./bench.css";
import { EffortBar, Schools, type Level } from "./EffortBar";
import { GateLine } from "./GateLine";
import { MeterBar } from "./MeterBar";
import { ProbePicture } from "./ProbePicture";
import { SearchPanel, Suspects } from "./SearchPanel";
import { Outcome, StepCard } from "./StepCard";
import { SupplySwitch } from "./SupplySwitch";
import { TrainingPanel } from "./TrainingPanel";
import { readAs, settled, useBench, useEffort, useRecord, useWho, type Bench, type BenchStep, type Effort, type Judged, type NextTrial } from "./useBench";
import { Weights } from "./Weights";
import { useBenchKeys } from "./useBenchKeys";
import { useRack, useSample } from "./useMeter";
import { useTraining } from "./useTraining";
import { beep, say } from "./voice";

const ORDER: Level[] = ["quick", "usual", "thorough"];

export function BenchView() {
  const { view } = usePlanState();
  const training = useTraining();
  const found = useBench(training.id);
  const effort = useEffort();
  const [level, setLevel] = useKept<Level>(`yard-bench-level-${view.id}`, "usual");
  if (found.error) return <Alert type="error" title={found.error.message} />;
  if (!found.data) return <Spin size="small" description="Making the list from this build" />;
  const shown = effort.data?.level_of;
  const steps = shown ? found.data.steps.filter((one) => ORDER.indexOf(shown[one.id] ?? "thorough") <= ORDER.indexOf(level)) : found.data.steps;
  return <Steps bench={found.data} steps={steps} level={level} setLevel={setLevel} effort={effort.data} training={training} />;
}

interface StepsProps {
  bench: Bench;
  steps: BenchStep[];
  level: Level;
  setLevel: (level: Level) => void;
  effort: Effort | undefined;
  training: ReturnType<typeof useTraining>;
}

function Steps({ bench, steps, level, setLevel, effort, training }: StepsProps) {
  const { view } = usePlanState();
  const { edit } = usePlanActions();
  const queries = useQueryClient();
  const { who, setWho } = useWho();
  const { gates, done } = bench;
  const recording = useRecord(training.id, who);
  const bar = useRack();
  const [metering, setMetering] = useState(false);
  const [handsFree, setHandsFree] = useKept("yard-bench-handsfree", true);
  const [voice, setVoice] = useKept("yard-bench-voice", false);
  const [supply, setSupply] = useKept("yard-bench-supply", true);
  const [chosen, setChosen] = useKept<string | null>(`yard-bench-step-${view.id}-${training.id ?? 0}`, null);
  const [text, setText] = useState("");
  const [reason, setReason] = useState("");
  const [skipping, setSkipping] = useState(false);
  const [trial, setTrial] = useState<NextTrial | null>(null);
  const [measured, setMeasured] = useState<{ what: string; edits: Judged["measured"] } | null>(null);
  const field = useRef<InputRef>(null);
  const open = steps.find((one) => !settled(done[one.id]));
  const now = steps.find((one) => one.id === chosen) ?? open ?? steps[0];
  const at = now ? steps.indexOf(now) : 0;
  const ready = steps.filter((one) => settled(done[one.id])).length;
  const gate = gates.find((one) => one.gate === now?.gate);
  const place = gates.findIndex((one) => one.gate === now?.gate);
  const before = gates.slice(0, place).map((one) => one.gate);
  const left = gate?.powered ? steps.filter((one) => before.includes(one.gate) && !settled(done[one.id])).length : 0;
  const entry = now ? done[now.id] : undefined;
  const failed = entry?.outcome === "failed" && !entry.again && now?.typed === true;
  const supplied = now?.gate === "limiter" ? bar.rack?.supply : bar.rack?.meter;
  // A step that was gone back to is looked at: nothing enters itself there.
  const [looking, setLooking] = useState<string | null>(null);
  const { sample, problem } = useSample(now?.typed && now.watched ? now.id : null, "", training.id, Boolean(supplied) && bar.here(training.id) && !trial);

  const go = (step: string | null) => {
    setLooking(null);
    setChosen(step);
    setTrial(null);
    setSkipping(false);
    setText("");
    setReason("");
    recording.clear();
  };
  const back = () => {
    const before = steps[at - 1];
    if (at === 0 || !before) return;
    go(before.id);
    setLooking(before.id);
  };
  const judged = (answer: Judged) => {
    const passed = answer.entry.outcome !== "failed";
    setText("");
    if (voice) beep(passed);
    setMeasured(answer.measured.length > 0 ? { what: `${answer.entry.title}: ${answer.entry.text}`, edits: answer.measured } : null);
    // What passes makes room for the next; what fails stays until it is understood.
    if (passed) go(steps[at + 1]?.id ?? now?.id ?? null);
  };
  const read = (said: string, instrument = "typed") => now && void recording.reading(now.id, said, instrument, judged);
  const look = (outcome: "passed" | "failed" | "skipped", note = "") => now && void recording.look(now.id, outcome, note, judged);
  useAutomatic(
    now?.id ?? "",
    handsFree && !failed && !trial && !settled(entry) && looking !== now?.id && !recording.busy && now?.gate !== "meter" && sample?.steady === true,
    () => sample && read(sample.text, sample.instrument),
  );
  useEffect(() => {
    if (voice && now) say(`${now.title}. ${now.typed ? now.expects : ""}`);
  }, [voice, now]);

  useNewStep(now?.id ?? "");

  const keys = {
    y: () => (now?.typed ? now.unit === "Ω" && read("beep") : look("passed")),
    n: () => (now?.typed ? now.unit === "Ω" && read("silent") : look("failed")),
    s: () => setSkipping(true),
    b: back,
    ArrowLeft: back,
    ArrowRight: () => at < steps.length - 1 && go(steps[at + 1]?.id ?? null),
    m: () => setMetering(!metering),
    h: () => setHandsFree(!handsFree),
    v: () => setVoice(!voice),
    o: () => open && go(open.id),
    Enter: () => sample?.kept && !trial && !recording.busy && read(sample.text, sample.instrument),
    digit: () => field.current?.focus(),
  };
  useBenchKeys(keys);
  const pictured = trial ?? now;
  const picture = useMemo(
    () => (pictured?.red || pictured?.black ? <ProbePicture plan={view.plan} red={pictured.red ?? null} black={pictured.black ?? null} /> : null),
    [pictured, view.plan],
  );

  return (
    <div className="bench">
      <h2 className="for-print">
        Bench list: {view.build.name}, {view.plan.name}
      </h2>
      <div className="bench-lead">
        <strong>
          Step {at + 1} of {steps.length}, {ready} done
        </strong>
        <EffortBar effort={effort} level={level} choose={setLevel} />
      </div>
      <p className="sr-only" aria-live="polite">
        {now && `Step ${at + 1}: ${now.title}. ${now.typed ? `Should read ${now.expects}` : now.how}`}
      </p>
      <GateLine gates={gates} steps={steps} done={done} now={now?.gate} choose={go} />
      <TrainingPanel
        round={training.round}
        problem={training.problem}
        begin={(its) =>
          void training.begin(its, who).then(() => {
            void bar.refresh();
            setHandsFree(false);
          })
        }
        end={() => void training.end()}
        leave={training.leave}
      />
      <div className="bench-tools">
        <MeterBar
          bar={bar}
          training={training.id}
          handsFree={handsFree}
          setHandsFree={setHandsFree}
          voice={voice}
          setVoice={setVoice}
          open={metering}
          setOpen={setMetering}
        />
        <Input
          size="small"
          className="who"
          aria-label="signed by"
          placeholder="signed by"
          value={who}
          maxLength={80}
          onChange={(event) => setWho(event.target.value)}
        />
      </div>
      <div className="bench-main">
        <div>
          {now && !training.round?.ended_at && (
            <StepCard
              key={now.id}
              step={now}
              number={at + 1}
              gate={gate?.title ?? ""}
              caution={gate?.caution ?? ""}
              left={left}
              entry={entry}
              recording={recording}
              field={field}
              text={text}
              setText={setText}
              read={read}
              look={look}
              skipping={skipping}
              setSkipping={setSkipping}
              reason={reason}
              setReason={setReason}
              sample={trial ? null : sample}
              trouble={trial ? null : problem}
              measured={measured?.what ?? null}
              take={() =>
                measured &&
                void edit(measured.edits).then(
                  () => setMeasured(null),
                  () => undefined,
                )
              }
            >
              {bar.rack?.supply && (now.supply ?? bar.rack.supply_on) && (
                <SupplySwitch key={now.id} setting={now.supply} bar={bar} who={who} powered={gate?.powered ?? false} training={training.id} />
              )}
              {failed && <Suspects bench={bench} step={now.id} training={training.id} supply={supply} />}
            </StepCard>
          )}
          <div className="bench-steps">
            <Button disabled={at === 0} title="B" onClick={back}>
              Back
            </Button>
            <Button disabled={at >= steps.length - 1} title="→" onClick={() => go(steps[at + 1]?.id ?? null)}>
              Next
            </Button>
            {open && open.id !== now?.id && (
              <Button title="O" onClick={() => go(open.id)}>
                To the first open step
              </Button>
            )}
          </div>
        </div>
        <div className="bench-beside">
          {failed && now && (
            <SearchPanel
              bench={bench}
              step={now.id}
              training={training.id}
              supply={supply}
              setSupply={setSupply}
              recording={recording}
              metered={Boolean(bar.rack?.meter) && bar.here(training.id)}
              trial={trial}
              setTrial={setTrial}
              repaired={() => {
                go(null);
                void training.refresh();
                void queries.invalidateQueries({ queryKey: ["bench", view.id] });
              }}
            />
          )}
          {picture && <div className="bench-picture">{picture}</div>}
        </div>
      </div>
      <p className="bench-keys muted">
        Digits type a reading · Enter keeps the instrument&apos;s · Y it beeps, it is so · N silent, it is not · S skip · B back · → next · O first open · M
        meter · H hands-free · V voice
      </p>
      {effort && <Schools effort={effort} />}
      {effort && <Weights effort={effort} />}
      <AllSteps gates={gates} steps={steps} done={done} now={now} go={go} />
      <Troubles troubles={bench.troubles} />
      <p className="bench-record">
        Record: {bench.entries} {bench.entries === 1 ? "line" : "lines"}{" "}
        <Button size="small" href={`/api/plans/${view.id}/bench/record.csv`} disabled={bench.entries === 0}>
          as CSV
        </Button>{" "}
        <Button size="small" href={`/api/plans/${view.id}/bench/record.json`} disabled={bench.entries === 0}>
          as JSON
        </Button>{" "}
        <Button size="small" onClick={() => window.print()}>
          Print
        </Button>
      </p>
    </div>
  );
}

/** What failed, what was tried and what was mended, as it came: it is what the next one who opens this craft wants to know. */
function Troubles({ troubles }: { troubles: Bench["troubles"] }) {
  if (troubles.length === 0) return null;
  return (
    <section className="for-print bench-troubles" aria-label="What failed and what was mended">
      <h3>What failed and what was mended</h3>
      <ol>
        {troubles.map((one, k) => (
          <li key={k}>
            {one.at.slice(0, 16).replace("T", " ")} {one.outcome}: {one.title} {readAs(one)} {one.note} {one.who}
            {one.instrument && one.instrument !== "typed" && ` (${one.instrument})`}
          </li>
        ))}
      </ol>
    </section>
  );
}

/** A line to fill in, or what was found, with its unit. */
function printed(entry: Bench["done"][string] | undefined): string {
  if (entry === undefined) return "________";
  return [entry.outcome, readAs(entry), entry.note, entry.who, entry.at.slice(0, 16).replace("T", " ")].filter((part) => part).join(" ");
}

function AllSteps({
  gates,
  steps,
  done,
  now,
  go,
}: {
  gates: Bench["gates"];
  steps: BenchStep[];
  done: Bench["done"];
  now: BenchStep | undefined;
  go: (step: string) => void;
}) {
  return (
    <ol className="bench-gates" aria-label="All steps">
      {gates.map((one) => {
        const mine = steps.filter((step) => step.gate === one.gate);
        if (mine.length === 0) return null;
        return (
          <li key={one.gate}>
            <details open={one.gate === now?.gate}>
              <summary>
                {one.title}{" "}
                <span className="muted">
                  {mine.filter((step) => settled(done[step.id])).length} of {mine.length}
                </span>
              </summary>
              <ul>
                {mine.map((step) => (
                  <li key={step.id}>
                    <button type="button" className={step.id === now?.id ? "plain is-now" : "plain"} onClick={() => go(step.id)}>
                      <Outcome entry={done[step.id]} /> {step.title}
                    </button>
                    <span className="for-print">
                      {step.expects} · {printed(done[step.id])}
                    </span>
                  </li>
                ))}
              </ul>
            </details>
          </li>
        );
      })}
    </ol>
  );
}

/** A new step is drawn in place of the one that was answered: the focus goes along, and what reads the screen aloud with it. */
function useNewStep(step: string): void {
  const before = useRef(step);
  useEffect(() => {
    if (before.current === step) return;
    before.current = step;
    const title = document.querySelector<HTMLElement>(".bench-title");
    const has = document.activeElement;
    if (has === null || has === document.body) title?.focus({ preventScroll: true });
    title?.scrollIntoView({ block: "nearest" });
  }, [step]);
}

/** Once for each place: a steady reading enters itself. */
function useAutomatic(place: string, steady: boolean, enter: () => void): void {
  const last = useRef("");
  const keep = useRef(enter);
  useEffect(() => {
    keep.current = enter;
  });
  useEffect(() => {
    if (!steady) {
      if (last.current !== place) last.current = "";
      return;
    }
    if (last.current === place) return;
    last.current = place;
    keep.current();
  }, [place, steady]);
}

/** Kept in the browser, so that a crash comes back to the same step. */
function useKept<T>(name: string, first: T): [T, (value: T) => void] {
  const read = (): T => {
    const stored = window.localStorage.getItem(name);
    if (stored === null) return first;
    try {
      return JSON.parse(stored) as T;
    } catch {
      return first;
    }
  };
  const [held, setHeld] = useState(() => ({ name, value: read() }));
  const value = held.name === name ? held.value : read();
  const keep = (next: T) => {
    window.localStorage.setItem(name, JSON.stringify(next));
    setHeld({ name, value: next });
  };
  return [value, keep];
}
